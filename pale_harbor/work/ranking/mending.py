"""A query as spelling slack mended it: for spaces, which otherwise make nothing of a misspelled word."""

from collections.abc import Sequence
from typing import Any, Final

from pale_harbor.core.query import ParsedQuery, meant_text
from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.ranking import Placed, PreparedQuery, TermKind
from pale_harbor.core.ranking.plan import WordRun
from pale_harbor.core.ranking.prepared import QueryTerm
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.records.values import texts_of

_NEAR: Final = (TermKind.SPELLING, TermKind.SIMILAR)


def mended_text(opened: OpenCollection, parsed: ParsedQuery, prepared: Sequence[PreparedQuery]) -> str | None:
    """What a query means, each word that no record holds replaced by the nearest one that slack found; None where none
    is.

    Of several that are as near the most frequent counts, and of those the first. A word stands as a record has it.
    """
    said = meant_text(parsed)
    mended = ""
    end = 0
    instead = _instead(opened, prepared)
    for first, last in word_stretches(said):
        mended += said[end:first] + instead.get(said[first:last], said[first:last])
        end = last
    mended += said[end:]
    return None if mended == said else mended


def _instead(opened: OpenCollection, prepared: Sequence[PreparedQuery]) -> dict[str, str]:
    found: dict[str, str] = {}
    for leaf in prepared[0].plan.leaves if prepared else ():
        if not isinstance(leaf, WordRun) or not leaf.scored:
            continue
        for first, last, bit in leaf.words:
            near = _nearest(prepared, bit)
            if near is not None:
                found[leaf.text[first:last]] = _as_written(opened, prepared, *near)
    return found


def _nearest(prepared: Sequence[PreparedQuery], bit: int) -> tuple[int, QueryTerm] | None:
    """The reading and the term that stand nearest to a word which no record holds; None where one does or none is."""
    if bit < 0:
        return None
    terms = [
        (number, term)
        for number, reading in enumerate(prepared[0].readings)
        for term in reading.terms
        if term.bits >> bit & 1
    ]
    if any(term.kind not in _NEAR and term.holding for _, term in terms):
        return None
    near = [(number, term) for number, term in terms if term.kind in _NEAR and term.holding]
    return min(near, key=lambda one: (-one[1].worth, -one[1].holding, one[0]), default=None)


def _as_written(opened: OpenCollection, prepared: Sequence[PreparedQuery], number: int, term: QueryTerm) -> str:
    """A term's letters in the first living record that holds it; the term itself where that is gone."""
    reading = prepared[0].readings[number].reading
    key = ("as written", opened.state, reading.field, reading.chain.identity, term.text)
    known = opened.memory.questions.get(key)
    if known is None:
        known = _look_up(opened, prepared, number, term.text) or term.text
        opened.memory.questions.put(key, known)
    return known


def _look_up(opened: OpenCollection, prepared: Sequence[PreparedQuery], number: int, term: str) -> str | None:
    for slab, query in enumerate(prepared):
        index = query.readings[number].index
        postings = index.postings(term)
        if postings is None:
            continue
        ids = postings.record_ids if query.alive is None else postings.record_ids[query.alive[postings.record_ids]]
        if not ids.size:
            continue
        (stretches,) = index.stretches_in(term, ids[:1])
        key = opened.key(Placed(slab, int(ids[0]), 0.0))
        with opened.pool.connection() as connection:
            records = records_with_keys(connection, opened.collection.id, [key])
        values: dict[str, Any] = records[key].field_values if key in records else {}
        # Several values of a field count as laid end to end, one code point apart.
        text = " ".join(texts_of(values.get(query.readings[number].reading.field)))
        start, end = stretches[0]
        return text[start:end] or None
    return None
