"""What the screens by the bag show."""
