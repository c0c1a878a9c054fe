"""Agile Strike: strikes measured from motion sensors, and what a change of technique did to them."""
