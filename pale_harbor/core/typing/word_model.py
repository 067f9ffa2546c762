"""How often words stand in a collection and in what visitors asked, and how often one follows another.

Source: F. Jelinek and R. Mercer, "Interpolated estimation of Markov source parameters from sparse data", 1980, for a
word after another: partly as often as the two follow each other, partly as often as the second stands anywhere.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import log
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.index.vocabulary import Vocabulary, vocabulary_of
from pale_harbor.core.text.sounding.metaphone import code

# What a word that nobody wrote counts: less than any that somebody did.
UNHEARD: Final = 0.001
FOLLOWING: Final = 0.7
# Of more pairs the most frequent are kept.
MOST_PAIRS: Final = 3_000_000
_SHORTEST_SOUND: Final = 4


@dataclass(frozen=True, eq=False)
class WordModel:
    """words: those of records; counts: float64 (words,), how often each stands in records, and in past queries, which
    count for as much in all; pairs: int64 (pairs,), ascending, first word · words + second one; pair_counts: float64
    (pairs,); sounds: the numbers of words by how they sound."""

    words: Vocabulary
    counts: NDArray[np.float64]
    pairs: NDArray[np.int64]
    pair_counts: NDArray[np.float64]
    sounds: Mapping[str, Sequence[int]]

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, a word's letters as code points reckoned in."""
        letters = self.words.letters.nbytes * 5 + self.words.firsts.nbytes * 2
        return letters + self.counts.nbytes + self.pairs.nbytes + self.pair_counts.nbytes + 80 * len(self.words)

    @cached_property
    def total(self) -> float:
        """Of all words together how often they stand anywhere."""
        return max(1.0, float(self.counts.sum()))

    def count(self, word: str) -> float:
        """How often a word stands anywhere, 0 for one that no record holds."""
        number = self.words.find(word)
        return 0.0 if number is None else float(self.counts[number])

    def log_chance(self, word: str, before: str | None = None) -> float:
        """How likely a word is after another one: a natural logarithm."""
        total = self.total
        alone = max(self.count(word), UNHEARD) / total
        if before is None:
            return log(alone)
        first = self.words.find(before)
        if first is None or self.counts[first] <= 0:
            return log(alone)
        second = self.words.find(word)
        together = 0.0 if second is None else self.pair_count(first, second)
        return log(FOLLOWING * min(1.0, together / float(self.counts[first])) + (1 - FOLLOWING) * alone)

    def pair_count(self, first: int, second: int) -> float:
        """How often two words follow each other."""
        key = first * len(self.words) + second
        at = int(np.searchsorted(self.pairs, key))
        return float(self.pair_counts[at]) if at < self.pairs.size and self.pairs[at] == key else 0.0

    def sounding_like(self, word: str) -> Sequence[int]:
        """The numbers of the words that sound like one."""
        return self.sounds.get(_sound(word), ())


@dataclass(frozen=True, slots=True)
class WordsInRow:
    """Words as they follow each other: numbers: int32 (words,), of `terms`; follows: bool (words,), whether the one
    before it stands right before it."""

    terms: Sequence[str]
    numbers: NDArray[np.int32]
    follows: NDArray[np.bool_]


def word_model(rows: Iterable[WordsInRow], past: Iterable[tuple[Sequence[str], int]] = ()) -> WordModel:
    """The model of a collection's words and of past queries, each as words with how often it was asked.

    Past queries tell of words that records hold alone, and count for as much as all records together.

    >>> row = WordsInRow(["fog", "bell"], np.array([0, 1, 0], np.int32), np.array([False, True, False]))
    >>> model = word_model([row], [(["fog", "bell"], 3), (["frog"], 9)])
    >>> model.count("fog"), model.count("bell"), model.count("frog"), model.pair_count(1, 0)
    (3.5, 2.5, 0.0, 2.5)
    """
    own = list(rows)
    terms = sorted({term for row in own for term in row.terms})
    place_of = {term: place for place, term in enumerate(terms)}
    size = len(terms)
    counts = np.zeros(size)
    keys: list[NDArray[np.int64]] = []
    for row in own:
        places = np.array([place_of[term] for term in row.terms], np.int64)[row.numbers]
        counts += np.bincount(places, minlength=size)
        keys.append((places[:-1] * size + places[1:])[row.follows[1:]])
    pairs, times = np.unique(np.concatenate([np.zeros(0, np.int64), *keys]), return_counts=True)
    if pairs.size > MOST_PAIRS:
        # What follows once says the least; of those that are as frequent the first in the order of letters stay.
        kept = np.sort(np.argsort(-times, kind="stable")[:MOST_PAIRS])
        pairs, times = pairs[kept], times[kept]
    pair_counts = times.astype(np.float64)
    asked, asked_pairs = _asked(past, place_of)
    if asked:
        rate = float(counts.sum()) / sum(asked.values())
        for place, many in asked.items():
            counts[place] += rate * many
        both = np.union1d(pairs, np.array([first * size + second for first, second in asked_pairs], np.int64))
        together = np.zeros(both.size)
        together[np.searchsorted(both, pairs)] = pair_counts
        for (first, second), many in asked_pairs.items():
            together[np.searchsorted(both, first * size + second)] += rate * many
        pairs, pair_counts = both, together
    sounds: dict[str, list[int]] = {}
    for place, term in enumerate(terms):
        if sound := _sound(term):
            sounds.setdefault(sound, []).append(place)
    return WordModel(vocabulary_of(terms), counts, pairs, pair_counts, sounds)


def _asked(
    past: Iterable[tuple[Sequence[str], int]], place_of: Mapping[str, int]
) -> tuple[dict[int, float], dict[tuple[int, int], float]]:
    asked: dict[int, float] = {}
    pairs: dict[tuple[int, int], float] = {}
    for words, times in past:
        before: int | None = None
        for word in words:
            place = place_of.get(word)
            if place is not None:
                asked[place] = asked.get(place, 0.0) + times
                if before is not None:
                    pairs[before, place] = pairs.get((before, place), 0.0) + times
            before = place
    return asked, pairs


def _sound(word: str) -> str:
    """How a word of Latin letters sounds; empty for others and for short ones, of which too many sound alike."""
    if len(word) < _SHORTEST_SOUND or not word.isascii() or not word.isalpha():
        return ""
    return code(word)
