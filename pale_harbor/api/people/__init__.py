"""Signing in, people and members over HTTP."""
