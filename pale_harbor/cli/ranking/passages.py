"""`passages`: the best passages of a list, for a program that goes on with them."""

from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_json
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.collections.opened import OpenCollection
    from pale_harbor.work.ranking.passages import ListPassages


def add_to(app: typer.Typer) -> None:
    app.command()(passages)


def passages(
    collection: str,
    query: str,
    ranker: RankerName = None,
    letters: Annotated[int, typer.Option(min=40, max=1_000_000, help="Of all passages together.")] = 4_000,
    length: Annotated[int, typer.Option(min=40, max=10_000, help="Of one passage, in letters.")] = 500,
    most: Annotated[int, typer.Option(min=1, max=20, help="Of one field of a record.")] = 2,
    records: Annotated[int, typer.Option(min=1, max=200, help="So many of the first records are looked at.")] = 30,
    utf16: Annotated[bool, typer.Option("--utf16", help="Count UTF-16 units instead of code points.")] = False,
    as_json: AsJson = False,
) -> None:
    """Prints the best passages over all records of a list, within so many letters, without repeats."""
    from pale_harbor.formats.judged_files import LONGEST_QUERY
    from pale_harbor.formats.storable import well_formed
    from pale_harbor.work.ranking.asked import Question
    from pale_harbor.work.ranking.passages import PassagesWanted, list_passages

    if len(query) > LONGEST_QUERY:
        raise BadInput(f"A query has {LONGEST_QUERY:,} characters at most; this one has {len(query):,}.")
    question, wanted = Question(well_formed(query)), PassagesWanted(length, most)
    with workbench() as bench:

        def work(opened: "OpenCollection") -> "ListPassages":
            chosen = bench.choose(opened.collection, ranker_choice(ranker))
            return list_passages(opened, chosen.ranker, question, letters, wanted, records, utf16)

        told = bench.with_collection(collection, work)
    if as_json:
        print_json(asdict(told))
        return
    for one in told.passages:
        passage = one.passage
        print(f"{one.key}, {passage.field} {passage.start} to {passage.end}, {one.score:.3f}")
        print(f"  {' '.join(passage.text.split())}")
    print(
        f"{len(told.passages)} passages of {told.records} records, {told.letters:,} letters; "
        f"{told.repeats} that say the same left out."
    )
