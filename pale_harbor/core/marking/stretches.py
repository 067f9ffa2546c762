"""Which letters of a field a query has matched."""

from collections.abc import Iterable, Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.marking.passages import MarkedWord
from pale_harbor.core.ranking.found import phrase_places, terms_held
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading, QueryTerm, TermKind
from pale_harbor.core.stretch import Stretch


def marks(query: PreparedQuery, record_ids: Sequence[int]) -> list[dict[str, list[Stretch]]]:
    """For each record the matched stretches of its values by field, over all readings.

    Start and end in code points; in order, and never overlapping. Several values of a field count
    as laid end to end, one code point apart.
    """
    return [
        {field: merge_stretches((one.start, one.end) for one in words) for field, words in own.items()}
        for own in marked_words(query, record_ids)
    ]


def marked_words(query: PreparedQuery, record_ids: Sequence[int]) -> list[dict[str, list[MarkedWord]]]:
    """For each record what was matched in its values by field, over all readings, each with the query's words that
    matched there; in order, and possibly overlapping."""
    wanted = np.array(record_ids, np.int32)
    found: list[dict[str, list[MarkedWord]]] = [{} for _ in record_ids]
    for prepared in query.readings:
        for term in prepared.terms:
            if term.worth and term.found is not None:
                for own, stretches in zip(found, _stretches(prepared, term, wanted), strict=True):
                    if stretches:
                        words = own.setdefault(prepared.reading.field, [])
                        words += [MarkedWord(start, end, term.bits) for start, end in stretches]
    return [
        {field: sorted(words, key=lambda one: (one.start, one.end, one.bits)) for field, words in own.items()}
        for own in found
    ]


# How near words stand, and what the first records added, is no word that anybody typed.
_OF_OTHERS: Final = (TermKind.NEAR, TermKind.FEEDBACK)


def word_weights(query: PreparedQuery) -> dict[int, float]:
    """How rare each word of a query is, by its bit: the greatest idf of what any reading looks for by it."""
    weights: dict[int, float] = {}
    for prepared in query.readings:
        for term in prepared.terms:
            for bit in range(term.bits.bit_length()):
                if term.bits >> bit & 1 and term.worth and term.kind not in _OF_OTHERS:
                    weights[bit] = max(weights.get(bit, 0.0), term.idf)
    return weights


def _stretches(prepared: PreparedReading, term: QueryTerm, record_ids: NDArray[np.int32]) -> list[list[Stretch]]:
    index = prepared.index
    match term.kind:
        # Nobody typed what the first records added.
        case TermKind.NEAR | TermKind.ENOUGH | TermKind.FEEDBACK:
            return [[] for _ in range(record_ids.size)]
        case TermKind.BEGINNING | TermKind.ENDING:
            return [_open_stretches(index, term, record_id) for record_id in record_ids.tolist()]
        case TermKind.PHRASE:
            return [_phrase_stretches(index, term, record_id) for record_id in record_ids.tolist()]
        case TermKind.TERM | TermKind.SYNONYM | TermKind.SPELLING | TermKind.SIMILAR:
            return index.stretches_in(term.text, record_ids)


def _open_stretches(index: ReadingIndex, term: QueryTerm, record_id: int) -> list[Stretch]:
    """Where words stand that begin or end so: the letters that were typed, and the whole word where a chain made other
    letters of it, or where it begins so but for an edit."""
    held = () if term.numbers is None else terms_held(index, term.numbers, record_id).tolist()
    typed = len(term.text) - 1
    found: list[Stretch] = []
    for number in held:
        letters = len(index.vocabulary.term(number))
        for start, end in index.stretches_of_number(number, record_id):
            if term.edits or not typed or end - start != letters:
                found.append((start, end))
            else:
                found.append((start, start + typed) if term.kind is TermKind.BEGINNING else (end - typed, end))
    return found


def _phrase_stretches(index: ReadingIndex, term: QueryTerm, record_id: int) -> list[Stretch]:
    """Where a phrase stands, from its first letter to its last."""
    known = [(postings, place) for word, place in term.places if (postings := index.postings(word)) is not None]
    if len(known) < len(term.places):
        return []
    record_ids, firsts, positions = phrase_places(index, known)
    at = int(np.searchsorted(record_ids, record_id))
    if at == record_ids.size or record_ids[at] != record_id:
        return []
    begins = set(positions[firsts[at] : firsts[at + 1]].tolist())
    starts = _letters_at(index, term.places[0][0], record_id, begins)
    ends = _letters_at(index, term.places[-1][0], record_id, {begin + term.places[-1][1] for begin in begins})
    return [(start, end) for (start, _), (_, end) in zip(starts, ends, strict=True)]


def _letters_at(index: ReadingIndex, term: str, record_id: int, positions: set[int]) -> list[Stretch]:
    placed = zip(index.positions_of(term, record_id), index.stretches(term, record_id), strict=True)
    return [stretch for position, stretch in placed if position in positions]


def merge_stretches(stretches: Iterable[Stretch]) -> list[Stretch]:
    """The same letters as stretches that neither overlap nor touch, in order.

    >>> merge_stretches([(4, 6), (0, 2), (5, 9)])
    [(0, 2), (4, 9)]
    """
    result: list[Stretch] = []
    for start, end in sorted(stretches):
        if result and start <= result[-1][1]:
            result[-1] = (result[-1][0], max(result[-1][1], end))
        else:
            result.append((start, end))
    return result
