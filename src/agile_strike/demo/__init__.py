"""The demo gym, made through the real import."""
