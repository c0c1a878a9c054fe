"""A student's evening: made before anything is recorded, with what is to be thrown in it."""
