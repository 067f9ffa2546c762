"""What is told of imports: how far they are, and whether they were cut off."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection

from pale_harbor.store.imports.imports import Import, import_with_id, imports_of
from pale_harbor.store.imports.incoming import Outlook
from pale_harbor.store.running.jobs import JobState, is_held
from pale_harbor.work.imports.undoing import Undone
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportTold:
    """An import. bytes_in_all: 0 where it cannot be known; cut_off: whoever did it ended, and it can go on.

    outlook: what it would do, once that is known. tune_start: whether the ranker that the records come with is tuned
    once they are in. undoable: whether it changed something, and was not undone.
    """

    id: int
    collection: str
    name: str
    kind: str
    state: JobState
    phase: str
    rows_read: int
    rows_rejected: int
    bytes_read: int
    bytes_in_all: int
    seconds: float
    problem: str | None
    report: dict[str, int] | None
    created_at: datetime
    cut_off: bool
    outlook: Outlook | None
    undoable: bool
    undone: Undone | None
    tune_start: bool
    by_person: str | None


def import_told(bench: Workbench, job_id: int) -> ImportTold:
    """How far an import is. Raises NotFound."""
    with bench.pool.connection() as connection:
        return _tell(connection, import_with_id(connection, job_id))


def imports_told(bench: Workbench, collection_name: str) -> list[ImportTold]:
    """A collection's imports, the latest first."""
    with bench.pool.connection() as connection:
        return [_tell(connection, one) for one in imports_of(connection, collection_name)]


def _tell(connection: Connection[Any], one: Import) -> ImportTold:
    return ImportTold(
        id=one.id,
        collection=one.collection,
        name=str(one.source.get("name", "")),
        kind=str(one.source.get("kind", "")),
        state=one.state,
        phase=one.phase,
        rows_read=one.rows_read,
        rows_rejected=one.rows_rejected,
        bytes_read=one.bytes_read,
        bytes_in_all=one.bytes_in_all,
        seconds=(one.updated_at - one.created_at).total_seconds(),
        problem=one.problem,
        report=one.report,
        created_at=one.created_at,
        outlook=None if one.outlook is None else Outlook(**one.outlook),
        undoable=bool(one.revisions) and one.undone is None,
        undone=None if one.undone is None else Undone(**one.undone),
        tune_start=one.tune_start,
        by_person=one.by_person,
        cut_off=one.state == "running" and not is_held(connection, one.id),
    )
