"""Where an import reads from: a file or folder on this machine, or a query on another database."""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any, Protocol

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.records import FORMATS, ImportPlan, RawRow, Source, format_of
from pale_harbor.formats.records.conversion import Unfit, readable_values, record_of
from pale_harbor.formats.records.guessing import TOLERANCE, guessed_plan
from pale_harbor.formats.records.scanned_pages import pictures_of
from pale_harbor.formats.records.several_files import FileRead
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.other_database import OtherDatabase
from pale_harbor.store.imports.read_marks import read_mark
from pale_harbor.work.imports.fetched import Fetched
from pale_harbor.work.imports.harvesting import Repository
from pale_harbor.work.running.door import the_door
from pale_harbor.work.running.in_order import in_order

# So many rows are looked at before anything is stored.
PREVIEW_ROWS = 1_000
_REJECTS_SHOWN = 20
_TITLES = {one.name: one.title for one in FORMATS} | {"postgresql": "PostgreSQL", "oai": "A repository (OAI-PMH)"}


class RowSource(Protocol):
    """Gives rows, the same ones in the same order each time if it is `repeatable`."""

    repeatable: bool

    def kept(self) -> dict[str, Any]:
        """What a job keeps of it; equal for the same unchanged source. No password."""
        ...

    def complete_plan(self, plan: ImportPlan) -> ImportPlan:
        """The plan with what can be told from the source: format, encoding, delimiter."""
        ...

    def rows(self, plan: ImportPlan) -> Iterator[RawRow]:
        """Its rows as a plan reads them."""
        ...

    def pictures(self, names: frozenset[str]) -> Iterator[FileRead]:
        """The pictures that its rows name, by their names within it, each once."""
        ...

    def mark(self) -> dict[str, str] | None:
        """Up to where it was read, so that next time only what is new is: identity and last_seen; None where it is
        always read whole."""
        ...

    @property
    def bytes_read(self) -> int:
        """How much was read so far."""
        ...

    @property
    def bytes_in_all(self) -> int:
        """How much there is, 0 where it cannot be known."""
        ...


@dataclass(slots=True)
class FileSource:
    """A file or a folder. name: what people call it, where it was uploaded under another."""

    source: Source
    repeatable: bool = True

    def __post_init__(self) -> None:
        self.source.fetch = Fetched()
        self.source.in_order = in_order

    def kept(self) -> dict[str, Any]:
        path = self.source.path
        try:
            stat = path.stat()
        except OSError as error:
            raise BadInput(f"{self.source.name} cannot be read: {error.strerror}.") from error
        return {
            "kind": "file",
            "path": str(path.resolve()),
            "name": self.source.name,
            "size": self.source.bytes_in_all,
            "changed_ns": stat.st_mtime_ns,
        }

    def complete_plan(self, plan: ImportPlan) -> ImportPlan:
        own = format_of(self.source, plan)
        return own.complete_plan(self.source, plan.model_copy(update={"format": own.name}))

    def rows(self, plan: ImportPlan) -> Iterator[RawRow]:
        return format_of(self.source, plan).rows(self.source, plan)

    def pictures(self, names: frozenset[str]) -> Iterator[FileRead]:
        return pictures_of(self.source, names) if names else iter(())

    def mark(self) -> dict[str, str] | None:
        return None

    @property
    def bytes_read(self) -> int:
        return self.source.bytes_read

    @property
    def bytes_in_all(self) -> int:
        return self.source.bytes_in_all


@dataclass(slots=True)
class DatabaseSource:
    """A query on another PostgreSQL database, read in one transaction that may not write."""

    database: OtherDatabase
    bytes_read: int = 0
    bytes_in_all: int = 0
    repeatable: bool = False

    def kept(self) -> dict[str, Any]:
        return {"kind": "postgresql", "name": self.database.name, **self.database.without_password()}

    def complete_plan(self, plan: ImportPlan) -> ImportPlan:
        return plan.model_copy(update={"format": "postgresql"})

    def rows(self, plan: ImportPlan) -> Iterator[RawRow]:
        return self.database.rows()

    def pictures(self, names: frozenset[str]) -> Iterator[FileRead]:
        return iter(())

    def mark(self) -> dict[str, str] | None:
        if self.database.last_seen is None:
            return None
        return {"identity": self.database.identity, "last_seen": self.database.last_seen}


def database_source(
    pool: Pool, collection_name: str, address: str, query: str, changed_at: str | None
) -> DatabaseSource:
    """A query on another database; with `changed_at` only what changed since it was read last."""
    database = OtherDatabase(address=the_door().database_address(address), query=query, changed_at=changed_at)
    identity = database.identity
    if changed_at is not None:
        with pool.connection() as connection, suppress(NotFound):
            collection = collection_named(connection, collection_name)
            database.since = read_mark(connection, collection.id, identity)
    return DatabaseSource(database)


def source_of(kept: dict[str, Any]) -> RowSource:
    """The source that a job keeps. Raises BadInput where it is no longer there, or no longer the same."""
    if kept["kind"] == "oai":
        return Repository(address=kept["address"], prefix=kept["prefix"], set_name=kept["set"], since=kept["since"])
    if kept["kind"] != "file":
        raise BadInput("A query on another database is not taken up again: its password is not kept. Start it anew.")
    path = Path(kept["path"])
    source = FileSource(Source(path, kept["name"]))
    if not path.exists():
        raise BadInput(f"{kept['name']} is no longer there.")
    if source.kept() != kept:
        raise BadInput(f"{kept['name']} was changed since. Import it anew.")
    return source


@dataclass(frozen=True, slots=True)
class PreviewRow:
    """A row as it would be read: its values and key, or the reason why it cannot be."""

    line: int
    key: str | None
    values: dict[str, Any]
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Preview:
    """The first rows of a source, read by the plan, which is filled in where it was silent.

    format: its title; rejects: the first of those that cannot be read; rejected: how many these are in all;
    looked_at: rows that were read for it; complete: whether these are all.
    """

    name: str
    format: str
    plan: ImportPlan
    rows: list[PreviewRow]
    rejects: list[PreviewRow]
    rejected: int
    looked_at: int
    complete: bool


def preview(source: RowSource, plan: ImportPlan, shown: int = 50) -> Preview:
    """Reads the first rows; guesses what the plan leaves open."""
    plan = source.complete_plan(plan)
    rows = list(islice(source.rows(plan), PREVIEW_ROWS + 1))
    complete = len(rows) <= PREVIEW_ROWS
    rows = rows[:PREVIEW_ROWS]
    if plan.fields is None:
        key = plan.key
        plan = guessed_plan(plan, readable_values(rows), TOLERANCE)
        plan = plan.model_copy(update={"key": key or plan.key})
    read = [_preview_row(row, number, plan) for number, row in enumerate(rows, start=1)]
    rejects = [row for row in read if row.key is None]
    return Preview(
        name=str(source.kept()["name"]),
        format=_TITLES.get(plan.format or "", ""),
        plan=plan,
        rows=read[:shown],
        rejects=rejects[:_REJECTS_SHOWN],
        rejected=len(rejects),
        looked_at=len(rows),
        complete=complete,
    )


def guessed_from_all(source: RowSource, plan: ImportPlan) -> ImportPlan:
    """The plan with fields guessed from every row of the source, so that the guess rejects none."""
    return guessed_plan(plan, readable_values(source.rows(plan)))


def _preview_row(row: RawRow, number: int, plan: ImportPlan) -> PreviewRow:
    try:
        record = record_of(row, number, plan)
    except Unfit as unfit:
        return PreviewRow(row.line, None, {"": row.raw_text[:300]}, str(unfit))
    return PreviewRow(row.line, record.key, record.values, "")
