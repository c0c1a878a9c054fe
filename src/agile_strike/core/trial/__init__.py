"""Did the change help? The comparison of levels of a factor, its interval and its verdict."""
