"""Tuning over HTTP."""
