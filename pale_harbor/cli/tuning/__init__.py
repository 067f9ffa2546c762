"""Tuning on the command line."""
