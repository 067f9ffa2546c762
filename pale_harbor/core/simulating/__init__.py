"""Queries made up from records, for where nobody has judged any."""
