"""`letters`: a query, or a judged set, typed letter by letter."""

import sys
from dataclasses import asdict
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, print_notes
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput


def add_to(app: typer.Typer) -> None:
    app.command()(letters)


def letters(
    collection: str,
    query: Annotated[str | None, typer.Option(help="Play this query.")] = None,
    key: Annotated[str | None, typer.Option(help="Of the record that the query is to find.")] = None,
    judged_set: Annotated[str | None, typer.Option("--set", help="Type the queries of this judged set.")] = None,
    ranker: RankerName = None,
    against: Annotated[
        str | None, typer.Option(help="The ranker that a set is compared with, as NAME:VERSION.")
    ] = None,
    first: Annotated[int, typer.Option(min=1, max=100, help="So far down a record counts as found.")] = 10,
    as_json: AsJson = False,
) -> None:
    """Types queries letter by letter, and says after how many letters what is wanted is found."""
    if (query is None) == (judged_set is None):
        raise BadInput("Say a --query to play, or a judged --set.")
    if query is not None:
        _play(collection, query, key, ranker, first, as_json)
    elif judged_set is not None:
        _type_set(collection, judged_set, ranker, against, first, as_json)


def _told(done: int, in_all: int) -> None:
    """Says how far it is to whoever watches."""
    if sys.stderr.isatty():
        end = "\n" if done == in_all else ""
        print(f"\r{done:,} of {in_all:,} queries typed", end=end, file=sys.stderr, flush=True)


def _play(collection: str, query: str, key: str | None, ranker: str | None, first: int, as_json: bool) -> None:
    from pale_harbor.formats.storable import well_formed
    from pale_harbor.work.collections.opened import OpenCollection
    from pale_harbor.work.ranking.asked import Question
    from pale_harbor.work.ranking.letter_by_letter import LettersPlayed, play

    with workbench() as bench:

        def work(opened: OpenCollection) -> LettersPlayed:
            chosen = bench.choose(opened.collection, ranker_choice(ranker)).ranker
            return play(opened, chosen, Question(well_formed(query)), key, first)

        told = bench.with_collection(collection, work)
    if as_json:
        print_json(asdict(told))
        return
    rows = [
        (
            str(number),
            f"“{one.typed}”",
            f"{one.records:,}",
            "" if one.rank is None else str(one.rank),
            " ".join(one.keys[:3]),
        )
        for number, one in enumerate(told.letters, 1)
    ]
    print_columns([("letter", "typed", "records", "rank" if key else "", "first"), *rows])


def _type_set(
    collection: str, judged_set: str, ranker: str | None, against: str | None, first: int, as_json: bool
) -> None:
    from pale_harbor.work.measuring.letters import type_set

    with workbench() as bench:
        before = None if against is None else ranker_choice(against)
        told = type_set(bench, collection, judged_set, ranker_choice(ranker), before, first, _told)
    if as_json:
        print_json(asdict(told))
        return
    print_columns(
        [
            ("query", "", "letters", "of", "before" if told.compared else ""),
            *(
                (
                    one.query_id,
                    one.query[:50],
                    str(one.letters) if one.letters <= one.of else "never",
                    str(one.of),
                    "" if one.before is None else str(one.before) if one.before <= one.of else "never",
                )
                for one in told.queries
            ),
        ]
    )
    print(
        f"{told.letters:.2f} letters until found among the first {told.first} "
        f"({told.best:.2f} if unjudged records were relevant), {told.keystrokes:.2f} keystrokes; "
        f"{told.found:.0%} of {len(told.queries)} queries are found."
    )
    if (pair := told.compared) is not None:
        print(
            f"Against {against}: {pair.first:.2f} letters before, {pair.second:.2f} now, {pair.gain:+.2f} "
            f"({pair.interval.low:+.2f} to {pair.interval.high:+.2f}, p {pair.randomisation:.3f}); fewer are better."
        )
    print_notes(told.notes)
