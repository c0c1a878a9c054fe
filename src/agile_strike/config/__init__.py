"""Settings, addresses and servers."""
