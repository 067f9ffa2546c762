"""The tables `runs`, `run_lists` and `measurements`: frozen lists and what was measured of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.core.measures import Measured


@dataclass(frozen=True, slots=True)
class RunKey:
    """Everything a run depends on: the same key gives the same lists."""

    ranker_id: int
    set_id: int
    records_revision: int
    records_fingerprint: str
    judged_revision: int
    depth: int
    program_version: str
    # Rules of the ranker, by number, that were over on the day of the run.
    ended_rules: list[int] = field(default_factory=list[int])
    # The spaces that were asked, each with the state of its vectors.
    spaces: list[str] = field(default_factory=list[str])


@dataclass(frozen=True, slots=True)
class RunList:
    """One query's frozen list, best first. matched: all records that matched, listed or not."""

    query_id: str
    record_keys: list[str]
    scores: list[float]
    matched: int


def find_run(connection: Connection[Any], key: RunKey) -> int | None:
    """The run's id, None where it has not been made."""
    row = connection.execute(
        """
        select id from runs
        where ranker_id = %s and set_id = %s and records_fingerprint = %s
            and judged_revision = %s and depth = %s and program_version = %s and ended_rules = %s::integer[]
            and spaces = %s::text[]
        """,
        [
            key.ranker_id,
            key.set_id,
            key.records_fingerprint,
            key.judged_revision,
            key.depth,
            key.program_version,
            key.ended_rules,
            key.spaces,
        ],
    ).fetchone()
    return int(row[0]) if row else None


def save_run(connection: Connection[Any], key: RunKey, lists: list[RunList], notes: Sequence[str] = ()) -> int:
    """Freezes a run's lists and notes and returns its id; a run made meanwhile by someone else is kept."""
    made = connection.execute(
        """
        insert into runs (
            ranker_id, set_id, records_revision, records_fingerprint, judged_revision, depth, program_version,
            ended_rules, spaces, notes
        )
        values (%s, %s, %s, %s, %s, %s, %s, %s::integer[], %s::text[], %s::text[]) on conflict do nothing returning id
        """,
        [
            *(key.ranker_id, key.set_id, key.records_revision, key.records_fingerprint),
            *(key.judged_revision, key.depth, key.program_version, key.ended_rules, key.spaces),
            list(notes),
        ],
    ).fetchone()
    if made is None:
        existing = find_run(connection, key)
        assert existing is not None
        return existing
    run_id = int(made[0])
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into run_lists (run_id, query_id, record_keys, scores, matched) values (%s, %s, %s, %s, %s)",
            [(run_id, ranked.query_id, ranked.record_keys, ranked.scores, ranked.matched) for ranked in lists],
        )
    return run_id


def lists_of(connection: Connection[Any], run_id: int) -> list[RunList]:
    with connection.cursor(row_factory=class_row(RunList)) as cursor:
        return cursor.execute(
            "select query_id, record_keys, scores, matched from run_lists where run_id = %s order by query_id",
            [run_id],
        ).fetchall()


def notes_of(connection: Connection[Any], run_id: int) -> list[str]:
    row = connection.execute("select notes from runs where id = %s", [run_id]).fetchone()
    return [] if row is None else list(row[0])


def save_measurements(connection: Connection[Any], run_id: int, measured: Measured) -> None:
    """Keeps means and values per query; what is there already is the same, and stays."""
    rows: list[tuple[int, str, str | None, float]] = [
        (run_id, measure, None, value) for measure, value in measured.means.items()
    ]
    per_query: Mapping[str, Mapping[str, float]] = measured.per_query
    rows += [
        (run_id, measure, query_id, value)
        for query_id, values in per_query.items()
        for measure, value in values.items()
    ]
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into measurements (run_id, measure, query_id, value) values (%s, %s, %s, %s)
            on conflict (run_id, measure, query_id) do nothing
            """,
            rows,
        )
