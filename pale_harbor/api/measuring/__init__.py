"""Measuring and comparing over HTTP."""
