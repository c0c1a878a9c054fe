"""The web API: typed schemas over the services."""
