"""Rows on their way in, and where they come from."""
