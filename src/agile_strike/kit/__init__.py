"""Kit: bags and the history of each."""
