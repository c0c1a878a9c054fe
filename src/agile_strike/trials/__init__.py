"""Trials: what a coach changes, how it is tested, what came of it, what was decided; weeks and class."""
