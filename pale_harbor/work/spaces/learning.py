"""Learns a space from the collection's own records; in a process of its own where the server does it."""

from collections.abc import Iterator
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.index import build_index
from pale_harbor.core.vectors import learned_space
from pale_harbor.errors import BadInput, Cancelled
from pale_harbor.formats.learned_files import learned_as_bytes
from pale_harbor.formats.space_document import LearnedSource, space_document
from pale_harbor.store.collections.collections import fields_of
from pale_harbor.store.records.records import sampled_records
from pale_harbor.store.spaces.spaces import Space, begin_epoch, keep_learned
from pale_harbor.work.chains.saved_parts import SavedParts
from pale_harbor.work.running.processes import Errand
from pale_harbor.work.spaces.texts import covered_by

# Of more records a sample says what company words keep; it is the same sample each time.
MOST_LEARNED_FROM: Final = 100_000


def learn(connection: Connection[Any], errand: Errand, space: Space, source: LearnedSource, count: int) -> None:
    """Learns which words keep company, and keeps that as the space's next epoch.

    Tells each record read, of `count`, and from then on each turn of the learning. Raises BadInput where there is too
    little to learn from, Cancelled once it is no longer wanted.
    """
    step = 0

    def one_more() -> None:
        nonlocal step
        step += 1
        errand.came_to(step)
        if not errand.wanted():
            raise Cancelled("Nobody waits for this space any more.")

    chain = SavedParts(connection, space.collection_id).chain(source.chain)
    covered = covered_by(space_document(space.document), fields_of(connection, space.collection_id))

    def texts() -> Iterator[list[str]]:
        for record in sampled_records(connection, space.collection_id, MOST_LEARNED_FROM):
            one_more()
            yield [piece.text for piece in covered.pieces(record.field_values)]

    index = build_index(texts(), chain)
    # Records may have gone since they were counted.
    step = max(step, count)
    learned = learned_space(index, source.dimensions, one_more)
    if learned.dimensions < 1:
        raise BadInput("There is too little to learn from: no two words stand together in two records.")
    begin_epoch(connection, space.id, f"learned from {index.record_count:,} records", learned.dimensions)
    keep_learned(connection, space.id, space.epoch + 1, learned_as_bytes(learned))
