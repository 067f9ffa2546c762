"""Moves the own database to the newest PostgreSQL that is installed: a backup by the old one, restored by it."""

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.settings import Settings
from pale_harbor.store.cluster import Cluster, programs_there, take_place
from pale_harbor.store.database import make_database, open_pool, serving_alone
from pale_harbor.work.backups.making import make_backup
from pale_harbor.work.backups.restoring import restore_backup
from pale_harbor.work.serving import DATABASE, ready_pool, running_address


@dataclass(frozen=True, slots=True)
class Upgraded:
    """What an upgrade did. before, now: major versions of PostgreSQL; backup, old: what can be deleted once all is
    well, None where the database was moved nowhere."""

    before: int
    now: int
    backup: Path | None = None
    old: Path | None = None


def upgrade(settings: Settings, telling: Callable[[str], None] = lambda _: None, *, again: bool = False) -> Upgraded:
    """Brings the tables up to date, and the own database to the newest PostgreSQL there is.

    again: into a new cluster even where that is the one that made it. What was there before is kept beside it. The new
    one takes its place when it is whole and checked: until then, whatever goes wrong, all is as it was. Raises BadInput
    where the database is somebody else's or there is none, Unavailable where a server works on it.
    """
    if settings.database is not None:
        raise BadInput(
            "The database that the settings name is not Pale Harbor's own: whoever keeps it moves it to a newer "
            "PostgreSQL. Its tables are brought up to date at every start."
        )
    cluster = Cluster(settings.cluster, settings.database_options)
    before = cluster.version()
    if before is None:
        raise BadInput("There is no database yet. Begin with ./paleharbor up.")
    if running_address(settings) is not None:
        raise Unavailable("The server is running. Stop it with ./paleharbor down first.")
    newest = max(programs_there(), default=before)
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    backup = settings.data / f"before-upgrade-from-{before}-{stamp}.zip"
    old = settings.cluster.with_name(f"{settings.cluster.name}-of-{before}-{stamp}")
    new = _new_cluster(settings)
    # Held until the new one is whole: a server that began meanwhile would write into the old one.
    with ready_pool(settings) as pool, serving_alone(str(pool.conninfo), patience_s=0.0):
        if newest == before and not again:
            return Upgraded(before, before)
        make_backup(pool, backup, telling)
        _drop(new)
        try:
            new.start()
            make_database(new, DATABASE)
            with open_pool(new.address(DATABASE)) as other:
                restore_backup(other, settings.indexes, backup, telling)
        except BaseException:
            _drop(new)
            raise
    new.stop()
    cluster.stop()
    take_place(settings.cluster, new.folder, old)
    cluster.start()
    return Upgraded(before, newest, backup, old)


def drop_cut_off_upgrade(settings: Settings) -> None:
    """Ends and drops the new cluster of an upgrade that was killed, whose server goes on else.

    Only for whoever serves the data alone: an upgrade that is under way does.
    """
    new = _new_cluster(settings)
    if new.folder.exists():
        _drop(new)


def _new_cluster(settings: Settings) -> Cluster:
    return Cluster(settings.cluster.with_name(f"{settings.cluster.name}-new"), settings.database_options)


def _drop(cluster: Cluster) -> None:
    """What an upgrade made that did not come to its end."""
    cluster.stop()
    shutil.rmtree(cluster.folder, ignore_errors=True)
