"""Reads a whole collection by one chain: here, in a process of its own, or in two side by side."""

import pickle
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.consequences import Gathered, Gatherer
from pale_harbor.core.text import Chain
from pale_harbor.errors import Cancelled, RecordsChanged
from pale_harbor.store.collections.collections import name_and_revision
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records.records import key_at, keyed_field_values
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.running.processes import Errand, Processes

# From this size on it is read in two parts, by two processes.
READ_IN_PARTS: Final = 20_000
# So many that what is done once for each distinct word of a batch is not done too often; few enough that it is seen to
# go on.
_RECORDS_AT_ONCE: Final = 12_000
_LETTERS_AT_ONCE: Final = 3_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Whole:
    """What is to be read: a field of all records of a collection, by a chain. records: how many there are."""

    collection_id: int
    revision: int
    records: int
    field: str
    chain: Chain


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """Some of the records. first: the first key; behind: the first that is no longer meant; file: for what is told."""

    whole: Whole
    first: str
    behind: str | None
    file: Path


def read_whole(connection: Connection[Any], errand: Errand, whole: Whole) -> Gathered:
    """What a chain does to every record. Tells how many were read. Raises Cancelled, ChainError."""
    in_one_state(connection)
    gatherer = _gathered(connection, errand, whole)
    return gatherer.finished(gatherer.records)


def read_elsewhere(
    pool: Pool, processes: Processes, follow: Callable[[int], object], whole: Whole, folder: Path
) -> Gathered:
    """The same in processes of its own. follow: hears how many were read; folder: for files that pass between them.

    Raises Cancelled, ChainError.
    """
    with pool.connection() as connection:
        middle = key_at(connection, whole.collection_id, whole.records // 2)
    if whole.records >= READ_IN_PARTS and middle is not None:
        try:
            return _read_in_parts(processes, follow, whole, middle, folder)
        except RecordsChanged:
            # Two would read two states of the collection; one reads it as it is now.
            pass
    return processes.run_followed(follow, read_whole, whole)


def _read_in_parts(
    processes: Processes, follow: Callable[[int], object], whole: Whole, middle: str, folder: Path
) -> Gathered:
    folder.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory(prefix="unfinished-", dir=folder) as own:
        first, second = Path(own) / "first", Path(own) / "second"
        parts = [
            Part(whole=whole, first="", behind=middle, file=first),
            Part(whole=whole, first=middle, behind=None, file=second),
        ]
        processes.side_by_side(read_part, parts, follow)
        gathered = processes.run(join_parts, [first, second])
    follow(gathered.consequences.records)
    return gathered


def read_part(connection: Connection[Any], errand: Errand, part: Part) -> None:
    """Writes what a chain does to some of the records, for `join_parts`.

    Raises RecordsChanged where the collection is no longer as it was, Cancelled, ChainError.
    """
    in_one_state(connection)
    _, revision = name_and_revision(connection, part.whole.collection_id)
    if revision != part.whole.revision:
        raise RecordsChanged
    gatherer = _gathered(connection, errand, part.whole, part.first, part.behind)
    write_part(gatherer, part.file)


def join_parts(_connection: Connection[Any], _errand: Errand, files: list[Path]) -> Gathered:
    """What the parts tell together, of records that follow one another."""
    return read_parts(files)


def write_part(gatherer: Gatherer, file: Path) -> None:
    """Writes what was gathered, for `read_parts`."""
    with file.open("wb") as written:
        pickle.dump(gatherer, written, pickle.HIGHEST_PROTOCOL)


def read_parts(files: Sequence[Path]) -> Gathered:
    """What parts tell together that processes of ours wrote a moment ago, in a folder of ours."""
    gatherer, *later = (pickle.loads(file.read_bytes()) for file in files)  # noqa: S301
    for one in later:
        gatherer.join(one)
    return gatherer.finished(gatherer.records)


def _gathered(
    connection: Connection[Any], errand: Errand, whole: Whole, first: str = "", behind: str | None = None
) -> Gatherer:
    def look() -> None:
        if not errand.wanted():
            raise Cancelled("Nobody waits for these figures any more.")

    gatherer = Gatherer(whole.chain)
    for batch in _batches(keyed_field_values(connection, whole.collection_id, whole.field, first, behind)):
        look()
        gatherer.add(batch, look)
        errand.came_to(gatherer.records)
    return gatherer


def _batches(values: Iterator[tuple[str, Any]]) -> Iterator[list[tuple[str, list[str]]]]:
    batch: list[tuple[str, list[str]]] = []
    letters = 0
    for key, value in values:
        texts = texts_of(value)
        batch.append((key, texts))
        letters += sum(map(len, texts))
        if len(batch) == _RECORDS_AT_ONCE or letters >= _LETTERS_AT_ONCE:
            yield batch
            batch, letters = [], 0
    if batch:
        yield batch
