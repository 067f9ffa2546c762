"""Marking: the letters that matched."""

from pale_harbor.core.marking.stretches import marks, merge_stretches

__all__ = ["marks", "merge_stretches"]
