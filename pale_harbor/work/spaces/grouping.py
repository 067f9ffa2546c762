"""The groups of a slab's vectors: made once in a process of their own, and kept beside the vectors."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from psycopg import Connection

from pale_harbor.core.vectors import FEWEST_GROUPED, Similarity, VectorTable, grouped, regrouped
from pale_harbor.errors import Cancelled, Unavailable
from pale_harbor.formats.index_files import read_groups, read_table, write_groups
from pale_harbor.work.running.processes import Errand


@dataclass(frozen=True, slots=True, kw_only=True)
class MakingGroups:
    """vectors: the folder of a slab's vectors; record_count: of the slab; folder: where the groups go."""

    vectors: Path
    record_count: int
    similarity: Similarity
    folder: Path


def make_groups(_connection: Connection[Any], errand: Errand, making: MakingGroups) -> None:
    """Puts vectors into groups and writes these.

    Raises Cancelled once they are no longer wanted, Unavailable where the vectors cannot be read.
    """
    table = read_table(making.vectors, making.record_count)
    if table is None:
        raise Unavailable("The vectors of this collection are damaged. Try again: they are made anew.")
    write_groups(making.folder, grouped(table, making.similarity, lambda: _check_wanted(errand)))


def carry_groups(errand: Errand, before: Path, table: VectorTable, folder: Path) -> None:
    """Puts vectors around the middles that others have, without learning; nothing where too many came since.

    before: the folder of those groups, which need not be there; folder: where the new ones go. Raises Cancelled.
    """
    groups = read_groups(before)
    if groups is None or table.owners.size < FEWEST_GROUPED or groups.are_outgrown_by(table.owners.size):
        return
    write_groups(folder, regrouped(groups, table, lambda: _check_wanted(errand)))


def _check_wanted(errand: Errand) -> None:
    if not errand.wanted():
        raise Cancelled("Nobody waits for these groups any more.")
