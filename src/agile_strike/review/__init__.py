"""Review: strikes with their measures, and what the coach says of them."""
