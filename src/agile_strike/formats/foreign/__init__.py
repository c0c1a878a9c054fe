"""Files from elsewhere: any logger's table read as it is, and what its columns mean worked out, or asked."""
