"""Builds the index of a reading of a slab, here or in a process of its own."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter
from typing import Any, Final

import structlog
from psycopg import Connection

from pale_harbor.core.index import build_index
from pale_harbor.core.ranking import Alive
from pale_harbor.core.text import Chain, ChainChoice
from pale_harbor.errors import Cancelled, Unavailable
from pale_harbor.formats.index_files import read_vocabulary, write_index
from pale_harbor.store.collections.collections import Collection
from pale_harbor.store.database import in_one_state
from pale_harbor.work.collections.slab_values import check_revision, field_of_slab
from pale_harbor.work.records.values import language_in, texts_of
from pale_harbor.work.running.processes import Errand

# A smaller slab is built before another process has read its first record.
BUILT_ELSEWHERE: Final = 5_000
# So often it is seen whether somebody still waits for it.
_RECORDS_BETWEEN_LOOKS: Final = 500


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Building:
    """What is to be built: the index of a field read through a chain, of a slab's records.

    slab: its folder; alive: as of LiveSlab; record_count: of the whole collection; folder: where the index goes.
    """

    slab: Path
    alive: Alive | None
    collection: Collection
    record_count: int
    field: str
    chain: ChainChoice
    folder: Path


def build(connection: Connection[Any], errand: Errand, building: Building) -> None:
    """Builds an index and writes it. Raises RecordsChanged, Cancelled once it is no longer wanted."""
    started = perf_counter()
    keys = read_vocabulary(building.slab / "keys")
    if keys is None:
        raise Unavailable("The files of this collection are damaged. Try again: they are made anew.")
    in_one_state(connection)
    check_revision(connection, building.collection)

    def values(field: str) -> Iterator[Any]:
        found = field_of_slab(connection, building.collection.id, keys, building.alive, field, building.record_count)
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
    write_index(building.folder, index)
    structlog.get_logger().info(
        "index built",
        collection=building.collection.name,
        field=building.field,
        records=len(keys),
        elapsed_ms=round((perf_counter() - started) * 1000),
    )


def _while_wanted(values: Iterable[Any], errand: Errand) -> Iterator[Any]:
    for number, value in enumerate(values):
        if number % _RECORDS_BETWEEN_LOOKS == 0 and not errand.wanted():
            raise Cancelled("Nobody waits for this index any more.")
        yield value
