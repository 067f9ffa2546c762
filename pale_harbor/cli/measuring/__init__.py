"""Commands that measure and compare."""
