"""`past`: what visitors asked, loaded as a list."""

from dataclasses import asdict
from typing import TYPE_CHECKING

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of

if TYPE_CHECKING:
    from pale_harbor.work.ranking.past_queries import PastQueriesTold

app = typer.Typer(help="Past queries: what visitors asked, and how often.", no_args_is_help=True)


@app.command()
def load(
    collection: str,
    file: str = typer.Argument(
        help="Lines QUERY<TAB>TIMES, or CSV or JSON Lines with query, asked, language; - to read."
    ),
    as_json: AsJson = False,
) -> None:
    """Puts a list of past queries in the place of the one that was there."""
    from pale_harbor.work.ranking.past_queries import load_past_queries

    text = text_of(file)
    with workbench() as bench:
        _print(load_past_queries(bench, collection, text, "standard input" if file == "-" else file), as_json)


@app.command()
def show(collection: str, as_json: AsJson = False) -> None:
    """Tells what list there is, and the queries that were asked most."""
    from pale_harbor.work.ranking.past_queries import past_queries_told

    with workbench() as bench:
        told = past_queries_told(bench, collection)
    _print(told, as_json)
    if not as_json:
        print_columns([(one.query, f"{one.asked:,}", one.language) for one in told.first])


@app.command()
def drop(collection: str) -> None:
    """Takes the past queries away."""
    from pale_harbor.work.ranking.past_queries import forget_past_queries

    with workbench() as bench:
        forget_past_queries(bench, collection)
    print("They are gone.")


def _print(told: "PastQueriesTold", as_json: bool) -> None:
    if as_json:
        print_json(asdict(told))
    elif told.kept is None:
        print("There are no past queries.")
    else:
        print(f"{told.kept.queries:,} queries, asked {told.kept.asked:,} times, from {told.kept.source}")
