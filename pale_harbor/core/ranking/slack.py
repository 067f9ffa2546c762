"""Spelling slack: which terms of the collection may stand in for a word of the query."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.index.near_terms import near_terms
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.index.similar_terms import similar_terms
from pale_harbor.core.ranking.ranker import SlackWhen, Spelling

# More candidates than these are not even counted: the nearest come first.
MOST_CONSIDERED: Final = 500


@dataclass(frozen=True, slots=True)
class Candidate:
    """A term that may stand in. edits: 0 for one that only shares trigrams. worth: below 1."""

    text: str
    edits: int
    worth: float


def candidates_for(
    term: str,
    holding: int,
    spelling: Spelling,
    indexes: Sequence[ReadingIndex],
) -> list[Candidate] | None:
    """Terms near a term of the query, in all slabs, the nearest first; None where it is given no slack.

    holding: living records that hold the term itself.
    """
    if spelling.when is SlackWhen.MISSING and holding:
        return None
    if spelling.when is SlackWhen.RARE and holding >= spelling.rare:
        return None
    edits = spelling.edits_for(term)
    has_digits = any(letter.isdigit() for letter in term)
    if edits == 0 and (spelling.similar is None or has_digits):
        return None
    worth: dict[str, Candidate] = {}
    for index in indexes:
        vocabulary = index.vocabulary
        if spelling.similar is not None and not has_digits:
            numbers, similarity = similar_terms(vocabulary, term, spelling.similar)
            for number, similar in zip(numbers.tolist(), similarity.tolist(), strict=True):
                _keep(worth, Candidate(vocabulary.term(number), 0, similar))
        if edits:
            numbers, distances = near_terms(vocabulary, term, edits, spelling.fixed_start)
            for number, distance in zip(numbers.tolist(), distances.tolist(), strict=True):
                _keep(worth, Candidate(vocabulary.term(number), distance, spelling.worth**distance))
    worth.pop(term, None)
    return sorted(worth.values(), key=lambda one: (-one.worth, one.text))[:MOST_CONSIDERED]


def _keep(worth: dict[str, Candidate], one: Candidate) -> None:
    """A term found in two ways counts as what it is worth most; edits are told before trigrams."""
    known = worth.get(one.text)
    if known is None or (one.worth, one.edits) > (known.worth, known.edits):
        worth[one.text] = one
