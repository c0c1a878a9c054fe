"""A take as a recording: chunks, the batch over all of it, and its end."""
