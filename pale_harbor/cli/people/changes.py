"""`changes`: who changed what."""

import sys
from dataclasses import asdict
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import database
from pale_harbor.cli.output import AsJson, print_columns, print_json


def add_to(app: typer.Typer) -> None:
    app.command()(changes)


def changes(
    collection: Annotated[str | None, typer.Argument(help="Of this collection; of all where none is named.")] = None,
    person: Annotated[str | None, typer.Option(help="By this person, as others see the name.")] = None,
    text: Annotated[str | None, typer.Option(help="With these words in what was done, or to what.")] = None,
    whole: Annotated[bool, typer.Option("--csv", help="All of them as CSV.")] = False,
    as_json: AsJson = False,
) -> None:
    """Prints who changed what, the newest first."""
    from pale_harbor.work.people.changes import changes_as_csv, changes_told

    with database() as pool:
        if whole:
            sys.stdout.writelines(changes_as_csv(pool, collection, person=person, text=text))
            return
        told = changes_told(pool, collection, person=person, text=text)
    if as_json:
        print_json([asdict(one) for one in told])
        return
    lines = [
        [one.at.strftime("%Y-%m-%d %H:%M"), one.person or "", one.collection or "", one.what, one.about] for one in told
    ]
    print_columns([["at", "person", "collection", "what", "about"], *lines])
