"""`past`: what visitors asked, loaded as a list."""

from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

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
def log(
    collection: str,
    file: str = typer.Argument(
        help="CSV or JSON Lines with query, at, session, language, found, clicked, succeeded; - to read."
    ),
    as_json: AsJson = False,
) -> None:
    """Takes in the log of another search, beside what is asked at the endpoint."""
    from pale_harbor.work.delivery.logs import load_log

    text = text_of(file)
    with workbench() as bench:
        told = load_log(bench, collection, text, "standard input" if file == "-" else file)
    if as_json:
        print_json(asdict(told))
    else:
        print(f"{told.queries:,} queries from {told.first_at:%Y-%m-%d} to {told.last_at:%Y-%m-%d}, {told.added:,} new")


@app.command()
def gather(
    collection: str,
    days: Annotated[int, typer.Option(min=1, max=3_650, help="Of what was asked in so many days.")] = 90,
    visitors: Annotated[int, typer.Option(min=1, max=1_000, help="What so many visitors asked at least.")] = 2,
    as_json: AsJson = False,
) -> None:
    """Puts what visitors asked at the endpoint, and found something, in the place of the list that was there."""
    from pale_harbor.work.delivery.offering import offer_asked

    with workbench() as bench:
        told = offer_asked(bench, collection, days, visitors)
    _print(told, as_json)


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
