"""Marking: the letters that matched."""

from pale_harbor.core.marking.stretches import Stretch, marks, merged

__all__ = ["Stretch", "marks", "merged"]
