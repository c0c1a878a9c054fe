"""Intake: a file that a coach brought becomes recordings and strikes, whole or not at all."""
