"""Stemmers by language, each from its published description."""
