"""Searches a collection with a ranker, and asks why."""

from dataclasses import dataclass
from time import perf_counter
from typing import Any

import numpy as np

from pale_harbor.core.marking import Stretch, marks
from pale_harbor.core.ranking import (
    PreparedQuery,
    RankedList,
    Ranker,
    Why,
    prepare,
    score_columns,
    search,
    why,
)
from pale_harbor.errors import NotFound
from pale_harbor.store.records import Record, records_with_keys
from pale_harbor.work.opened import OpenCollection


@dataclass(frozen=True, slots=True)
class Result:
    """One row of a ranked list. reading_scores: each active reading's weighted share, in order."""

    rank: int
    key: str
    score: float
    reading_scores: list[float]
    marks: dict[str, list[Stretch]]
    record: Record | None


@dataclass(frozen=True, slots=True)
class Found:
    """A ranked list's beginning.

    active_readings: which of the ranker's readings took part; query_terms: what each of them
    looked for. elapsed_ms: preparing, scoring and selecting, without fetching records.
    """

    matched: int
    elapsed_ms: float
    results: list[Result]
    active_readings: list[int]
    query_terms: list[list[str]]


def prepared_query(opened: OpenCollection, ranker: Ranker, query: str) -> PreparedQuery:
    """The query looked up in the indexes of the ranker's readings, built where they are missing."""
    active = [reading for reading in ranker.readings if reading.weight > 0]
    return prepare(query, active, [opened.index(reading.field, reading.chain) for reading in active])


def ranked_list(opened: OpenCollection, ranker: Ranker, query: PreparedQuery, top: int) -> RankedList:
    """The first `top` records for a prepared query."""
    with opened.workspace() as workspace:
        return search(query, top, opened.order(ranker.equals_by), workspace)


def find(opened: OpenCollection, ranker: Ranker, query: str, top: int) -> Found:
    """The first `top` records with their marks and where their scores came from."""
    opened.order(ranker.equals_by)
    for reading in ranker.readings:
        if reading.weight > 0:
            opened.index(reading.field, reading.chain)
    started = perf_counter()
    prepared = prepared_query(opened, ranker, query)
    ranked = ranked_list(opened, ranker, prepared, top)
    elapsed_ms = (perf_counter() - started) * 1000
    keys = [opened.keys.term(record_id) for record_id in ranked.record_ids.tolist()]
    shares: Any = score_columns(prepared, ranked.record_ids) * prepared.weights
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    results = [
        Result(
            rank,
            key,
            float(ranked.scores[rank - 1]),
            np.asarray(shares[rank - 1]).tolist(),
            marks(prepared, int(ranked.record_ids[rank - 1])),
            records.get(key),
        )
        for rank, key in enumerate(keys, start=1)
    ]
    return Found(
        ranked.matched,
        elapsed_ms,
        results,
        [number for number, reading in enumerate(ranker.readings) if reading.weight > 0],
        [[term.text for term in part.terms] for part in prepared.readings],
    )


def why_record(opened: OpenCollection, ranker: Ranker, query: str, key: str) -> Why:
    """The arithmetic of a record's score. Raises NotFound where there is no such record."""
    record_id = opened.keys.find(key)
    if record_id is None:
        raise NotFound(f'The collection "{opened.collection.name}" has no record with the key "{key[:200]}".')
    return why(prepared_query(opened, ranker, query), record_id)
