"""Where hubs come in: stations and their tokens, what is told to a hub, packets and their commits."""
