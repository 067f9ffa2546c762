"""The figures that say what a chain does to a collection."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class WordCount:
    """A word and how often it stands in the collection."""

    word: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Merge:
    """Different words that share one term.

    word_count: all of them; words: the most frequent ones. unlike: the two whose company is least
    alike, and how alike it is beside that of each word with itself, from 0 to 1; None where the words are
    too few to tell. suspicion: 0 to 1, greater the less alike their company is and the surer that is.
    """

    term: str
    word_count: int
    words: tuple[WordCount, ...]
    unlike: tuple[str, str, float] | None
    suspicion: float


@dataclass(frozen=True, slots=True)
class StageEffect:
    """One stage: how many values it changed."""

    stage: str
    changed: int


@dataclass(frozen=True, slots=True, kw_only=True)
class IndexBytes:
    """What the index takes up, by part."""

    terms: int
    postings: int
    positions: int
    letters: int
    lengths: int

    @property
    def total(self) -> int:
        """All parts together."""
        return self.terms + self.postings + self.positions + self.letters + self.lengths


@dataclass(frozen=True, slots=True, kw_only=True)
class Consequences:
    """What a chain makes of the records looked at.

    records: looked at; records_in_all: of the collection; values, text_bytes: of the field, in UTF-8.
    vocabulary: distinct terms; words: distinct words before the token stages, whatever their case.
    tokens_per_record: mean, median and most, over records that have the field. index_bytes: of what
    was looked at, scaled up to the whole collection where that is a sample. most_merged: by how many
    words share a term; suspicious: by suspicion. dropped: words that leave no token behind.
    empty_values: (key, text) of values that leave no token, the first few; empty_count: of all.
    """

    records: int
    records_in_all: int
    values: int
    text_bytes: int
    vocabulary: int
    words: int
    tokens: int
    tokens_per_record: tuple[float, float, int]
    index_bytes: IndexBytes
    most_merged: tuple[Merge, ...]
    suspicious: tuple[Merge, ...]
    merging_terms: int
    dropped: tuple[WordCount, ...]
    dropped_words: int
    dropped_tokens: int
    empty_values: tuple[tuple[str, str], ...]
    empty_count: int
    stages: tuple[StageEffect, ...]

    @property
    def is_sample(self) -> bool:
        """Whether some records were not looked at."""
        return self.records < self.records_in_all


@dataclass(frozen=True, slots=True, kw_only=True)
class Gathered:
    """The consequences, and what the chain doctor needs beside them.

    surfaces: how often each word stands there, as it is written; term_records: for each term, how many records hold
    it; languages: how many values are likely in each.
    """

    consequences: Consequences
    surfaces: Mapping[str, int]
    term_records: Mapping[str, int]
    languages: Mapping[str, int]
