"""Capture: uploads, recordings and raw samples."""
