"""Reads a whole collection by one chain; in a process of its own where the server does it."""

from collections.abc import Iterator
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.consequences import Gathered, Gatherer
from pale_harbor.core.text import Chain
from pale_harbor.errors import Cancelled
from pale_harbor.store.database import in_one_state
from pale_harbor.store.records.records import keyed_field_values
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.running.processes import Errand

# So many that what is done once for each distinct word of a batch is not done too often; few enough that it is seen to
# go on.
_RECORDS_AT_ONCE: Final = 12_000
_LETTERS_AT_ONCE: Final = 3_000_000


def read_whole(
    connection: Connection[Any], errand: Errand, collection_id: int, field_name: str, chain: Chain
) -> Gathered:
    """What a chain does to every record. Tells how many were read. Raises Cancelled, ChainError."""
    gatherer = Gatherer(chain)
    in_one_state(connection)

    def look() -> None:
        if not errand.wanted():
            raise Cancelled("Nobody waits for these figures any more.")

    for batch in _batches(keyed_field_values(connection, collection_id, field_name)):
        look()
        gatherer.add(batch, look)
        errand.came_to(gatherer.records)
    return gatherer.finished(gatherer.records)


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
