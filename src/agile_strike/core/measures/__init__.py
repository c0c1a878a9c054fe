"""What the measures are: one list for the bag, one for the student behind the strike."""
