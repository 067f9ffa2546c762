"""Spaces over HTTP."""
