"""Builds the index of a reading of a slab, here or in a process of its own."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import reduce
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter
from typing import Any, Final

import structlog
from psycopg import Connection

from pale_harbor.core.index import appended_index, build_index
from pale_harbor.core.ranking import Alive
from pale_harbor.core.text import Chain, ChainChoice
from pale_harbor.errors import Cancelled, Unavailable
from pale_harbor.formats.index_files import read_index, read_vocabulary, write_index
from pale_harbor.store.collections.collections import Collection
from pale_harbor.store.database import in_one_state
from pale_harbor.work.collections.slab_values import check_revision, field_of_slab
from pale_harbor.work.records.values import language_in, texts_of
from pale_harbor.work.running.processes import Errand, Processes

# From this size on it is built in two parts, by two processes.
BUILT_IN_PARTS: Final = 20_000
_PARTS: Final = 2
# So often it is seen whether somebody still waits for it.
_RECORDS_BETWEEN_LOOKS: Final = 500


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Building:
    """What is to be built: the index of a field read through a chain, of a slab's records.

    slab: its folder; alive: as of LiveSlab; record_count: of the whole collection; folder: where the index goes;
    part: the ids of the records that it is of, all of the slab's where it is None.
    """

    slab: Path
    alive: Alive | None
    collection: Collection
    record_count: int
    field: str
    chain: ChainChoice
    folder: Path
    part: range | None = None


def build(connection: Connection[Any], errand: Errand, building: Building) -> None:
    """Builds an index and writes it. Raises RecordsChanged, Cancelled once it is no longer wanted.

    Raises Unavailable where the slab's keys cannot be read.
    """
    started = perf_counter()
    keys = read_vocabulary(building.slab / "keys")
    if keys is None:
        raise Unavailable("The files of this collection are damaged. Try again: they are made anew.")
    in_one_state(connection)
    check_revision(connection, building.collection)

    def values(field: str) -> Iterator[Any]:
        found = field_of_slab(
            connection, building.collection.id, keys, building.alive, field, building.record_count, building.part
        )
        return _while_wanted(found, errand)

    chain = building.chain
    if isinstance(chain, Chain):
        languages: Iterable[str | None] = ()
        index = build_index((texts_of(value) for value in values(building.field)), chain)
    else:
        # Read beforehand: a connection reads one field at a time.
        languages = [language_in(value) for value in values(chain.by)]
        index = build_index((texts_of(value) for value in values(building.field)), chain, languages)
    if not errand.wanted():
        raise Cancelled("Nobody waits for this index any more.")
    # A part is read at once and then gone.
    write_index(building.folder, index, lasting=building.part is None)
    structlog.get_logger().info(
        "index built",
        collection=building.collection.name,
        field=building.field,
        records=index.record_count,
        elapsed_ms=round((perf_counter() - started) * 1000),
    )


def build_elsewhere(processes: Processes, building: Building, slab_records: int) -> None:
    """Builds an index in processes of its own, side by side where it is worth it. Raises as `build`."""
    if slab_records < BUILT_IN_PARTS:
        processes.run(build, building)
        return
    building.folder.parent.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory(prefix="unfinished-", dir=building.folder.parent) as parts:
        bounds = [slab_records * number // _PARTS for number in range(_PARTS + 1)]
        each = [
            replace(building, part=range(first, last), folder=Path(parts) / str(first))
            for first, last in pairwise(bounds)
        ]
        processes.side_by_side(build, each)
        processes.run(append, [one.folder for one in each], building.folder)


def append(_connection: Connection[Any], _errand: Errand, parts: list[Path], folder: Path) -> None:
    """Writes the index of several, of records that follow one another.

    Raises Unavailable where one of them cannot be read.
    """
    indexes = [read_index(part) for part in parts]
    if any(index is None for index in indexes):
        raise Unavailable("A part of an index was written and cannot be read. Is there room left on the disk?")
    write_index(folder, reduce(appended_index, (index for index in indexes if index is not None)))


def _while_wanted(values: Iterable[Any], errand: Errand) -> Iterator[Any]:
    for number, value in enumerate(values):
        if number % _RECORDS_BETWEEN_LOOKS == 0 and not errand.wanted():
            raise Cancelled("Nobody waits for this index any more.")
        yield value
