"""Tuning rankers on judged sets: dials, settings measured, findings, and what each part earns."""
