"""Judged sets and judging over HTTP."""
