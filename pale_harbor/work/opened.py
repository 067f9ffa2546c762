"""A collection opened for searching: its keys, and the indexes and orders asked for so far.

Record ids are places in the order of keys. One opened collection is of one state of the records;
when they change, another is opened.
"""

import hashlib
import json
from collections import deque
from collections.abc import Generator, Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Lock
from time import perf_counter
from typing import Any, Final

import numpy as np
import structlog
from numpy.typing import NDArray
from psycopg import Connection

from pale_harbor import __version__
from pale_harbor.core.index import ReadingIndex, Vocabulary, build_index, vocabulary_of
from pale_harbor.core.ranking import FieldOrder, FieldValue, Workspace, order_of_equals
from pale_harbor.core.text import Chain
from pale_harbor.formats.index_files import read_index, read_vocabulary, write_index, write_vocabulary
from pale_harbor.store.collections import Collection, collection_named
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records import all_keys, field_values

# Raised when the files' shape changes: files of another shape are never found, and built anew.
INDEX_SHAPE: Final = 2


class RecordsChanged(Exception):
    """The records are no longer those that the collection was opened for."""


class OpenCollection:
    """Keys, indexes and orders of one state of a collection; safe to use from several threads."""

    def __init__(self, pool: Pool, folder: Path, collection: Collection) -> None:
        self.pool = pool
        self.collection = collection
        self.folder = folder / (collection.fingerprint[:32] or "empty")
        self.keys = self._keys()
        self._indexes: dict[tuple[str, str], ReadingIndex] = {}
        self._orders: dict[tuple[FieldOrder, ...], NDArray[np.int32]] = {}
        self._workspaces: deque[Workspace] = deque()
        self._building = Lock()

    @property
    def record_count(self) -> int:
        return len(self.keys)

    def index(self, field: str, chain: Chain) -> ReadingIndex:
        """The index of a field read through a chain: from memory, from its files, or built now."""
        name = (field, chain.notation)
        if name not in self._indexes:
            with self._building:
                if name not in self._indexes:
                    self._indexes[name] = self._read_or_build(field, chain)
        return self._indexes[name]

    def order(self, equals_by: tuple[FieldOrder, ...]) -> NDArray[np.int32]:
        """The order of equal scores."""
        if equals_by not in self._orders:
            columns = [(self._order_values(by.field), by.descending) for by in equals_by]
            self._orders[equals_by] = order_of_equals(columns, self.record_count)
        return self._orders[equals_by]

    def workspace(self) -> "_BorrowedWorkspace":
        """Room for one search, given back when the `with` ends."""
        return _BorrowedWorkspace(self._workspaces, self.record_count)

    @contextmanager
    def _records(self) -> Generator[Connection[Any]]:
        """A connection that sees the records this was opened for. Raises RecordsChanged."""
        with self.pool.connection() as connection:
            in_one_state(connection)
            if collection_named(connection, self.collection.name).fingerprint != self.collection.fingerprint:
                raise RecordsChanged
            yield connection

    def _keys(self) -> Vocabulary:
        folder = self.folder / "keys"
        keys = read_vocabulary(folder)
        if keys is None:
            with self._records() as connection:
                keys = vocabulary_of(list(all_keys(connection, self.collection.id)))
            write_vocabulary(folder, keys)
        return keys

    def _read_or_build(self, field: str, chain: Chain) -> ReadingIndex:
        content = json.dumps([field, chain.notation, INDEX_SHAPE, __version__])
        folder = self.folder / hashlib.sha256(content.encode()).hexdigest()[:32]
        index = read_index(folder)
        if index is not None and index.record_count == self.record_count:
            return index
        started = perf_counter()
        with self._records() as connection:
            values = field_values(connection, self.collection.id, field)
            index = build_index(map(texts_of, values), chain)
        write_index(folder, index)
        structlog.get_logger().info(
            "index built",
            collection=self.collection.name,
            field=field,
            chain=chain.notation,
            terms=len(index.vocabulary),
            index_bytes=index.index_bytes,
            elapsed_ms=round((perf_counter() - started) * 1000),
        )
        return index

    def _order_values(self, field: str) -> list[FieldValue]:
        with self._records() as connection:
            return [_order_value(value) for value in field_values(connection, self.collection.id, field)]


class _BorrowedWorkspace:
    def __init__(self, free: deque[Workspace], record_count: int) -> None:
        self.free = free
        self.record_count = record_count

    def __enter__(self) -> Workspace:
        try:
            self.workspace = self.free.pop()
        except IndexError:
            self.workspace = Workspace(self.record_count)
        return self.workspace

    def __exit__(self, error: object, *_: object) -> None:
        # After an error it may not be all zero again, and is dropped.
        if error is None:
            self.free.append(self.workspace)


def texts_of(value: Any) -> list[str]:
    """The texts of a field's value as a reading sees them: none, one, or several."""
    return list(_texts(value))


def _texts(value: Any) -> Iterator[str]:
    match value:
        case None:
            return
        case list():
            for item in value:
                yield from _texts(item)
        case bool():
            yield "true" if value else "false"
        case _:
            yield str(value)


def _order_value(value: Any) -> FieldValue:
    if isinstance(value, list):
        value = value[0] if value else None
    if value is None or isinstance(value, str):
        return value
    return float(value)
