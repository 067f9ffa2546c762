"""Makes a backup of everything that is kept, of one moment, while a server works on it."""

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from pale_harbor import __version__
from pale_harbor.errors import BadInput
from pale_harbor.formats.backup_file import (
    FORMAT,
    BackupTold,
    KeptCollection,
    KeptCounter,
    KeptTable,
    writing_backup,
)
from pale_harbor.formats.whole_files import PRIVATE, written_whole
from pale_harbor.store.backups.tables import applied_migrations, copy_out, counters, table_shapes
from pale_harbor.store.collections.collections import all_collections
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records.records import record_count


def make_backup(pool: Pool, file: Path, telling: Callable[[str], None] = lambda _: None) -> BackupTold:
    """Writes everything that the database holds, as it is now, into a file that appears whole or not at all.

    telling: hears which table is being written. Index files are left out: they can be built again. Raises BadInput
    where the file is there already or cannot be written.
    """
    if file.exists():
        raise BadInput(f"{file} is there already. Name another file, or move that one away.")
    # It holds what only its keepers may read.
    with written_whole(file, PRIVATE) as raw:
        return _written(pool, raw, telling)


def _written(pool: Pool, raw: IO[bytes], telling: Callable[[str], None]) -> BackupTold:
    with pool.connection() as connection, writing_backup(raw) as backup:
        in_one_state(connection)
        tables: list[KeptTable] = []
        for table in table_shapes(connection):
            telling(table.name)
            with backup.table(table.name) as member:
                copied = copy_out(connection, table, member.write)
            tables.append(
                KeptTable(
                    name=table.name,
                    columns=table.columns,
                    rows=copied.rows,
                    size=copied.size,
                    digest=copied.digest,
                )
            )
        told = BackupTold(
            format=FORMAT,
            program=__version__,
            made_at=datetime.now(UTC).isoformat(timespec="seconds"),
            migrations=applied_migrations(connection),
            tables=tables,
            counters=[KeptCounter(table=one.table, column=one.column, last=one.last) for one in counters(connection)],
            collections=[
                KeptCollection(name=one.name, records=record_count(connection, one.id), fingerprint=one.fingerprint)
                for one in all_collections(connection)
            ],
        )
        backup.tell(told)
    return told
