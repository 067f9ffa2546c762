"""How judging a set stands: how far judges agree, where they do not, what is settled by hand, what went stale."""

from collections import Counter
from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.judging import agreement, drifts, widest_gap
from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.judged_sets import (
    JudgedSet,
    grades_of,
    held_set,
    next_revision,
    queries_of,
    set_named,
)
from pale_harbor.store.judging.judgments import (
    Judgment,
    confirm_judgments,
    judgments_of,
    put_settlement,
    settlements_of,
    stale_judgments,
)
from pale_harbor.work.judging.settling import grades_to_change, resettle
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import Workbench

# Grades so far apart are a conflict.
CONFLICT: Final = 2
# Of conflicts and of stale records, in one telling.
MOST_TOLD: Final = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgeStanding:
    """A judge: how much, how much together with others, and how much higher than they grade on average."""

    judge: str
    judged: int
    passed: int
    shared: int
    drift: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Conflict:
    """A record that judges grade far apart. counts: the grade that counts now, None where none does; note: of whoever
    settled it by hand."""

    query_id: str
    record_key: str
    given: list[Judgment]
    counts: int | None
    settled_by_hand: bool
    note: str


@dataclass(frozen=True, slots=True)
class QueryAgreement:
    query_id: str
    shared: int
    agreement: float | None


@dataclass(frozen=True, slots=True)
class StaleRecord:
    """A record that is not as it was when it was judged, or gone. judgments: how many are about it as it was."""

    query_id: str
    record_key: str
    judgments: int
    gone: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgingStanding:
    """How judging a set stands. agreement: of all; None where nothing is shared; measure: which figure it is;
    conflicts, stale: at most so many are told; titles: of their records, by key."""

    judges: list[JudgeStanding]
    judged: int
    shared: int
    agreement: float | None
    measure: str
    queries: list[QueryAgreement]
    conflicts: list[Conflict]
    open_conflicts: int
    conflicts_in_all: int
    stale: list[StaleRecord]
    stale_in_all: int
    titles: dict[str, str]


def standing_of(bench: Workbench, collection_name: str, set_name: str) -> JudgingStanding:
    """How far judges agree, where they do not, and what has gone stale."""
    with bench.pool.connection() as connection:
        in_one_state(connection)
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        said = judgments_of(connection, kept.id)
        by_hand = {(one.query_id, one.record_key): one.note for one in settlements_of(connection, kept.id)}
        counted = _counting_grades(connection, kept)
        stale = Counter[tuple[str, str, bool]](
            (one.query_id, one.record_key, one.gone) for one in stale_judgments(connection, collection.id, kept.id)
        )
    records: dict[tuple[str, str], list[Judgment]] = {}
    for one in said:
        records.setdefault((one.query_id, one.record_key), []).append(one)
    graded = {pair: [one for one in own if one.grade is not None] for pair, own in records.items()}
    names = sorted({one.judge for one in said})
    gaps = drifts({one.judge: one.grade for one in own if one.grade is not None} for own in graded.values())
    counted_by = Counter((one.judge, one.grade is not None) for one in said)
    judges = [
        JudgeStanding(
            judge=name, judged=counted_by[name, True], passed=counted_by[name, False], shared=shared, drift=gap
        )
        for name in names
        for gap, shared in [gaps.get(name, (0.0, 0))]
    ]
    units = {pair: [one.grade for one in own if one.grade is not None] for pair, own in graded.items()}
    by_query: dict[str, list[list[int]]] = {}
    for (query, _), grades in units.items():
        if len(grades) > 1:
            by_query.setdefault(query, []).append(grades)
    conflicts = [
        Conflict(
            query_id=pair[0],
            record_key=pair[1],
            given=own,
            counts=counted.get(pair),
            settled_by_hand=pair in by_hand,
            note=by_hand.get(pair, ""),
        )
        for pair, own in records.items()
        if widest_gap(units[pair]) >= CONFLICT or (pair not in counted and len(units[pair]) > 1)
    ]
    conflicts.sort(
        key=lambda one: (one.settled_by_hand, -widest_gap(units[one.query_id, one.record_key]), one.query_id)
    )
    with bench.pool.connection() as connection:
        shown = [
            StaleRecord(query, key, count, gone) for (query, key, gone), count in sorted(stale.items())[:MOST_TOLD]
        ]
        spoken_of = {*(one.record_key for one in conflicts[:MOST_TOLD]), *(one.record_key for one in shown)}
        titles = titles_of(connection, collection, spoken_of)
    with_grades = [judge for judge in judges if judge.shared]
    return JudgingStanding(
        judges=judges,
        judged=sum(bool(grades) for grades in units.values()),
        shared=sum(len(grades) > 1 for grades in units.values()),
        agreement=agreement(units.values(), len(with_grades)),
        measure="weighted kappa" if len(with_grades) == 2 else "Krippendorff's alpha",
        queries=[
            QueryAgreement(query, len(own), agreement(own, len(with_grades))) for query, own in sorted(by_query.items())
        ],
        conflicts=conflicts[:MOST_TOLD],
        open_conflicts=sum(not one.settled_by_hand for one in conflicts),
        conflicts_in_all=len(conflicts),
        stale=shown,
        stale_in_all=len(stale),
        titles=titles,
    )


def _counting_grades(connection: Connection[Any], kept: JudgedSet) -> dict[tuple[str, str], int]:
    """The grades that count now, by query and record."""
    return {
        (query, key): grade
        for query, of_query in grades_of(connection, kept.id).items()
        for key, grade in of_query.items()
    }


def settle(
    bench: Workbench, collection_name: str, set_name: str, query_id: str, record_key: str, grade: int | None, note: str
) -> None:
    """Settles a record's grade by hand, or (None) leaves it to the set's rule again. Raises NotFound."""
    with bench.pool.connection() as connection:
        kept = held_set(connection, collection_named(connection, collection_name).id, set_name)
        if not any(one.query_id == query_id for one in queries_of(connection, kept.id)):
            raise NotFound(f'"{set_name}" has no query "{query_id[:80]}".')
        put_settlement(connection, kept.id, query_id, record_key, grade, note)
        pair = [(query_id, record_key)]
        if grades_to_change(connection, kept, pair):
            resettle(connection, kept, next_revision(connection, kept, of_queries=False), pair)


def confirm(bench: Workbench, collection_name: str, set_name: str, query_id: str, record_key: str) -> None:
    """Says that what was judged of a record holds for it as it is now. Raises NotFound where nothing was."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        if not confirm_judgments(connection, collection.id, kept.id, query_id, record_key):
            raise NotFound(f'Nothing was judged of "{record_key[:80]}" for this query.')
