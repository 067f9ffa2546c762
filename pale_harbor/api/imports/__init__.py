"""Imports over HTTP."""
