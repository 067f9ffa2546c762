"""What an index takes up of many times the records: what grows as they do, and what as the vocabulary does."""

from collections.abc import Sequence
from dataclasses import dataclass

from pale_harbor.core.arrays import Mask
from pale_harbor.core.growing.heaps import HeapsLaw, growth_of, heaps_law
from pale_harbor.core.index import ReadingIndex


@dataclass(frozen=True, slots=True)
class ReadingGrowth:
    """How one reading grows. by_records: the bytes that grow as records do; a_term: the bytes that each term takes up
    beside its letters; tokens: of now; terms, letters: by tokens."""

    by_records: float
    a_term: float
    tokens: float
    terms: HeapsLaw
    letters: HeapsLaw

    def terms_at(self, times: float) -> float:
        """How many terms there are of so many times the records."""
        return self.terms.at(self.tokens * times)


def reading_growth(parts: Sequence[tuple[ReadingIndex, Mask | None]], seed: int = 0) -> ReadingGrowth:
    """How a reading grows, from its indexes with which of their records live.

    The vocabulary is fitted on the largest part: others are small beside it.
    """
    index, alive = max(parts, key=lambda part: part[0].occurrence_count)
    growth = growth_of(index, alive, seed)
    a_term = float(index.posting_firsts.itemsize + index.vocabulary.firsts.itemsize)
    by_records = sum(one.index_bytes - _vocabulary_bytes(one, a_term) for one, _ in parts)
    tokens = float(growth.tokens[-1]) if growth.tokens.size else 0.0
    all_tokens = float(sum(int(one.lengths[... if living is None else living].sum()) for one, living in parts))
    return ReadingGrowth(
        by_records=float(by_records),
        a_term=a_term,
        tokens=max(tokens, all_tokens),
        terms=heaps_law(growth.tokens, growth.terms),
        letters=heaps_law(growth.tokens, growth.letters),
    )


def bytes_at(growth: ReadingGrowth, times: float) -> float:
    """What a reading's index takes up of so many times the records."""
    tokens = growth.tokens * times
    return growth.by_records * times + growth.terms.at(tokens) * growth.a_term + growth.letters.at(tokens)


def _vocabulary_bytes(index: ReadingIndex, a_term: float) -> float:
    return index.vocabulary.letters.nbytes + len(index.vocabulary) * a_term
