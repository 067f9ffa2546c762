"""The terms around a word: those that spelling slack takes, and those that it would take if it were given more."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from pale_harbor.core.index.near_terms import near_terms
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.index.similar_terms import similar_terms, trigram_similarity
from pale_harbor.core.ranking.prepared import Alive

MOST_EDITS: Final = 2
LEAST_SIMILAR: Final = 0.2


@dataclass(frozen=True, slots=True)
class TermAround:
    """A term near a word.

    edits: how many letters are left out, put in, exchanged or have changed places, None for more than 2; similarity:
    by trigrams, 0 to 1; agreeing: letters at the beginning that are the same; holding: living records that hold it.
    """

    text: str
    edits: int | None
    similarity: float
    agreeing: int
    holding: int


def terms_around(term: str, indexes: Sequence[ReadingIndex], alive: Sequence[Alive | None]) -> list[TermAround]:
    """The terms within two edits of a word, or at least a fifth similar to it, in all slabs, the nearest first.

    indexes, alive: of one reading, by slab. The word itself is not among them.

    >>> from pale_harbor.core.index import build_index
    >>> from pale_harbor.core.text import chain_of
    >>> index = build_index([["harpoon harpoons"], ["harbor"]], chain_of("words"))
    >>> [(one.text, one.edits, round(one.similarity, 2)) for one in terms_around("harpon", [index], [None])]
    [('harpoon', 1, 0.77), ('harpoons', 2, 0.57), ('harbor', 2, 0.33)]
    """
    edits: dict[str, int] = {}
    found: dict[str, int] = {}
    for index, living in zip(indexes, alive, strict=True):
        vocabulary = index.vocabulary
        numbers, distances = near_terms(vocabulary, term, MOST_EDITS)
        for number, distance in zip(numbers.tolist(), distances.tolist(), strict=True):
            edits[vocabulary.term(number)] = distance
        similar, _ = similar_terms(vocabulary, term, LEAST_SIMILAR)
        for number in {*numbers.tolist(), *similar.tolist()}:
            text = vocabulary.term(number)
            postings = index.postings(text)
            holding = 0 if postings is None else postings.record_ids.size
            if living is not None and postings is not None:
                holding = int(np.count_nonzero(living[postings.record_ids]))
            found[text] = found.get(text, 0) + holding
    around = [
        TermAround(text, edits.get(text), trigram_similarity(term, text), _agreeing(term, text), holding)
        for text, holding in found.items()
        if holding and text != term
    ]
    return sorted(around, key=lambda one: (-one.similarity, one.edits if one.edits is not None else 9, one.text))


def _agreeing(term: str, text: str) -> int:
    """How many letters at the beginning are the same."""
    differing = (i for i, (one, other) in enumerate(zip(term, text, strict=False)) if one != other)
    return next(differing, min(len(term), len(text)))
