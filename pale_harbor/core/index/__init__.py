"""Index: sorted terms and postings of one reading, and how they are built."""

from pale_harbor.core.index.appending import appended_index
from pale_harbor.core.index.builder import VALUE_GAP, build_index
from pale_harbor.core.index.merging import merged_index
from pale_harbor.core.index.reading_index import Postings, ReadingIndex
from pale_harbor.core.index.vocabulary import Vocabulary, vocabulary_of

__all__ = [
    "VALUE_GAP",
    "Postings",
    "ReadingIndex",
    "Vocabulary",
    "appended_index",
    "build_index",
    "merged_index",
    "vocabulary_of",
]
