"""`complete`: whole suggestions for what is being typed."""

from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated, Any

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.collections.opened import OpenCollection


def add_to(app: typer.Typer) -> None:
    app.command()(complete)


def complete(
    collection: str,
    beginning: str,
    ranker: RankerName = None,
    top: Annotated[int, typer.Option(min=1, max=100)] = 10,
    language: Annotated[str | None, typer.Option(help="Only suggestions of this language, and of none.")] = None,
    costs: Annotated[
        bool, typer.Option("--costs", help="What it takes to let typing begin at any word, or at the first one.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Suggests whole queries for the beginning of one.

    A ranker says from what. Where it does not: from past queries, values of the title, and phrases of up to four fields
    that it reads.
    """
    from pale_harbor.formats.judged_files import LONGEST_QUERY
    from pale_harbor.work.ranking.completing import completions_for, suggestions_told
    from pale_harbor.work.ranking.completion_costs import begins_costs

    if len(beginning) > LONGEST_QUERY:
        raise BadInput(f"A query has {LONGEST_QUERY:,} characters at most; this one has {len(beginning):,}.")
    with workbench() as bench:
        choice = ranker_choice(ranker)

        def work(opened: "OpenCollection") -> dict[str, Any]:
            chosen = bench.choose(opened.collection, choice)
            # The first time gathers them: the second one is what a key press takes.
            completions_for(opened, chosen.ranker, beginning, top, language)
            found = completions_for(opened, chosen.ranker, beginning, top, language)
            told = suggestions_told(opened, chosen.ranker)
            answer: dict[str, Any] = {
                "completions": [asdict(one) for one in found.completions],
                "elapsed_ms": found.elapsed_ms,
                "suggestions": told.suggestions,
                "bytes": told.bytes,
            }
            if costs:
                answer["costs"] = [asdict(one) for one in begins_costs(opened, chosen.ranker)]
            return answer

        answer = bench.with_collection(collection, work)
    if as_json:
        print_json(answer)
        return
    shown = answer["completions"]
    if not shown:
        print(f"None of {answer['suggestions']:,} suggestions begins so.")
    print_columns(
        [(one["text"], f"{one['weight']:g}", f"{one['score']:.3f}", "an edit" if one["edits"] else "") for one in shown]
    )
    for one in answer.get("costs", ()):
        begins = "any word" if one["begins"].value == "word" else "the beginning"
        print(
            f"typed from {begins}: {one['entries']:,} entries, {one['bytes'] / 1e6:.1f} MB, "
            f"{one['median_ms']:.2f} ms a key press, {one['p95_ms']:.2f} at the 95th percentile"
        )
