"""`visitors`: made-up visitors who ask, type and click at the search endpoint, so that there is traffic to look at."""

import sys
from dataclasses import asdict
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_json


def add_to(app: typer.Typer) -> None:
    app.command()(visitors)


def visitors(
    collection: str,
    judged_set: SetOption,
    count: Annotated[int, typer.Option("--visitors", min=1, max=1_000_000, help="How many come.")] = 200,
    days: Annotated[int, typer.Option(min=1, max=3_650, help="As if they had come in so many days.")] = 14,
    seed: Annotated[int, typer.Option(min=0, max=2**31 - 1, help="The same one has the same visitors come.")] = 1,
    as_json: AsJson = False,
) -> None:
    """Sends made-up visitors to the running server: what they want is in a judged set, and they click what is good."""
    from random import Random

    import httpx

    from pale_harbor.errors import Unavailable
    from pale_harbor.formats.visitor_terms import VisitorTerms
    from pale_harbor.settings import settings
    from pale_harbor.work.delivery.keeping import make_visitor_key, revoke
    from pale_harbor.work.delivery.visitors import Visited, Visitors, spread, wants_of
    from pale_harbor.work.serving import running_address

    address = running_address(settings())
    if address is None:
        raise Unavailable("No server runs here that visitors could ask. Start it: ./paleharbor up")

    def told(done: Visited) -> None:
        if sys.stderr.isatty():
            print(f"\r{done.visitors:,} of {count:,} visitors", end="", file=sys.stderr, flush=True)

    with workbench() as bench:
        wants = wants_of(bench, collection, judged_set)
        # As many requests as one machine can send.
        terms = VisitorTerms(per_minute=10_000_000, per_minute_each=10_000_000)
        key = make_visitor_key(bench, collection, "made-up visitors", terms, days=1.0)
        try:
            with httpx.Client(trust_env=False, timeout=60) as client:
                come = Visitors(client, f"{address}/v1/{collection}", key.shown, wants)
                done = come.come(count, Random(seed), told)
        finally:
            revoke(bench, collection, key.id)
        spread(bench, collection, come, days)
    if sys.stderr.isatty():
        print(file=sys.stderr)
    if as_json:
        print_json(asdict(done))
    else:
        print(
            f"{done.visitors:,} visitors asked for {done.lists:,} lists in {done.requests:,} requests, clicked "
            f"{done.clicks:,} records, and found what they wanted {done.successes:,} times; {done.given_up:,} gave up."
        )
