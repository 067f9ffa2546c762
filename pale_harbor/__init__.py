"""Pale Harbor: a workbench for search relevance, where no change is made blind."""

__version__ = "0.1.0"
