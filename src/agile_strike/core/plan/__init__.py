"""A student's week: from wishes, free evenings and rules to what is done on which evening."""
