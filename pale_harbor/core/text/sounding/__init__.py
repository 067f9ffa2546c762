"""Codes of how words sound, one published way each."""
