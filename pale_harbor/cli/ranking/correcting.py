"""`correct`: what a query may have meant, and what corrections do."""

import sys
from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.collections.opened import OpenCollection
    from pale_harbor.work.measuring.corrections import CorrectionsMeasured
    from pale_harbor.work.ranking.corrected import DidYouMean


def add_to(app: typer.Typer) -> None:
    app.command()(correct)


def correct(
    collection: str,
    query: Annotated[str | None, typer.Argument(help="The query; none with --measure.")] = None,
    ranker: RankerName = None,
    measured: Annotated[
        bool,
        typer.Option("--measure", help="What corrections do to words of the collection typed badly, and a --set."),
    ] = False,
    judged_set: Annotated[str | None, typer.Option("--set", help="With --measure: a judged set.")] = None,
    count: Annotated[int, typer.Option(min=0, max=2_000, help="With --measure: so many slips.")] = 200,
    seed: Annotated[int, typer.Option(min=0, max=2**31 - 1)] = 0,
    as_json: AsJson = False,
) -> None:
    """Says what a query may have meant, where that would find clearly more."""
    if (query is None) != measured:
        raise BadInput("Say a query to correct, or --measure.")
    if query is not None:
        _correct(collection, query, ranker, as_json)
    else:
        _measure(collection, judged_set, ranker, count, seed, as_json)


def _correct(collection: str, query: str, ranker: str | None, as_json: bool) -> None:
    from pale_harbor.formats.judged_files import LONGEST_QUERY
    from pale_harbor.formats.storable import well_formed
    from pale_harbor.work.ranking.asked import Question
    from pale_harbor.work.ranking.asking import correction_of

    if len(query) > LONGEST_QUERY:
        raise BadInput(f"A query has {LONGEST_QUERY:,} characters at most; this one has {len(query):,}.")
    question = Question(well_formed(query))
    with workbench() as bench:

        def work(opened: "OpenCollection") -> "DidYouMean | None":
            return correction_of(opened, bench.choose(opened.collection, ranker_choice(ranker)).ranker, question)

        meant = bench.with_collection(collection, work)
    if as_json:
        more = {} if meant is None else {"sure": meant.sure, "found": meant.found, "finds": meant.finds}
        print_json({"query": query, "correction": None if meant is None else meant.query, **more})
    elif meant is None:
        print("Nothing to correct.")
    else:
        held = f"{meant.finds:,} {'record holds' if meant.finds == 1 else 'records hold'} all of its words"
        held += f", {meant.found:,} before"
        print(f"{meant.query}  ({meant.sure:.2f} sure; {held})")


def _measure(collection: str, judged_set: str | None, ranker: str | None, count: int, seed: int, as_json: bool) -> None:
    from pale_harbor.work.measuring.corrections import measure_corrections

    with workbench() as bench:
        told = measure_corrections(bench, collection, judged_set, ranker_choice(ranker), count, seed, _told)
    if as_json:
        print_json(asdict(told))
    else:
        _print_measured(told)


def _print_measured(told: "CorrectionsMeasured") -> None:
    if told.queries:
        print_columns(
            [
                ("query", "", "correction", "sure", "before", "after"),
                *(
                    (
                        one.query_id,
                        one.query[:40],
                        one.correction[:40] if one.is_told else f"({one.correction[:40]})",
                        f"{one.sure:.2f}",
                        f"{one.value:.3f}",
                        f"{one.corrected:.3f}",
                    )
                    for one in told.queries
                ),
            ]
        )
    if (pair := told.compared) is not None:
        print(
            f"nDCG@10 of {pair.queries} open queries: {pair.first:.3f} as typed, {pair.second:.3f} corrected, "
            f"{pair.gain:+.3f} ({pair.interval.low:+.3f} to {pair.interval.high:+.3f}, p {pair.randomisation:.3f}); "
            f"{told.right_changed} that were right are told something else."
        )
    for one in told.slips:
        print(f"{one.kind.value}: {one.mended} of {one.made} mended, {one.wrong} made something else of")
    if told.right_made:
        print(f"{told.right_touched} of {told.right_made} right queries touched")
    if not told.slips and told.compared is None:
        print("Hardly a word of this collection has enough letters for made-up slips, and no judged set was named.")
        return
    print_columns(
        [
            ("as sure as", "told", "nDCG@10", "mended", "wrong", "right touched"),
            *(
                (
                    f"{step.sure:g}",
                    str(step.told),
                    "" if step.mean is None else f"{step.mean:.3f}",
                    f"{step.mended:.1%}",
                    f"{step.wrong:.1%}",
                    f"{step.touched:.1%}",
                )
                for step in told.steps
            ),
        ]
    )


def _told(done: int, in_all: int) -> None:
    """Says how far it is to whoever watches."""
    if sys.stderr.isatty():
        end = "\n" if done == in_all else ""
        print(f"\r{done:,} of {in_all:,} queries tried", end=end, file=sys.stderr, flush=True)
