"""Spaces made, filled and looked into."""
