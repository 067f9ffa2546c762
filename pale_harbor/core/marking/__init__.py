"""Marking: the letters that matched."""

from pale_harbor.core.marking.stretches import marks, merged

__all__ = ["marks", "merged"]
