"""Searching with a ranker, asking why, and why not."""
