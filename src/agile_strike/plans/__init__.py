"""A student's weeks ahead: what is wished for, what was proposed, what a coach made of it."""
