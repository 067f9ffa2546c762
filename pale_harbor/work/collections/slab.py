"""A slab: some of a collection's records, as they were when it was written. Never changed after.

A record that was changed or deleted since is dead in its slab, which the opened collection knows and
the slab does not. Dead records never come back to life, so whoever builds an index of a slab may
read nothing for them.
"""

import hashlib
import json
import os
import shutil
from collections import deque
from collections.abc import Callable, Generator, Iterable
from contextlib import contextmanager
from pathlib import Path
from threading import Lock
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor import __version__
from pale_harbor.core.fields import FieldColumn, column_of
from pale_harbor.core.index import ReadingIndex, Vocabulary, vocabulary_of
from pale_harbor.core.ranking import FieldOrder, FieldValue, Workspace, order_of_equals
from pale_harbor.core.text import ChainChoice
from pale_harbor.core.vectors import Groups, VectorTable
from pale_harbor.errors import Unavailable
from pale_harbor.formats.index_files import (
    let_go_of_indexes,
    read_groups,
    read_index,
    read_table,
    read_vocabulary,
    write_vocabulary,
)
from pale_harbor.work.records.values import order_value
from pale_harbor.work.running.caches import Memory, SlabKey
from pale_harbor.work.running.timed import timed
from pale_harbor.work.running.wanted import check_wanted, held_while_wanted

# Raised when the files' shape changes, or what a stage makes of a text: older files are never found, and built anew.
INDEX_SHAPE: Final = 6

_MOST_KEPT_KEYS: Final = 200_000

ReadingName = tuple[str, str]
ValuesOf = Callable[[str], Iterable[Any]]


class Slab:
    """Keys in code point order, which give record ids. What was asked of it is kept in memory, or made again."""

    def __init__(self, folder: Path, keys: Vocabulary, memory: Memory) -> None:
        self.folder = folder
        self.keys = keys
        self.memory = memory
        self._workspaces: deque[Workspace] = deque()
        # One index at a time: each needs room for its postings while it is built.
        self._building = Lock()

    @property
    def name(self) -> str:
        """What its folder is called."""
        return self.folder.name

    @property
    def record_count(self) -> int:
        """How many records it has, dead ones included."""
        return len(self.keys)

    def _key(self, *what: Any) -> SlabKey:
        return str(self.folder), what

    def index(self, field: str, chain: ChainChoice, build: Callable[[Path], None], dead: int) -> ReadingIndex | None:
        """The index of a field read through a chain: from memory, from its files, or built now.

        build: writes it to a folder. dead: how many records are dead to the caller; None is returned where the index
        was built when more were, since they are missing from it.
        """

        def make() -> tuple[ReadingIndex, int]:
            return self._read_or_build(index_folder(self.folder, (field, chain.identity)), build), dead

        index, built_with = self.memory.indexes.get_or_make(self._key(field, chain.identity), make)
        return index if built_with <= dead else None

    def vectors(self, space_id: int, state: str, make: Callable[[Path], None], dead: int) -> VectorTable | None:
        """The vectors of a space in one state: from memory, from files, or made now.

        make: writes them to a folder. dead: as for an index; None is returned where they were made when more
        were. Raises Unavailable where what was made cannot be read.
        """

        def read_or_make() -> tuple[str, VectorTable, int]:
            folder = vectors_folder(self.folder, space_id, state)
            table = read_table(folder, self.record_count)
            if table is None:
                make(folder)
                self._forget_older(space_id, folder)
                table = read_table(folder, self.record_count)
            if table is None:
                raise Unavailable("The vectors that were just made cannot be read. Is there room on the disk?")
            return state, table, dead

        key = self._key(space_id, state)
        _, table, made_with = self.memory.vectors.get_or_make(key, read_or_make)
        self.memory.vectors.let_go(lambda one: one[0] == key[0] and one[1][0] == space_id and one != key)
        return table if made_with <= dead else None

    def groups(self, space_id: int, state: str, table: VectorTable, make: Callable[[Path], None]) -> Groups:
        """The groups of a space's vectors in one state: from memory, from files, or made now.

        table: those vectors; make: writes the groups to a folder. Raises Unavailable where what was made cannot be
        read.
        """
        folder = groups_folder(self.folder, space_id, state)

        def read_or_make() -> Groups:
            groups = read_groups(folder)
            if groups is None or groups.codes.shape != table.vectors.shape:
                with timed("build", "groups"):
                    make(folder)
                groups = read_groups(folder)
            if groups is None:
                raise Unavailable("The groups that were just made cannot be read. Is there room on the disk?")
            return groups

        key = self._key(space_id, state)
        groups = self.memory.groups.get_or_make(key, read_or_make)
        if groups.codes.shape != table.vectors.shape:
            # Of vectors that were made when more records were dead.
            self.memory.groups.let_go(lambda one: one == key)
            groups = self.memory.groups.get_or_make(key, read_or_make)
        return groups

    def forget_vectors(self, space_id: int) -> None:
        """Lets go of a space that was dropped."""
        for cache in (self.memory.vectors, self.memory.groups):
            cache.let_go(lambda key: key[0] == str(self.folder) and key[1][0] == space_id)
        for kind in ("vectors", "groups"):
            for folder in self.folder.glob(f"{kind}-{space_id}-*"):
                shutil.rmtree(folder, ignore_errors=True)

    def known_vectors(self) -> set[tuple[int, str]]:
        """The spaces whose vectors are in memory, each with its state."""
        kept = [
            (key, self.memory.vectors.get(key)) for key in self.memory.vectors.held_keys() if key[0] == str(self.folder)
        ]
        return {(key[1][0], one[0]) for key, one in kept if one is not None}

    def _forget_older(self, space_id: int, folder: Path) -> None:
        # Groups are of vectors, which are others now.
        self.memory.groups.let_go(lambda key: key[0] == str(self.folder) and key[1][0] == space_id)
        for kind in ("vectors", "groups"):
            for old in self.folder.glob(f"{kind}-{space_id}-*"):
                if old != folder:
                    shutil.rmtree(old, ignore_errors=True)

    def known_readings(self) -> set[ReadingName]:
        """The readings whose indexes are open."""
        return {key[1] for key in self.memory.indexes.held_keys() if key[0] == str(self.folder)}

    def readings_on_disk(self) -> set[str]:
        """The folders of the readings whose indexes are there."""
        return {one.name for one in self.folder.iterdir() if one.is_dir()}

    def let_go_of_readings(self, names: set[ReadingName], kept: set[str]) -> None:
        """Removes the indexes of some readings, but for those whose folder is among `kept`."""
        for name in names & self.known_readings():
            folder = index_folder(self.folder, name)
            if folder.name not in kept:
                self.memory.indexes.let_go(lambda key, name=name: key == self._key(*name))
                shutil.rmtree(folder, ignore_errors=True)

    def key_texts(self) -> list[str] | None:
        """All keys by record id, where they are few enough to be kept; None in a large slab."""
        if self.record_count > _MOST_KEPT_KEYS:
            return None
        return self.memory.orders.get_or_make(self._key("keys"), lambda: list(self.keys))

    def column(self, field: str, values: ValuesOf) -> list[FieldValue]:
        """A field's values by record id, as equal scores are ordered by them."""
        key = self._key("values", field)
        return self.memory.orders.get_or_make(key, lambda: [order_value(value) for value in values(field)])

    def field_column(self, field: str, values: ValuesOf) -> FieldColumn:
        """A field's values as filters, facets and signals need them."""
        return self.memory.columns.get_or_make(self._key(field), lambda: column_of(values(field)))

    def order(self, equals_by: tuple[FieldOrder, ...], values: ValuesOf) -> NDArray[np.int32]:
        """The order of equal scores within the slab. int32 (records,): each record's place."""

        def make() -> NDArray[np.int32]:
            columns = [(self.column(by.field, values), by.descending) for by in equals_by]
            return order_of_equals(columns, self.record_count)

        return self.memory.orders.get_or_make(self._key("order", equals_by), make)

    @contextmanager
    def workspace(self) -> Generator[Workspace]:
        """Room for one search. After an error it may not be all zero again, and is not given back."""
        try:
            workspace = self._workspaces.pop()
        except IndexError:
            workspace = Workspace(self.record_count)
        yield workspace
        self._workspaces.append(workspace)

    def _read_or_build(self, folder: Path, build: Callable[[Path], None]) -> ReadingIndex:
        index = read_index(folder)
        if index is not None and index.record_count == self.record_count:
            # Told by its last use whether it is still wanted.
            os.utime(folder)
            return index
        with held_while_wanted(self._building):
            # Whoever waited here longer than somebody waits for it need not begin.
            check_wanted()
            with timed("build", "index"):
                build(folder)
        return self._written_index(folder)

    def _written_index(self, folder: Path) -> ReadingIndex:
        """An index read from its files: what is mapped, the system can let go of. Others may have to go for it."""
        if let_go_of_indexes(self.folder.parent.parent, self.memory.disk_bytes):
            # Files that are gone take up room until nobody has them open.
            self.memory.indexes.let_go(lambda key: not index_folder(Path(key[0]), key[1]).exists())
        index = read_index(folder)
        if index is None:
            raise Unavailable("An index was written and cannot be read. Is there room left on the disk?")
        return index

    def take_up(self, name: ReadingName) -> None:
        """Opens an index that was written to its folder while every record of the slab lived."""
        self.memory.indexes.put(self._key(*name), (self._written_index(index_folder(self.folder, name)), 0))


def index_folder(slab: Path, name: ReadingName) -> Path:
    """Where the index of a reading of a slab goes."""
    content = json.dumps([*name, INDEX_SHAPE, __version__])
    return slab / hashlib.sha256(content.encode()).hexdigest()[:32]


def vectors_folder(slab: Path, space_id: int, state: str) -> Path:
    """Where the vectors of a slab's records in a space's state go."""
    return slab / f"vectors-{space_id}-{state}"


def groups_folder(slab: Path, space_id: int, state: str) -> Path:
    """Where the groups of a slab's vectors in a space's state go."""
    return slab / f"groups-{space_id}-{state}"


def new_slab(folder: Path, sorted_keys: list[str], memory: Memory) -> Slab:
    """A slab of these keys, written."""
    keys = vocabulary_of(sorted_keys)
    write_vocabulary(folder / "keys", keys)
    return Slab(folder, keys, memory)


def read_slab(folder: Path, memory: Memory) -> Slab | None:
    """The slab in a folder; None where it is missing or damaged."""
    keys = read_vocabulary(folder / "keys")
    return None if keys is None else Slab(folder, keys, memory)
