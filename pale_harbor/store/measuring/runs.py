"""The tables `runs` and `run_lists`: frozen lists. What is measured of them follows from them and the grades."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Final

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True, slots=True, kw_only=True)
class RunKey:
    """Everything a run depends on: the same key gives the same lists.

    queries_revision: of the judged set, the revision that last changed its queries.
    """

    ranker_id: int
    set_id: int
    records_revision: int
    records_fingerprint: str
    queries_revision: int
    depth: int
    program_version: str
    # Rules of the ranker, by number, that were over on the day of the run.
    ended_rules: list[int] = field(default_factory=list[int])
    # The spaces that were asked, each with the state of its vectors.
    spaces: list[str] = field(default_factory=list[str])


@dataclass(frozen=True, slots=True)
class RunList:
    """One query's frozen list, best first. matched: all records that matched, listed or not; notes: what keeps it from
    meaning what one would think."""

    query_id: str
    record_keys: list[str]
    scores: list[float]
    matched: int
    notes: list[str] = field(default_factory=list[str])


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptRun:
    """A frozen run. ranker, version: of ours; outside: the name of one that is not ours."""

    id: int
    set_id: int
    ranker: str | None
    version: int | None
    outside: str | None
    records_revision: int
    queries_revision: int
    program_version: str
    created_at: datetime

    @property
    def title(self) -> str:
        """Whose lists they are: first:2, or the outside ranker's name."""
        return self.outside or f"{self.ranker}:{self.version}"


def find_run(connection: Connection[Any], key: RunKey) -> int | None:
    """The run's id, None where it has not been made."""
    row = connection.execute(
        """
        select id from runs
        where ranker_id = %s and set_id = %s and records_fingerprint = %s
            and queries_revision = %s and depth = %s and program_version = %s and ended_rules = %s::integer[]
            and spaces = %s::text[]
        """,
        [
            key.ranker_id,
            key.set_id,
            key.records_fingerprint,
            key.queries_revision,
            key.depth,
            key.program_version,
            key.ended_rules,
            key.spaces,
        ],
    ).fetchone()
    return int(row[0]) if row else None


def save_run(connection: Connection[Any], key: RunKey, lists: list[RunList]) -> int:
    """Freezes a run's lists and returns its id; a run made meanwhile by someone else is kept."""
    made = connection.execute(
        """
        insert into runs (
            ranker_id, set_id, records_revision, records_fingerprint, queries_revision, depth, program_version,
            ended_rules, spaces
        )
        values (%s, %s, %s, %s, %s, %s, %s, %s::integer[], %s::text[]) on conflict do nothing returning id
        """,
        [
            *(key.ranker_id, key.set_id, key.records_revision, key.records_fingerprint),
            *(key.queries_revision, key.depth, key.program_version, key.ended_rules, key.spaces),
        ],
    ).fetchone()
    if made is None:
        existing = find_run(connection, key)
        assert existing is not None
        return existing
    run_id = int(made[0])
    _put_lists(connection, run_id, lists)
    return run_id


def lists_of(connection: Connection[Any], run_id: int) -> list[RunList]:
    """A run's lists, by query."""
    with connection.cursor(row_factory=class_row(RunList)) as cursor:
        return cursor.execute(
            "select query_id, record_keys, scores, matched, notes from run_lists where run_id = %s order by query_id",
            [run_id],
        ).fetchall()


def count_lists(connection: Connection[Any], run_id: int) -> int:
    """How many queries a run has lists for."""
    row = connection.execute("select count(*) from run_lists where run_id = %s", [run_id]).fetchone()
    return 0 if row is None else int(row[0])


def notes_of(connection: Connection[Any], run_id: int) -> list[str]:
    """What was said of a run as a whole, when that was not yet kept with each list."""
    row = connection.execute("select notes from runs where id = %s", [run_id]).fetchone()
    return [] if row is None else list(row[0])


def save_outside_run(
    connection: Connection[Any],
    outside_id: int,
    set_id: int,
    records: tuple[int, str],
    queries_revision: int,
    program_version: str,
    lists: Sequence[RunList],
) -> int:
    """Freezes lists that are not ours. records: the collection's revision and fingerprint at that time."""
    depth = max((len(ranked.record_keys) for ranked in lists), default=0)
    row = connection.execute(
        """
        insert into runs (
            outside_id, set_id, records_revision, records_fingerprint, queries_revision, depth, program_version
        )
        values (%s, %s, %s, %s, %s, %s, %s) returning id
        """,
        [outside_id, set_id, *records, queries_revision, depth, program_version],
    ).fetchone()
    assert row is not None
    run_id = int(row[0])
    _put_lists(connection, run_id, lists)
    return run_id


def latest_outside_run(connection: Connection[Any], outside_id: int, set_id: int) -> int | None:
    """An outside ranker's last run for a judged set, None where it has none."""
    row = connection.execute(
        "select max(id) from runs where outside_id = %s and set_id = %s", [outside_id, set_id]
    ).fetchone()
    return None if row is None or row[0] is None else int(row[0])


def runs_of(connection: Connection[Any], set_id: int, count: int = 200) -> list[KeptRun]:
    """A set's newest frozen runs, the newest first."""
    with connection.cursor(row_factory=class_row(KeptRun)) as cursor:
        return cursor.execute(
            _KEPT_RUNS + " where runs.set_id = %s order by runs.id desc limit %s", [set_id, count]
        ).fetchall()


def run_with_id(connection: Connection[Any], set_id: int, run_id: int) -> KeptRun | None:
    """A run of a judged set. Raises NotFound."""
    with connection.cursor(row_factory=class_row(KeptRun)) as cursor:
        return cursor.execute(_KEPT_RUNS + " where runs.set_id = %s and runs.id = %s", [set_id, run_id]).fetchone()


_KEPT_RUNS: Final = """
    select runs.id, runs.set_id, rankers.name as ranker, rankers.version, outside_rankers.name as outside,
        records_revision, queries_revision, program_version, runs.created_at
    from runs left join rankers on rankers.id = ranker_id
    left join outside_rankers on outside_rankers.id = outside_id
"""


def _put_lists(connection: Connection[Any], run_id: int, lists: Sequence[RunList]) -> None:
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into run_lists (run_id, query_id, record_keys, scores, matched, notes)
            values (%s, %s, %s, %s, %s, %s::text[])
            """,
            [(run_id, one.query_id, one.record_keys, one.scores, one.matched, one.notes) for one in lists],
        )
