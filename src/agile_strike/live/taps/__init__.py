"""What people say at the bag, each with its own instant: who stands there, sets, rounds, calls."""
