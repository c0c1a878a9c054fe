"""Gyms, who may sign in to them, and the cut between one gym and another."""
