"""A student and a bag in a general physics engine: dynamics that the analysis shares no formula with."""
