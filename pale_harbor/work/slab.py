"""A slab: some of a collection's records, as they were when it was written. Never changed after.

A record that was changed or deleted since is dead in its slab, which the opened collection knows and
the slab does not. Dead records never come back to life, so whoever builds an index of a slab may
read nothing for them.
"""

import hashlib
import json
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
from pale_harbor.core.index import ReadingIndex, Vocabulary, build_index, merged_index, vocabulary_of
from pale_harbor.core.ranking import FieldOrder, FieldValue, Workspace, order_of_equals
from pale_harbor.core.text import Chain, ChainChoice
from pale_harbor.core.vectors import VectorTable, merged_tables
from pale_harbor.formats.index_files import (
    read_index,
    read_table,
    read_vocabulary,
    write_index,
    write_table,
    write_vocabulary,
)

# Raised when the files' shape changes: files of another shape are never found, and built anew.
INDEX_SHAPE: Final = 4

ReadingName = tuple[str, str]
Values = Callable[[str], Iterable[Any]]


class Slab:
    """Keys in code point order, which give record ids; the indexes and orders asked for so far."""

    def __init__(self, folder: Path, keys: Vocabulary) -> None:
        self.folder = folder
        self.keys = keys
        # Each with how many records were dead when it was built.
        self._indexes: dict[ReadingName, tuple[ReadingIndex, int]] = {}
        self._columns: dict[str, list[FieldValue]] = {}
        self._field_columns: dict[str, FieldColumn] = {}
        self._orders: dict[tuple[FieldOrder, ...], NDArray[np.int32]] = {}
        # By space the vectors of its newest state, and how many records were dead when they were made.
        self._vectors: dict[int, tuple[str, VectorTable, int]] = {}
        self._workspaces: deque[Workspace] = deque()
        self._building = Lock()
        self._making_vectors = Lock()

    @property
    def name(self) -> str:
        return self.folder.name

    @property
    def record_count(self) -> int:
        return len(self.keys)

    def index(self, field: str, chain: ChainChoice, values: Values, dead: int) -> ReadingIndex | None:
        """The index of a field read through a chain: from memory, from its files, or built now.

        values: gives a field's value for every record. dead: how many are dead to the caller; None
        is returned where the index was built when more were, since they are missing from it.
        """
        name = (field, chain.identity)
        if name not in self._indexes:
            with self._building:
                if name not in self._indexes:
                    self._indexes[name] = self._read_or_build(field, chain, values), dead
        index, built_with = self._indexes[name]
        return index if built_with <= dead else None

    def vectors(self, space_id: int, key: str, make: Callable[[], VectorTable], dead: int) -> VectorTable | None:
        """The vectors of a space in the state that the key names: from memory, from files, or made now.

        dead: as for an index; None is returned where they were made when more were.
        """
        known = self._vectors.get(space_id)
        if known is None or known[0] != key:
            with self._making_vectors:
                known = self._vectors.get(space_id)
                if known is None or known[0] != key:
                    table = read_table(self._vectors_folder(space_id, key), self.record_count)
                    if table is None:
                        table = make()
                        self._keep_vectors(space_id, key, table)
                    known = self._vectors[space_id] = (key, table, dead)
        _, table, made_with = known
        return table if made_with <= dead else None

    def forget_vectors(self, space_id: int) -> None:
        """Lets go of a space that was dropped."""
        self._vectors.pop(space_id, None)
        for folder in self.folder.glob(f"vectors-{space_id}-*"):
            shutil.rmtree(folder, ignore_errors=True)

    def known_vectors(self) -> dict[int, tuple[str, VectorTable]]:
        """The vectors that are in memory, by space."""
        return {space_id: (key, table) for space_id, (key, table, _) in self._vectors.items()}

    def take_over_vectors(self, space_id: int, key: str, table: VectorTable) -> None:
        """Keeps vectors that were put together elsewhere."""
        self._keep_vectors(space_id, key, table)
        self._vectors[space_id] = (key, table, 0)

    def _keep_vectors(self, space_id: int, key: str, table: VectorTable) -> None:
        folder = self._vectors_folder(space_id, key)
        write_table(folder, table)
        for old in self.folder.glob(f"vectors-{space_id}-*"):
            if old != folder:
                shutil.rmtree(old, ignore_errors=True)

    def _vectors_folder(self, space_id: int, key: str) -> Path:
        return self.folder / f"vectors-{space_id}-{key}"

    def known_readings(self) -> set[ReadingName]:
        """The readings whose indexes are in memory."""
        return set(self._indexes)

    def known_index(self, name: ReadingName) -> ReadingIndex:
        """An index that is in memory; KeyError where it is not."""
        return self._indexes[name][0]

    def column(self, field: str, values: Values) -> list[FieldValue]:
        """A field's values by record id, as equal scores are ordered by them."""
        if field not in self._columns:
            self._columns[field] = [order_value(value) for value in values(field)]
        return self._columns[field]

    def field_column(self, field: str, values: Values) -> FieldColumn:
        """A field's values as filters, facets and signals need them."""
        if field not in self._field_columns:
            self._field_columns[field] = column_of(values(field))
        return self._field_columns[field]

    def order(self, equals_by: tuple[FieldOrder, ...], values: Values) -> NDArray[np.int32]:
        """The order of equal scores within the slab."""
        if equals_by not in self._orders:
            columns = [(self.column(by.field, values), by.descending) for by in equals_by]
            self._orders[equals_by] = order_of_equals(columns, self.record_count)
        return self._orders[equals_by]

    @contextmanager
    def workspace(self) -> Generator[Workspace]:
        """Room for one search. After an error it may not be all zero again, and is not given back."""
        try:
            workspace = self._workspaces.pop()
        except IndexError:
            workspace = Workspace(self.record_count)
        yield workspace
        self._workspaces.append(workspace)

    def _read_or_build(self, field: str, chain: ChainChoice, values: Values) -> ReadingIndex:
        folder = self._index_folder((field, chain.identity))
        index = read_index(folder)
        if index is None or index.record_count != self.record_count:
            texts = (texts_of(value) for value in values(field))
            if isinstance(chain, Chain):
                index = build_index(texts, chain)
            else:
                index = build_index(texts, chain, (language_in(value) for value in values(chain.by)))
            write_index(folder, index)
        return index

    def _index_folder(self, name: ReadingName) -> Path:
        content = json.dumps([*name, INDEX_SHAPE, __version__])
        return self.folder / hashlib.sha256(content.encode()).hexdigest()[:32]

    def take_over(self, name: ReadingName, index: ReadingIndex, dead: int) -> None:
        """Keeps an index that was made elsewhere."""
        write_index(self._index_folder(name), index)
        self._indexes[name] = (index, dead)


def new_slab(folder: Path, sorted_keys: list[str]) -> Slab:
    """A slab of these keys, written."""
    keys = vocabulary_of(sorted_keys)
    write_vocabulary(folder / "keys", keys)
    return Slab(folder, keys)


def read_slab(folder: Path) -> Slab | None:
    """The slab in a folder; None where it is missing or damaged."""
    keys = read_vocabulary(folder / "keys")
    return None if keys is None else Slab(folder, keys)


def joined_slab(folder: Path, parts: list[tuple[Slab, NDArray[np.bool_] | None]]) -> Slab:
    """One slab of several slabs' living records, with the indexes that all of them had in memory."""
    living: list[tuple[str, int, int]] = []
    for number, (slab, alive) in enumerate(parts):
        living += [
            (key, number, record_id) for record_id, key in enumerate(slab.keys) if alive is None or alive[record_id]
        ]
    living.sort()
    joined = new_slab(folder, [key for key, _, _ in living])
    new_ids = [np.full(slab.record_count, -1, np.int32) for slab, _ in parts]
    for new_id, (_, number, record_id) in enumerate(living):
        new_ids[number][record_id] = new_id
    shared = set[ReadingName].intersection(*(slab.known_readings() for slab, _ in parts))
    for field, identity in sorted(shared):
        # The dead are left out anyway, so an index that was built without them serves as well.
        found = [slab.known_index((field, identity)) for slab, _ in parts]
        index = merged_index(list(zip(found, new_ids, strict=True)), len(living))
        joined.take_over((field, identity), index, 0)
    for space_id, (key, _) in parts[0][0].known_vectors().items():
        tables = [slab.known_vectors().get(space_id, ("", None)) for slab, _ in parts]
        whole = [(table, ids) for (own, table), ids in zip(tables, new_ids, strict=True) if own == key and table]
        if len(whole) == len(parts):
            joined.take_over_vectors(space_id, key, merged_tables(whole, len(living)))
    return joined


def texts_of(value: Any) -> list[str]:
    """The texts of a field's value as a reading sees them: none, one, or several."""
    match value:
        case None:
            return []
        case list():
            return [text for item in value for text in texts_of(item)]
        case bool():
            return ["true" if value else "false"]
        case _:
            return [str(value)]


def language_in(value: Any) -> str | None:
    """What a field says of a record's language: the first of several values."""
    texts = texts_of(value)
    return texts[0] if texts else None


def order_value(value: Any) -> FieldValue:
    """What equal scores are ordered by: the first of several values."""
    if isinstance(value, list):
        value = value[0] if value else None
    if value is None or isinstance(value, str):
        return value
    return float(value)
