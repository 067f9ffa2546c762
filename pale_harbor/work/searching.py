"""Searches a collection with a ranker, and asks why."""

from dataclasses import dataclass
from time import perf_counter

import numpy as np

from pale_harbor.core.marking import Stretch, marks
from pale_harbor.core.ranking import Ranker, Why, score_columns, why
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


def find(opened: OpenCollection, ranker: Ranker, query: str, top: int, language: str | None = None) -> Found:
    """The first `top` records with their marks and where their scores came from."""
    opened.make_ready(ranker)
    started = perf_counter()
    prepared = opened.prepare(query, ranker, language)
    ranked = opened.ranked(ranker, prepared, top)
    elapsed_ms = (perf_counter() - started) * 1000
    keys = [opened.key(row) for row in ranked.rows]
    shares = [
        score_columns(prepared[row.slab], np.array([row.record_id], np.int32))[0] * prepared[row.slab].weights
        for row in ranked.rows
    ]
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    results = [
        Result(rank, key, row.score, share.tolist(), marks(prepared[row.slab], row.record_id), records.get(key))
        for rank, (key, row, share) in enumerate(zip(keys, ranked.rows, shares, strict=True), start=1)
    ]
    return Found(
        ranked.matched,
        elapsed_ms,
        results,
        [number for number, reading in enumerate(ranker.readings) if reading.weight > 0],
        [[term.text for term in part.terms] for part in prepared[0].readings] if prepared else [],
    )


def why_record(opened: OpenCollection, ranker: Ranker, query: str, key: str, language: str | None = None) -> Why:
    """The arithmetic of a record's score. Raises NotFound where there is no such record."""
    placed = opened.find(key)
    if placed is None:
        raise NotFound(f'The collection "{opened.collection.name}" has no record with the key "{key[:200]}".')
    return why(opened.prepare(query, ranker, language)[placed.slab], placed.record_id)
