"""A collection opened for searching: slabs of its records, and which of their records live.

One opened collection is of one revision of the records. When they change, the next one is opened from
it: the changed records go into a slab of their own, and are dead where they were before.
"""

from collections.abc import Callable, Generator, Hashable, Iterator, Sequence
from contextlib import contextmanager, suppress
from copy import copy
from dataclasses import replace
from functools import cached_property, partial
from pathlib import Path
from time import perf_counter
from typing import Any, Final, TypeVar, cast
from uuid import uuid4

import numpy as np
import structlog
from numpy.typing import NDArray
from psycopg import Connection

from pale_harbor.core.fields import FieldColumn
from pale_harbor.core.index import ReadingIndex
from pale_harbor.core.index.slab_sizes import first_to_join
from pale_harbor.core.ranking import (
    FieldOrder,
    LookedUp,
    Placed,
    PreparedQuery,
    QueryPlan,
    Ranker,
    ReadingStatistics,
    Signal,
    SignalHow,
    SlabView,
    basis_of,
    look_up,
    lookup_name,
    place_of_value,
    signal_values,
    statistics_of,
)
from pale_harbor.core.ranking.remembered import Kept
from pale_harbor.core.text import ChainChoice
from pale_harbor.core.vectors import Groups, VectorTable
from pale_harbor.errors import RecordsChanged, Unavailable
from pale_harbor.formats.slab_list import KeptSlab, SlabList, read_slab_list, write_slab_list
from pale_harbor.store.collections.collections import Collection, fields_of
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records.records import all_keys, changes_since
from pale_harbor.store.spaces.spaces import spaces_of
from pale_harbor.work.collections.building import Building, build, build_elsewhere
from pale_harbor.work.collections.joining import Joining, join, join_files
from pale_harbor.work.collections.live_slab import LiveSlab
from pale_harbor.work.collections.slab import INDEX_SHAPE, ReadingName, ValuesOf, index_folder, new_slab, read_slab
from pale_harbor.work.collections.slab_values import check_revision, field_of_slab
from pale_harbor.work.running.caches import Cache, Memory, StateKey
from pale_harbor.work.running.processes import ELSEWHERE_FROM, Here, Processes
from pale_harbor.work.running.timed import timed
from pale_harbor.work.spaces.open_space import OpenSpace

# Slabs of so many records in all are joined at once; larger ones in the background.
JOINED_AT_ONCE: Final = 5_000
_KEYS_AT_ONCE: Final = 5_000

T = TypeVar("T")


class OpenCollection:
    """Keys, indexes and orders of one revision of a collection; safe to use from several threads."""

    def __init__(
        self,
        pool: Pool,
        folder: Path,
        collection: Collection,
        slabs: Sequence[LiveSlab],
        memory: Memory,
        processes: Processes | None = None,
    ) -> None:
        self.pool = pool
        self.processes = processes
        self.memory = memory
        # What is kept of it in memory is of these records, spread so.
        self.state = uuid4().hex
        self.folder = folder
        self.collection = collection
        self.slabs = tuple(slabs)
        self.record_count = sum(live.living for live in slabs)
        # Of the readings that were asked for, so that slabs that come can be read likewise before they are joined.
        self.chains: dict[ReadingName, ChainChoice] = {}
        self._statistics: dict[tuple[str, str], ReadingStatistics] = {}
        self._spaces: dict[str, OpenSpace] = {}

    @cached_property
    def field_names(self) -> tuple[str, ...]:
        """The fields that a query may name."""
        with self.pool.connection() as connection:
            return tuple(field.name for field in fields_of(connection, self.collection.id))

    def find(self, key: str) -> Placed | None:
        """Where a record lies, None where there is none of that key."""
        for number, live in enumerate(self.slabs):
            record_id = live.slab.keys.find(key)
            if record_id is not None and live.lives(record_id):
                return Placed(number, record_id, 0.0)
        return None

    def key(self, placed: Placed) -> str:
        """A row's key."""
        return self.slabs[placed.slab].slab.keys.term(placed.record_id)

    def keys_of(self, rows: Sequence[Placed]) -> list[str]:
        """The keys of many rows."""
        return self.keys_at([row.slab for row in rows], [row.record_id for row in rows])

    def keys_at(self, slabs: Sequence[int], record_ids: Sequence[int]) -> list[str]:
        """The keys of many records by slab and id."""
        texts = [live.slab.key_texts() if slabs else None for live in self.slabs]
        return [
            self.slabs[slab].slab.keys.term(record_id) if (own := texts[slab]) is None else own[record_id]
            for slab, record_id in zip(slabs, record_ids, strict=True)
        ]

    def indexes(self, field: str, chain: ChainChoice) -> list[ReadingIndex]:
        """The index of a field read through a chain in every slab. Raises RecordsChanged."""
        self.chains[field, chain.identity] = chain
        return [self._index(live, field, chain) for live in self.slabs]

    def prepare(self, plan: QueryPlan, language: str | None = None) -> list[PreparedQuery]:
        """A plan's words looked up in every slab, once for all plans that look them up alike.

        Indexes that are missing are built. language: the query's, for chains that are chosen by it; guessed where it
        is None.
        """
        name, kept = self._look_up(plan, language)
        prepared = kept.for_plan(plan)
        if kept.has_grown:
            self.memory.looked_up.put(name, kept)
        return prepared

    def looked_up(self, plan: QueryPlan, language: str | None = None) -> LookedUp:
        """A plan's words looked up in every slab, for who weighs them in a way of their own."""
        return self._look_up(plan, language)[1]

    def _look_up(self, plan: QueryPlan, language: str | None) -> tuple[tuple[str, Hashable], LookedUp]:
        name = (self.state, lookup_name(plan, language))
        return name, self.memory.looked_up.get_or_make(name, lambda: self._looked_up(plan, language))

    def _looked_up(self, plan: QueryPlan, language: str | None) -> LookedUp:
        by_reading = [self.indexes(reading.field, reading.chain) for reading in plan.readings]
        statistics = [
            self._statistics_of(reading.field, reading.chain, own)
            for reading, own in zip(plan.readings, by_reading, strict=True)
        ]
        views = [
            SlabView(
                [own[number] for own in by_reading],
                live.alive,
                live.slab.record_count,
                partial(self.column, number),
            )
            for number, live in enumerate(self.slabs)
        ]
        return look_up(plan, statistics, views, language, self._remembered)

    def _remembered(self, key: Hashable, make: Callable[[], Kept]) -> Kept:
        """What one reading found of a query, kept for a while: a chain that changes leaves the other readings alone."""
        return cast("Cache[StateKey, Kept]", self.memory.found_by_readings).get_or_make((self.state, key), make)

    def column(self, slab: int, field: str) -> FieldColumn:
        """A field's values in one slab."""
        live = self.slabs[slab]
        return live.slab.field_column(field, self._values(live))

    def values(self, slab: int, field: str) -> Iterator[Any]:
        """A field's value for every record of a slab, None for what lives no more. Raises RecordsChanged."""
        return iter(self._values(self.slabs[slab])(field))

    def order(self, slab: int, by: tuple[FieldOrder, ...]) -> NDArray[np.int32]:
        """The order of a slab's records by some fields, then by key.

        int32 (records of the slab,): each record's place.
        """
        live = self.slabs[slab]
        return live.slab.order(by, self._values(live))

    def place(self, slab: int, record_id: int, by: tuple[FieldOrder, ...]) -> tuple[Any, ...]:
        """What to sort records of several slabs by."""
        live = self.slabs[slab]
        values = self._values(live)
        columns = (place_of_value(live.slab.column(one.field, values)[record_id], one.descending) for one in by)
        return (*columns, live.slab.keys.term(record_id))

    def vectors(self, slab: int, space_id: int, state: str, make: Callable[[Path], None]) -> VectorTable:
        """The vectors of a space in one slab. Raises RecordsChanged."""
        live = self.slabs[slab]
        table = live.slab.vectors(space_id, state, make, live.dead)
        if table is None:
            raise RecordsChanged
        return table

    def groups(self, slab: int, space_id: int, state: str, table: VectorTable, make: Callable[[Path], None]) -> Groups:
        """The groups of a space's vectors in one slab."""
        return self.slabs[slab].slab.groups(space_id, state, table, make)

    def readings_on_disk(self) -> list[set[str]]:
        """Of every slab the folders of the readings whose indexes are there."""
        return [live.slab.readings_on_disk() for live in self.slabs]

    def let_go_of_readings(self, ranker: Ranker, kept: Sequence[set[str]]) -> None:
        """Removes the indexes of a ranker that were built since `kept` was told; others build them again."""
        names = {(one.field, one.chain.identity) for one in ranker.readings}
        for live, own in zip(self.slabs, kept, strict=True):
            live.slab.let_go_of_readings(names, own)

    def unremembering(self) -> "OpenCollection":
        """The same collection, with nothing remembered of what was asked: to see what a query costs.

        What comes to be remembered meanwhile is to be forgotten by its state.
        """
        fresh = copy(self)
        fresh.state = uuid4().hex
        return fresh

    def naming(self, fields: Sequence[str]) -> "OpenCollection":
        """The same collection, of which a query may name these fields alone."""
        narrowed = copy(self)
        narrowed.field_names = tuple(fields)
        return narrowed

    def remember(self, key: tuple[Any, ...], make: Callable[[], list[Placed]]) -> list[Placed]:
        """A list that follows from its key and the records alone, kept for a while."""
        return self.memory.lists.get_or_make((self.state, key), make)

    def spaces(self) -> dict[str, OpenSpace]:
        """The collection's spaces by name, in their present state."""
        with self.pool.connection() as connection:
            rows = spaces_of(connection, self.collection.id)
        # One that is open stays open; whoever asks at the same time may open it too, and either serves.
        known = self._spaces
        now = {row.identity: known.get(row.identity) or OpenSpace(self.pool, row, self.memory) for row in rows}
        self._spaces = now
        return {row.name: now[row.identity] for row in rows}

    def signal_values(self, signal: Signal) -> list[NDArray[np.float64]]:
        """A signal's values by slab and record id, before its weight."""
        name = replace(signal, weight=1.0, how=SignalHow.ADD)

        def make() -> list[NDArray[np.float64]]:
            numbers = [self.column(slab, signal.field).first_numbers() for slab in range(len(self.slabs))]
            both = zip(numbers, self.slabs, strict=True)
            basis = basis_of([own if live.alive is None else own[live.alive] for own, live in both])
            return [signal_values(name, own, basis) for own in numbers]

        return self.memory.signals.get_or_make((self.state, name), make)

    def make_ready(self, ranker: Ranker) -> None:
        """Builds or reads whatever a ranker needs, so that the search itself only searches."""
        for reading in ranker.readings:
            if reading.weight > 0:
                self.indexes(reading.field, reading.chain)
        for signal in ranker.signals:
            self.signal_values(signal)
        spaces = self.spaces() if ranker.spaces else {}
        for slab in range(len(self.slabs)):
            self.order(slab, ranker.equals_by)
            for use in ranker.spaces:
                if use.space in spaces and spaces[use.space].is_filled:
                    spaces[use.space].table(self, slab)
                    if use.near_enough is not None:
                        spaces[use.space].groups(self, slab)

    def carry_chains(self, before: "OpenCollection") -> None:
        """Knows the chains that were asked for before, of readings that are still open somewhere."""
        known = set[ReadingName]().union(*(live.slab.known_readings() for live in self.slabs))
        self.chains = {name: chain for name, chain in before.chains.items() if name in known}

    def read_alike(self, parts: Sequence[LiveSlab]) -> None:
        """Has slabs that are to be joined read as the largest of them is, so that their indexes can be joined too."""
        for name in max(parts, key=lambda live: live.living).slab.known_readings() & self.chains.keys():
            # Records that changed meanwhile are read once they are looked for.
            with suppress(RecordsChanged):
                for live in parts:
                    self._index(live, name[0], self.chains[name])

    def _index(self, live: LiveSlab, field: str, chain: ChainChoice) -> ReadingIndex:
        index = live.slab.index(field, chain, partial(self._build, live, field, chain), live.dead)
        if index is None:
            raise RecordsChanged
        return index

    def _build(self, live: LiveSlab, field: str, chain: ChainChoice, folder: Path) -> None:
        """Writes the index of a reading of a slab: in a process of its own where there are any and it is worth it."""
        building = Building(
            slab=live.slab.folder,
            alive=live.alive,
            collection=self.collection,
            record_count=self.record_count,
            field=field,
            chain=chain,
            folder=folder,
        )
        if self.processes is not None and live.slab.record_count >= ELSEWHERE_FROM:
            build_elsewhere(self.processes, building, live.slab.record_count)
        else:
            with self.pool.connection() as connection:
                build(connection, Here(), building)

    def _statistics_of(self, field: str, chain: ChainChoice, indexes: Sequence[ReadingIndex]) -> ReadingStatistics:
        name = (field, chain.identity)
        if name not in self._statistics:
            own = [(index, live.alive) for index, live in zip(indexes, self.slabs, strict=True)]
            self._statistics[name] = statistics_of(own)
        return self._statistics[name]

    def _values(self, live: LiveSlab) -> ValuesOf:
        def values(field: str) -> Iterator[Any]:
            started = perf_counter()
            with self.records_as_opened() as connection:
                yield from field_of_slab(
                    connection, self.collection.id, live.slab.keys, live.alive, field, self.record_count
                )
            structlog.get_logger().info(
                "field read",
                collection=self.collection.name,
                field=field,
                records=live.slab.record_count,
                elapsed_ms=round((perf_counter() - started) * 1000),
            )

        return values

    @contextmanager
    def records_as_opened(self) -> Generator[Connection[Any]]:
        """A connection that sees the records this was opened for. Raises RecordsChanged."""
        with self.pool.connection() as connection:
            in_one_state(connection)
            check_revision(connection, self.collection)
            yield connection


def open_collection(
    pool: Pool,
    root: Path,
    collection: Collection,
    before: OpenCollection | None,
    memory: Memory,
    processes: Processes | None = None,
) -> OpenCollection:
    """Opens a collection: from what was opened of it before, or from files, or all anew.

    Raises RecordsChanged where the records changed meanwhile.
    """
    folder = root / str(collection.uid)
    with pool.connection() as connection:
        in_one_state(connection)
        check_revision(connection, collection)
        known = None
        if before is not None and before.folder == folder:
            known = before.collection.revision, list(before.slabs)
        slabs = _brought_up_to_date(connection, folder, collection, known or _kept_slabs(folder, memory), memory)
    opened = OpenCollection(pool, folder, collection, slabs, memory, processes)
    if before is not None:
        opened.carry_chains(before)
    small = sum(live.living for live in slabs[_first_to_join(slabs) :]) <= JOINED_AT_ONCE
    if small and _first_to_join(slabs) < len(slabs):
        return with_joined_slabs(opened)
    _keep_slab_list(opened)
    return opened


def wants_joining(opened: OpenCollection) -> bool:
    """Whether some of the slabs should become one."""
    return _first_to_join(opened.slabs) < len(opened.slabs)


def with_joined_slabs(opened: OpenCollection) -> OpenCollection:
    """The same collection with fewer slabs.

    Raises Unavailable where what was written cannot be read, or a process was ended.
    """
    slabs = opened.slabs
    first = _first_to_join(slabs)
    folder = opened.folder / _slab_name()
    parts = slabs[first:]
    opened.read_alike(parts)
    readings = set[ReadingName].intersection(*(live.slab.known_readings() for live in parts))
    vectors = set[tuple[int, str]].intersection(*(live.slab.known_vectors() for live in parts))
    joining = Joining(
        folder=folder,
        parts=[(live.slab.folder, live.alive) for live in parts],
        readings=sorted(readings),
        vectors=sorted(vectors),
    )
    with timed("build", "joined slab"):
        if opened.processes is not None and sum(live.living for live in parts) > JOINED_AT_ONCE:
            opened.processes.run(join, joining)
        else:
            join_files(Here(), joining)
    slab = read_slab(folder, opened.memory)
    if slab is None:
        raise Unavailable("Files were written and cannot be read. Is there room left on the disk?")
    for name in joining.readings:
        if index_folder(folder, name).exists():
            slab.take_up(name)
    fewer = OpenCollection(
        opened.pool,
        opened.folder,
        opened.collection,
        [*slabs[:first], LiveSlab(slab, None)],
        opened.memory,
        opened.processes,
    )
    fewer.carry_chains(opened)
    _keep_slab_list(fewer)
    return fewer


def taken_over(now: OpenCollection, before: OpenCollection, fewer: OpenCollection) -> OpenCollection | None:
    """A collection that has changed since it was `before`, with the slab that came of joining that one's last slabs.

    fewer: what joining gave. None where the slabs that were joined are no longer there.
    """
    first, count = len(fewer.slabs) - 1, len(before.slabs)
    if [live.slab.name for live in now.slabs[:count]] != [live.slab.name for live in before.slabs]:
        return None
    # What changed meanwhile lives in a later slab, or nowhere.
    died = [
        then.slab.keys.term(int(record_id))
        for then, live in zip(before.slabs[first:], now.slabs[first:count], strict=True)
        if live.dead > then.dead
        for record_id in np.flatnonzero(then.living_mask & ~live.living_mask)
    ]
    joined = fewer.slabs[-1].without(died)
    taken = OpenCollection(
        now.pool,
        now.folder,
        now.collection,
        [*now.slabs[:first], joined, *now.slabs[count:]],
        now.memory,
        now.processes,
    )
    taken.carry_chains(now)
    _keep_slab_list(taken)
    return taken


def _first_to_join(slabs: Sequence[LiveSlab]) -> int:
    return first_to_join([live.living for live in slabs], [live.dead for live in slabs])


def _brought_up_to_date(
    connection: Connection[Any],
    folder: Path,
    collection: Collection,
    known: tuple[int, list[LiveSlab]] | None,
    memory: Memory,
) -> list[LiveSlab]:
    if known is not None:
        revision, slabs = known
        if revision == collection.revision:
            return slabs
        changes = changes_since(connection, collection.id, revision)
        if len(changes.written) <= sum(live.living for live in slabs):
            slabs = [live.without([*changes.written, *changes.deleted]) for live in slabs]
            if changes.written:
                slabs.append(LiveSlab(new_slab(folder / _slab_name(), changes.written, memory), None))
            return slabs
    keys = list(all_keys(connection, collection.id))
    return [LiveSlab(new_slab(folder / _slab_name(), keys, memory), None)]


def _kept_slabs(folder: Path, memory: Memory) -> tuple[int, list[LiveSlab]] | None:
    kept = read_slab_list(folder)
    if kept is None or kept.shape != INDEX_SHAPE:
        return None
    slabs: list[LiveSlab] = []
    for one in kept.slabs:
        slab = read_slab(folder / one.name, memory)
        if slab is None or slab.record_count != one.records:
            return None
        alive: NDArray[np.bool_] | None = None
        if one.dead:
            alive = np.ones(slab.record_count, np.bool_)
            alive[one.dead] = False
        slabs.append(LiveSlab(slab, alive))
    return kept.revision, slabs


def _keep_slab_list(opened: OpenCollection) -> None:
    slabs = [
        KeptSlab(
            name=live.slab.name,
            records=live.slab.record_count,
            dead=[] if live.alive is None else np.flatnonzero(~live.alive).tolist(),
        )
        for live in opened.slabs
    ]
    write_slab_list(opened.folder, SlabList(shape=INDEX_SHAPE, revision=opened.collection.revision, slabs=slabs))


def _slab_name() -> str:
    return f"slab-{uuid4().hex[:16]}"
