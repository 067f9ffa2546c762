"""Feedback: a question's own first records read again, and the terms that they add to it."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from pale_harbor.core.ranking import CombineHow, Placed, PreparedQuery, best, join
from pale_harbor.core.ranking.fed_back import can_be_fed, holding_of, with_feedback
from pale_harbor.core.ranking.feedback import RecordTerms, feedback_terms
from pale_harbor.core.ranking.pooling import pool_terms
from pale_harbor.core.text.chain import Chain
from pale_harbor.core.text.chain_choice import ChainChoice, record_chain_of
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Asked, FedBack, FedTerm, filter_records, score_records
from pale_harbor.work.records.values import language_in, texts_of


def feed_back(opened: OpenCollection, asked: Asked) -> Asked:
    """The question with what its first records by words add to it.

    What the visitor narrows the list to does not change which records those are: they are of the whole list.
    """
    feedback = asked.ranker.feedback
    if feedback is None or not asked.plan.leaves or not asked.prepared:
        return asked
    fed = [
        number
        for number, one in enumerate(asked.prepared[0].readings)
        if can_be_fed(one) and feedback.field in (None, one.reading.field)
    ]
    rows = _first_rows(opened, asked, feedback.records) if fed else []
    if not rows:
        return replace(asked, fed_back=FedBack((), ()))
    slabs = opened.looked_up(asked.plan, asked.question.language).dressed(asked.plan)
    held = _terms_held(
        opened, [(slabs[0].readings[one].reading.field, slabs[0].readings[one].reading.chain) for one in fed], rows
    )
    added = {
        number: feedback_terms(
            feedback,
            [RecordTerms(row.score, own) for row, own in zip(rows, terms, strict=True) if own],
            slabs[0].readings[number].statistics.record_count,
            lambda term, number=number: holding_of(slabs, number, term),
        )
        for number, terms in zip(fed, held, strict=True)
    }
    prepared = with_feedback(slabs, added, feedback.share, feedback.finds)
    if asked.ranker.combine.how is CombineHow.POOLED:
        prepared = [replace(own, pool=pool) for own, pool in zip(prepared, pool_terms(prepared), strict=True)]
    return replace(asked, prepared=prepared, fed_back=_told(opened, rows, slabs, added))


def _first_rows(opened: OpenCollection, asked: Asked, count: int) -> list[Placed]:
    """The first rows by words: of the records that the ranker's own filters and its rules let pass."""
    found = filter_records(opened, score_records(opened, asked), (*asked.ranker.filters, *asked.ruled.filters))
    by = asked.ranker.equals_by
    lists = [best(own, count, opened.order(slab, by)) for slab, own in enumerate(found)]
    return join(lists, count, lambda slab, record_id: opened.place(slab, record_id, by)).rows


def _told(
    opened: OpenCollection,
    rows: Sequence[Placed],
    slabs: Sequence[PreparedQuery],
    added: Mapping[int, Sequence[tuple[str, float]]],
) -> FedBack:
    return FedBack(
        tuple(opened.keys_of(rows)),
        tuple(
            FedTerm(slabs[0].readings[number].reading.field, term, weight)
            for number, own in added.items()
            for term, weight in own
        ),
    )


def _terms_held(
    opened: OpenCollection, readings: Sequence[tuple[str, ChainChoice]], rows: Sequence[Placed]
) -> list[list[Mapping[str, int]]]:
    """By reading and row how often the record holds each term; what was read before is remembered."""
    cache = opened.memory.record_terms
    keys = [
        [(opened.state, (field, chain.identity, row.slab, row.record_id)) for row in rows] for field, chain in readings
    ]
    known = {key: kept for own in keys for key in own if (kept := cache.get(key)) is not None}
    wanted = [row for place, row in enumerate(rows) if any(own[place] not in known for own in keys)]
    if wanted:
        with opened.pool.connection() as connection:
            records = records_with_keys(connection, opened.collection.id, opened.keys_of(wanted))
        values = {
            (row.slab, row.record_id): records[key].field_values if key in records else {}
            for row, key in zip(wanted, opened.keys_of(wanted), strict=True)
        }
        for (field, chain), own in zip(readings, keys, strict=True):
            for key, row in zip(own, rows, strict=True):
                if key not in known:
                    known[key] = _counted(field, chain, values[row.slab, row.record_id])
                    cache.put(key, known[key])
    return [[known[key] for key in own] for own in keys]


def _counted(field: str, chain: ChainChoice, values: Mapping[str, Any]) -> Mapping[str, int]:
    one = record_chain_of(chain, None if isinstance(chain, Chain) else language_in(values.get(chain.by)))
    return Counter(term for text in texts_of(values.get(field)) for term in one.terms(text))
