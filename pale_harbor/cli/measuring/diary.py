"""`diary` and `decide`: what was decided about rankers, and when locked queries were opened."""

from dataclasses import asdict
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import database
from pale_harbor.cli.output import AsJson, print_columns, print_json


def add_to(app: typer.Typer) -> None:
    app.command()(diary)
    app.command()(decide)


def diary(collection: str, as_json: AsJson = False) -> None:
    """Prints the diary, the newest entry first."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.measuring.diary import diary_of

    with database() as pool, pool.connection() as connection:
        entries = diary_of(connection, collection_named(connection, collection).id)
    if as_json:
        print_json([asdict(one) for one in entries])
        return
    print_columns(
        [[f"{one.written_at:%Y-%m-%d %H:%M}", one.kind, f"{one.title} {one.body}".strip()] for one in entries]
    )


def decide(
    collection: str,
    decision: Annotated[str, typer.Argument(help="What was decided.")],
    why: Annotated[str, typer.Option(help="Why.")] = "",
    ranker: Annotated[
        list[str] | None,
        typer.Option(help="NAME:VERSION of what was compared: the earlier, then the later; on the owner's page then."),
    ] = None,
) -> None:
    """Writes a decision into the diary."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.measuring.diary import write_entry

    with database() as pool, pool.connection() as connection:
        kept = collection_named(connection, collection)
        write_entry(connection, kept.id, "decision", decision, why, {"rankers": ranker or []})
    print("written down")
