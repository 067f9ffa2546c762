"""Searching over HTTP."""
