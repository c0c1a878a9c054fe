"""A bag, a unit and an evening, simulated with physics richer than the analysis assumes: data with a known truth."""
