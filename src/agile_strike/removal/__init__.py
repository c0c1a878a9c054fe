"""Removal: what a gym takes away, and takes back; and the erasing of a person."""
