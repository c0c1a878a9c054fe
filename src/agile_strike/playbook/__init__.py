"""Schools and their checks: shipped, and edited by the gym."""
