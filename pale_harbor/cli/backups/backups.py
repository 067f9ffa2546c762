"""`backup`, `restore` and `upgrade`: everything that is kept, in a file and back again."""

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.open_workbench import database
from pale_harbor.cli.output import print_notes
from pale_harbor.errors import HarborError

if TYPE_CHECKING:
    from pale_harbor.work.backups.measuring_again import MeasuredAgain

_DIFFERING_SHOWN = 5


def add_to(app: typer.Typer) -> None:
    app.command()(backup)
    app.command()(restore)
    app.command()(upgrade)


def backup(file: Annotated[Path, typer.Argument(help="The file to write; one that is there is left alone.")]) -> None:
    """Writes everything that is kept into a file, as it is at this moment; the server may run meanwhile."""
    from pale_harbor.work.backups.making import make_backup

    with database() as pool:
        told = make_backup(pool, file, _tell)
    for one in told.collections:
        print(f"{one.name}: {one.records:,} records")
    print(f"Backed up {sum(one.rows for one in told.tables):,} rows into {file} ({file.stat().st_size:,} bytes).")


def restore(
    file: Annotated[Path, typer.Argument(help="A file that `backup` wrote.")],
    measure: Annotated[
        bool, typer.Option("--measure/--no-measure", help="Measure a kept run of each collection again.")
    ] = True,
) -> None:
    """Puts back everything that a backup holds, where nothing is kept yet, and checks it."""
    from pale_harbor.settings import settings
    from pale_harbor.work.backups.measuring_again import measured_again
    from pale_harbor.work.backups.restoring import restore_backup
    from pale_harbor.work.serving import ready_pool
    from pale_harbor.work.workbench import Workbench, memory_of

    here = settings()
    here.data.mkdir(parents=True, exist_ok=True)
    with ready_pool(here) as pool:
        restored = restore_backup(pool, here.indexes, file, _tell)
        told = restored.told
        rows = sum(one.rows for one in told.tables)
        print(f"Restored {rows:,} rows of {told.made_at}; every table has the digest that it had.")
        if restored.brought_up:
            print(f"Its tables were brought up to date by {len(restored.brought_up)} steps.")
        print_notes(
            f'{count:,} records of "{name}" are not what their digests say, and were not when they were backed up.'
            for name, count in restored.differing.items()
        )
        again = measured_again(Workbench(pool, here.indexes, memory_of(here))) if measure else []
    for one in again:
        print(_said(one))
    if any(one.differing for one in again):
        raise HarborError("What was restored does not rank as it did.")


def upgrade(
    again: Annotated[
        bool, typer.Option("--again", help="Where nothing is newer too: into a new cluster of the same version.")
    ] = False,
) -> None:
    """Brings the database to the newest PostgreSQL that is installed, by a backup that is restored; nothing is lost."""
    from pale_harbor.settings import settings
    from pale_harbor.work.backups.upgrading import upgrade as do_upgrade

    done = do_upgrade(settings(), _tell, again=again)
    if done.backup is None:
        print(f"The tables are up to date, and PostgreSQL {done.now} is the newest that is installed.")
        return
    print(f"Moved from PostgreSQL {done.before} to {done.now}. When all is well, delete {done.old} and {done.backup}.")


def _tell(what: str) -> None:
    if sys.stderr.isatty():
        print(f"\r\033[K{what}", end="", file=sys.stderr, flush=True)


def _said(one: "MeasuredAgain") -> str:
    if one.problem is not None:
        return f"{one.collection}: not measured again. {one.problem}"
    if one.run is None:
        return f"{one.collection}: there is no run of its present state to measure again."
    if one.differing:
        shown = ", ".join(one.differing[:_DIFFERING_SHOWN])
        return f"{one.collection}: {one.run}: {len(one.differing)} of {one.queries} lists are other ones now: {shown}."
    figure = "" if one.now is None else f" (nDCG@10 {one.now:.4f})"
    return f"{one.collection}: {one.run}, searched again: {one.queries} lists, the same to the last digit{figure}."
