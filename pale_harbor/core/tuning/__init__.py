"""Tuning: dials and their values, ways to search through them, folds, and what holds on queries held out."""
