"""A student over weeks: what is typical of an evening, the band of chance, and what happened at a change."""
