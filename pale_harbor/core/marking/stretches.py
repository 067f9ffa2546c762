"""Which letters of a field a query has matched."""

from collections.abc import Iterable

import numpy as np

from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.ranking.found import phrase_places, terms_held
from pale_harbor.core.ranking.prepared import Kind, PreparedQuery, PreparedReading, QueryTerm

Stretch = tuple[int, int]


def marks(query: PreparedQuery, record_id: int) -> dict[str, list[Stretch]]:
    """For each field the matched stretches of a record's value, over all its readings.

    Start and end in code points; in order, and never overlapping. Several values of a field count
    as laid end to end, one code point apart.
    """
    by_field: dict[str, list[Stretch]] = {}
    for prepared in query.readings:
        for term in prepared.terms:
            if term.worth:
                stretches = _stretches(prepared, term, record_id)
                by_field.setdefault(prepared.reading.field, []).extend(stretches)
    return {field: merged(stretches) for field, stretches in by_field.items() if stretches}


def _stretches(prepared: PreparedReading, term: QueryTerm, record_id: int) -> list[Stretch]:
    index = prepared.index
    match term.kind:
        case Kind.NEAR | Kind.ENOUGH:
            return []
        case Kind.BEGINNING | Kind.ENDING:
            held = () if term.numbers is None else terms_held(index, term.numbers, record_id).tolist()
            return [stretch for number in held for stretch in index.stretches_of_number(number, record_id)]
        case Kind.PHRASE:
            return _phrase_stretches(index, term, record_id)
        case Kind.TERM | Kind.SPELLING | Kind.SIMILAR:
            return index.stretches(term.text, record_id)


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


def merged(stretches: Iterable[Stretch]) -> list[Stretch]:
    """The same letters as stretches that neither overlap nor touch, in order.

    >>> merged([(4, 6), (0, 2), (5, 9)])
    [(0, 2), (4, 9)]
    """
    result: list[Stretch] = []
    for start, end in sorted(stretches):
        if result and start <= result[-1][1]:
            result[-1] = (result[-1][0], max(result[-1][1], end))
        else:
            result.append((start, end))
    return result
