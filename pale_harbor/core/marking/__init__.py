"""Marking: the letters that matched, and the passages that hold them best."""

from pale_harbor.core.marking.passages import MarkedWord, TextPassage, best_passages
from pale_harbor.core.marking.stretches import marked_words, marks, merge_stretches, word_weights
from pale_harbor.core.marking.utf16 import from_utf16, in_utf16

__all__ = [
    "MarkedWord",
    "TextPassage",
    "best_passages",
    "from_utf16",
    "in_utf16",
    "marked_words",
    "marks",
    "merge_stretches",
    "word_weights",
]
