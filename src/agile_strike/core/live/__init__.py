"""At the bag, while the evening goes on: figures for now, the clocks of packets, call-outs."""
