"""Whose a packet and a strike is, by instants of one clock."""
