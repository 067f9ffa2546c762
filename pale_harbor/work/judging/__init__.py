"""Judged sets, tasks, what judges say, and what is expected."""
