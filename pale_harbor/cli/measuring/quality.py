"""`quality`: every kept version by the judgments of today, and the checks that were made."""

from dataclasses import asdict
from typing import Annotated

import typer

from pale_harbor.cli.measuring.measure_rules import TiesRule, UnjudgedRule, Weighted, WithoutRelevantRule, how_of
from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.core.measures import Ties, Unjudged, WithoutRelevant

_MINUTES = 16


def add_to(app: typer.Typer) -> None:
    app.command()(quality)


def quality(
    collection: str,
    judged_set: SetOption,
    measure: Annotated[str, typer.Option(help="The measure.")] = "ndcg@10",
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    as_json: AsJson = False,
) -> None:
    """Shows every kept version by the judgments of today, in the order in which they were kept, and the checks."""
    from pale_harbor.core.measures import measure as measure_named
    from pale_harbor.work.measuring.quality import quality_over_time

    how = how_of(ties, unjudged, without_relevant, weighted, False, bands=False)
    with workbench() as bench:
        told = quality_over_time(bench, collection, judged_set, measure_named(measure), how)
    if as_json:
        print_json(asdict(told))
        return
    rows = [
        (
            one.kept_at[:_MINUTES].replace("T", " "),
            f"{one.ranker}:{one.version}",
            one.problem or f"{one.mean or 0:.4f}",
            "" if one.gained is None else f"{one.gained} gained, {one.lost} lost",
        )
        for one in told.versions
    ]
    print_columns([("kept", "version", told.measure, "against the one before"), *rows])
    for check in told.checks:
        beside = "" if check.against is None else f" against {check.against}"
        outcome = "holds " if check.holds else "BROKEN"
        print(f"{check.checked_at[:_MINUTES].replace('T', ' ')}  {outcome}  {check.ranker}{beside}")
