"""Spaces and the vectors that are kept."""
