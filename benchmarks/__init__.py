"""Figures of speed, beside something known: `./paleharbor bench`. Not tests: nothing here can fail."""
