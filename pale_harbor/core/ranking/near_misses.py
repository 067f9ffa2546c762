"""What a record holds instead of a word of the query: the nearest terms, and how they are near."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.index.near_terms import edit_distance
from pale_harbor.core.index.similar_terms import trigram_similarity
from pale_harbor.core.text import Token
from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.stages.stem import STEMMERS

# Farther than these a term is no near miss.
FARTHEST: Final = 3
LEAST_SIMILAR: Final = 0.3
MOST_SHOWN: Final = 4
# Of a long record so many distinct terms are looked at.
MOST_TERMS: Final = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class NearMiss:
    """A term that a record has in a reading. edits: from the word's term; similarity: of their trigrams.

    stem: the language whose stemmer makes the two one, None where none of those asked does. reading: its
    number; said: the letters of the record that it came from.
    """

    reading: int
    term: str
    said: str
    edits: int
    similarity: float
    stem: Language | None


def near_misses(
    terms: Sequence[str], reading: int, tokens: Iterable[tuple[str, Token]], languages: Sequence[Language]
) -> list[NearMiss]:
    """The nearest terms of a record in one reading, the nearest first.

    terms: what the reading makes of a word of the query; tokens: each with the value it came from.
    """
    distinct: dict[str, str] = {}
    for value, token in tokens:
        if len(distinct) < MOST_TERMS:
            distinct.setdefault(token.text, value[token.start : token.end])
    found: dict[str, NearMiss] = {}
    for term in terms:
        for other, said in distinct.items():
            miss = _miss(term, other, said, reading, languages)
            known = found.get(other)
            if miss is not None and (known is None or _rank(miss) < _rank(known)):
                found[other] = miss
    return sorted(found.values(), key=_rank)[:MOST_SHOWN]


def _miss(term: str, other: str, said: str, reading: int, languages: Sequence[Language]) -> NearMiss | None:
    if term == other:
        return None
    similarity = trigram_similarity(term, other)
    near = abs(len(term) - len(other)) <= FARTHEST and max(len(term), len(other)) <= 60
    edits = edit_distance(term, other) if near else max(len(term), len(other))
    stem = next((one for one in languages if STEMMERS[one](term) == STEMMERS[one](other)), None)
    # Short words are all near each other: two thirds of the letters have to stay.
    close = edits <= min(FARTHEST, max(1, len(term) // 3))
    if not close and similarity < LEAST_SIMILAR and stem is None:
        return None
    return NearMiss(reading=reading, term=other, said=said, edits=edits, similarity=similarity, stem=stem)


def _rank(miss: NearMiss) -> tuple[object, ...]:
    return (miss.stem is None, miss.edits, -miss.similarity, miss.term)
