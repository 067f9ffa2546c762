"""Restores a backup into an installation that holds nothing yet: whole and unchanged, or not at all."""

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from psycopg import Connection, DataError, IntegrityError, ProgrammingError

from pale_harbor.errors import BadInput
from pale_harbor.formats.backup_file import BackupReader, BackupTold, KeptTable
from pale_harbor.formats.records.conversion import content_hash
from pale_harbor.store.backups.tables import (
    Counter,
    TableShape,
    copy_in,
    is_empty,
    make_empty_tables,
    set_counters,
    table_shapes,
    without_guards,
)
from pale_harbor.store.collections.collections import all_collections
from pale_harbor.store.database import Pool, apply_migrations, known_migrations, serving_alone
from pale_harbor.store.following.sources import pause_all
from pale_harbor.store.records.records import digested_records

RESTORED: Final = (
    "It comes from a backup. Go on only where the installation that the backup was made of follows no longer: both "
    "would take away what the database keeps for one."
)


@dataclass(frozen=True, slots=True)
class Restored:
    """What came back. brought_up: the migrations that the backup's tables lacked; differing: by collection, how many
    records are not what their digest says, and were not when the backup was made."""

    told: BackupTold
    brought_up: list[str]
    differing: dict[str, int]


def restore_backup(
    pool: Pool, index_folder: Path, file: Path, telling: Callable[[str], None] = lambda _: None
) -> Restored:
    """Puts back what a backup holds. Its tables are brought up to date where this version is newer.

    telling: hears which table is being read. Raises BadInput where the file is no backup of this version or an older
    one, or is damaged, and where something is kept here already; Unavailable where a server works on this data.
    """
    with BackupReader(file) as backup, serving_alone(str(pool.conninfo), patience_s=0.0):
        last = _last_migration(file, backup.told)
        with pool.connection() as connection:
            if not is_empty(connection):
                raise BadInput(
                    "There are collections or people here already, and a backup is restored where there is nothing "
                    "yet. Name a new data folder in PALEHARBOR_DATA."
                )
            make_empty_tables(connection, last)
            _check_shapes(file, backup.told, table_shapes(connection))
            without_guards(connection, lambda: _fill(connection, backup, file, telling))
            counted = [Counter(one.table, one.column, one.last) for one in backup.told.counters]
            set_counters(connection, counted)
            brought_up = apply_migrations(connection)
            # Whoever it is a copy of may follow still, and take away what the source keeps for both.
            pause_all(connection, RESTORED)
            differing = _differing(connection, telling)
    # Of data that was here before, with which they may share their names.
    shutil.rmtree(index_folder, ignore_errors=True)
    return Restored(backup.told, brought_up, differing)


def _last_migration(file: Path, told: BackupTold) -> str:
    known = known_migrations()
    if told.migrations != known[: len(told.migrations)]:
        newer = next((one for one in told.migrations if one not in known), None)
        if newer is None:
            raise BadInput(f"{file} is damaged: its tables were made by steps that do not follow each other.")
        raise BadInput(
            f"{file} was made by a newer version of Pale Harbor, which changed the tables ({newer}). Restore it with "
            "that version."
        )
    return told.migrations[-1]


def _check_shapes(file: Path, told: BackupTold, made: list[TableShape]) -> None:
    kept = {one.name: set(one.columns) for one in told.tables}
    if kept != {one.name: set(one.columns) for one in made}:
        raise BadInput(f"{file} is damaged: it has not the tables that it says it has.")


def _fill(connection: Connection[Any], backup: BackupReader, file: Path, telling: Callable[[str], None]) -> None:
    for table in backup.told.tables:
        telling(table.name)
        try:
            copied = copy_in(connection, TableShape(table.name, table.columns), backup.pieces(table.name))
        except (DataError, IntegrityError, ProgrammingError) as error:
            raise _damaged(file, table) from error
        if (copied.rows, copied.digest) != (table.rows, table.digest):
            raise _damaged(file, table)


def _damaged(file: Path, table: KeptTable) -> BadInput:
    return BadInput(
        f'{file} is damaged: the rows of "{table.name}" are not those that were kept. Nothing was restored.'
    )


def _differing(connection: Connection[Any], telling: Callable[[str], None]) -> dict[str, int]:
    """By collection, how many records do not say what their digest says."""
    found: dict[str, int] = {}
    for collection in all_collections(connection):
        telling(f"records of {collection.name}")
        count = sum(
            content_hash(key, values) != digest for key, digest, values in digested_records(connection, collection.id)
        )
        if count:
            found[collection.name] = count
    return found
