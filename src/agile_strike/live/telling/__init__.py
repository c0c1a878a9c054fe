"""What processes tell each other: over LISTEN and NOTIFY, and by the queue."""
