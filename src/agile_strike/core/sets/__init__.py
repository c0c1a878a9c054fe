"""What is thrown of a set: call-outs, counts shared between the sides, bursts that keep their force."""
