"""Joins slabs: their living records become one slab, with the indexes and vectors that all of them had."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from psycopg import Connection

from pale_harbor.core.index import merged_index, vocabulary_of
from pale_harbor.core.ranking import Alive
from pale_harbor.core.vectors import merged_tables
from pale_harbor.errors import Cancelled, Unavailable
from pale_harbor.formats.index_files import (
    read_index,
    read_table,
    read_vocabulary,
    write_index,
    write_table,
    write_vocabulary,
)
from pale_harbor.work.collections.slab import ReadingName, groups_folder, index_folder, vectors_folder
from pale_harbor.work.running.processes import Errand
from pale_harbor.work.spaces.grouping import carry_groups


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Joining:
    """Which slabs become one. folder: of the new one; parts: the others' folders, with which of their records live.

    readings: whose indexes all parts have; vectors: spaces, each with the state in which all parts have it.
    """

    folder: Path
    parts: list[tuple[Path, Alive | None]]
    readings: list[ReadingName]
    vectors: list[tuple[int, str]]


def join(_connection: Connection[Any], errand: Errand, joining: Joining) -> None:
    """`join_files` as a task of a process of its own."""
    join_files(errand, joining)


def join_files(errand: Errand, joining: Joining) -> None:
    """Writes the slab that slabs become. What is missing of a part meanwhile is left out, and made again when asked.

    Raises Cancelled once it is no longer wanted, Unavailable where a part's keys cannot be read.
    """
    living: list[tuple[str, int, int]] = []
    sizes: list[int] = []
    for number, (folder, alive) in enumerate(joining.parts):
        keys = read_vocabulary(folder / "keys")
        if keys is None:
            raise Unavailable("The files of this collection are damaged. Try again: they are made anew.")
        sizes.append(len(keys))
        living += [(key, number, record_id) for record_id, key in enumerate(keys) if alive is None or alive[record_id]]
    living.sort()
    write_vocabulary(joining.folder / "keys", vocabulary_of([key for key, _, _ in living]))
    new_ids = [np.full(size, -1, np.int32) for size in sizes]
    for new_id, (_, number, record_id) in enumerate(living):
        new_ids[number][record_id] = new_id
    for name in joining.readings:
        _check_wanted(errand)
        # The dead are left out anyway, so an index that was built without them serves as well.
        indexes = [read_index(index_folder(folder, name)) for folder, _ in joining.parts]
        whole = [(index, ids) for index, ids in zip(indexes, new_ids, strict=True) if index is not None]
        if len(whole) == len(indexes):
            write_index(index_folder(joining.folder, name), merged_index(whole, len(living)))
    for space, state in joining.vectors:
        _check_wanted(errand)
        tables = [
            read_table(vectors_folder(folder, space, state), size)
            for (folder, _), size in zip(joining.parts, sizes, strict=True)
        ]
        filled = [(table, ids) for table, ids in zip(tables, new_ids, strict=True) if table is not None]
        if len(filled) == len(tables):
            merged = merged_tables(filled, len(living))
            write_table(vectors_folder(joining.folder, space, state), merged)
            largest = joining.parts[int(np.argmax(sizes))][0]
            carry_groups(
                errand, groups_folder(largest, space, state), merged, groups_folder(joining.folder, space, state)
            )


def _check_wanted(errand: Errand) -> None:
    if not errand.wanted():
        raise Cancelled("Nobody waits for this any more.")
