"""Runs, the diary, and rankers that are not ours."""
