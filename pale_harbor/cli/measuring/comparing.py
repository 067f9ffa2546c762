"""`compare`: rankers head to head."""

from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.measuring.measure_rules import (
    Bands,
    Locked,
    TiesRule,
    UnjudgedRule,
    Weighted,
    WithoutRelevantRule,
    how_of,
)
from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_columns, print_json, print_notes
from pale_harbor.cli.ranking.ranker_choice import ranker_choice
from pale_harbor.core.measures import Measure, Ties, Unjudged, WithoutRelevant
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.measuring.compared import RankerSide
    from pale_harbor.work.measuring.measuring import How


def add_to(main: typer.Typer) -> None:
    main.command()(compare)


def compare(
    collection: str,
    rankers: Annotated[
        list[str],
        typer.Argument(help="NAME, NAME:VERSION or outside/NAME; the gains of the others on the first are told."),
    ],
    judged_set: SetOption,
    measure: Annotated[str, typer.Option(help="The measure.")] = "ndcg@10",
    page: Annotated[bool, typer.Option("--page", help="Print the owner's page as Markdown.")] = False,
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    locked: Locked = False,
    bands: Bands = False,
    as_json: AsJson = False,
) -> None:
    """Compares two rankers on a judged set: gains, intervals, tests, slices, what to judge next. Of more, the gains of
    each on the first."""
    from pale_harbor.formats.owner_page import owner_page
    from pale_harbor.work.measuring.comparing import head_to_head
    from pale_harbor.work.measuring.owner_facts import owner_facts

    how = how_of(ties, unjudged, without_relevant, weighted, locked, bands)
    sides = [side_of(name) for name in rankers]
    if len(sides) < 2:
        raise BadInput("Name two rankers at least: the first is what the others are compared with.")
    if len(sides) > 2:
        if page:
            raise BadInput("The owner's page is about two rankers.")
        _compare_several(collection, judged_set, sides, measure_named(measure), how, as_json)
        return
    with workbench() as bench:
        found = head_to_head(bench, collection, judged_set, sides[0], sides[1], measure_named(measure), how)
        facts = owner_facts(bench, collection, judged_set, found)
    if as_json:
        print_json(asdict(found))
        return
    if page:
        print(owner_page(facts), end="")
        return
    whole = found.comparison
    print(found.headline)
    for reason in found.reasons:
        print(reason)
    print(
        f"{found.measure} gains {whole.gain:+.3f}, 95 % interval {whole.interval.low:+.3f} to "
        f"{whole.interval.high:+.3f}; {whole.gained} gained, {whole.lost} lost, {whole.tied} tied."
    )
    print_columns(
        [
            ["test", "p"],
            ["randomisation", f"{whole.randomisation:.4f}"],
            ["paired t", f"{whole.t:.4f}"],
            ["Wilcoxon", f"{whole.wilcoxon:.4f}"],
        ]
    )
    if whole.detectable is not None and whole.detectable > 1:
        print("There are too few queries to find any difference that there can be.")
    elif whole.detectable is not None:
        print(
            f"These queries would find a difference of {whole.detectable:.3f} four times in five; half of it takes "
            f"{whole.needed:,} queries."
        )
    if found.open:
        print(
            f"{found.open_in_all} unjudged records could change the gain; after the {found.enough} that matter most "
            "the rest could not turn it around."
        )
    rows = [["", "queries", found.names[0], found.names[1], "gain", ""]]
    rows += [
        [
            one.tag,
            str(one.comparison.queries),
            f"{one.comparison.first:.3f}",
            f"{one.comparison.second:.3f}",
            f"{one.comparison.gain:+.3f}",
            "too few to say" if one.says_little else f"p {one.corrected:.4f}, corrected",
        ]
        for one in found.slices
    ]
    print_columns(rows)
    print_notes(found.notes)


def _compare_several(
    collection: str, judged_set: str, sides: "list[RankerSide]", measure: Measure, how: "How", as_json: bool
) -> None:
    from pale_harbor.work.measuring.comparing import overview

    with workbench() as bench:
        found = overview(bench, collection, judged_set, sides, [measure], how)
    if as_json:
        print_json(asdict(found))
        return
    if not found.queries:
        print("No judged query to measure by.")
        return
    rows = [["ranker", measure.name, "95 % interval", "unjudged", "gain", "p, corrected", "broken"]]
    for row in found.rows:
        interval, against = row.intervals[measure.name], row.against_first.get(measure.name)
        rows.append(
            [
                row.name,
                f"{row.figures.measured.means[measure.name]:.4f}",
                f"{interval.low:.3f} to {interval.high:.3f}",
                f"{row.figures.unjudged[measure.name]:.1%}",
                "" if against is None else f"{against[0]:+.4f}",
                "" if against is None else f"{against[2]:.4f}",
                str(len(row.figures.broken)),
            ]
        )
    print_columns(rows)
    looked_at = "1 ranker was" if found.looks == 1 else f"{found.looks} rankers were"
    print(f"{found.queries} queries; {found.locked} are locked away, {looked_at} looked at on the others")
    for row in found.rows:
        print_notes([f"{row.name}: {note}" for note in row.notes])


def side_of(written: str) -> "RankerSide":
    """A side as it is written: NAME, NAME:VERSION, or outside/NAME."""
    from pale_harbor.work.measuring.compared import RankerSide

    if written.startswith("outside/"):
        return RankerSide(outside=written.removeprefix("outside/"))
    return RankerSide(ranker_choice(written))
