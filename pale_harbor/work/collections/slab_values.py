"""The values of a slab's records, as they are kept."""

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any, Final, TypeVar

from psycopg import Connection

from pale_harbor.core.index import Vocabulary
from pale_harbor.core.ranking import Alive
from pale_harbor.errors import RecordsChanged
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.records.records import field_values_of, keyed_field_values

T = TypeVar("T")

_KEYS_AT_ONCE: Final = 5_000


def check_revision(connection: Connection[Any], collection: Collection) -> None:
    """Raises RecordsChanged where the records are no longer those of the collection as it was opened."""
    now = collection_named(connection, collection.name)
    if (now.uid, now.revision) != (collection.uid, collection.revision):
        raise RecordsChanged


def field_of_slab(
    connection: Connection[Any],
    collection_id: int,
    keys: Vocabulary,
    alive: Alive | None,
    field: str,
    record_count: int,
    part: range | None = None,
) -> Iterator[Any]:
    """A field's value for every record of a slab, None for the dead.

    record_count: of the whole collection; part: the ids of the slab's records that are wanted, all where it is None.
    """
    part = range(len(keys)) if part is None else part

    def lives(record_id: int) -> bool:
        return alive is None or bool(alive[record_id])

    if 2 * len(keys) <= record_count:
        for some in _batches(((record_id, keys.term(record_id)) for record_id in part), _KEYS_AT_ONCE):
            found = field_values_of(connection, collection_id, field, [key for _, key in some])
            for record_id, key in some:
                yield found.get(key) if lives(record_id) else None
        return
    # Most of the collection: its records are read in order, and those of other slabs passed over.
    rows = keyed_field_values(connection, collection_id, field, keys.term(part.start) if part else "")
    row_key, value = next(rows, (None, None))
    for record_id in part:
        key = keys.term(record_id)
        while row_key is not None and row_key < key:
            row_key, value = next(rows, (None, None))
        yield value if row_key == key and lives(record_id) else None


def _batches(items: Iterable[T], size: int) -> Iterator[list[T]]:
    """Runs of at most `size` items."""
    iterator = iter(items)
    while some := list(islice(iterator, size)):
        yield some
