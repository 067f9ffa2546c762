"""Rankers, and what they depend on."""
