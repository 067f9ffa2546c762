"""`judged`: judged sets in."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_json

app = typer.Typer(help="Judged sets: queries and the grades that judges gave.", no_args_is_help=True)


@app.callback()
def judged() -> None:
    """Judged sets: queries and the grades that judges gave."""


@app.command()
def load(
    collection: str,
    judged_set: Annotated[str, typer.Argument(metavar="SET")],
    queries: Annotated[Path, typer.Option(help="id<TAB>query lines, JSON Lines or CSV.")],
    grades: Annotated[Path, typer.Option(help="TREC columns, JSON Lines or CSV.")],
    as_json: AsJson = False,
) -> None:
    """Puts the queries and grades of two files in place of a judged set's."""
    from pale_harbor.work.judged_sets import load_judged_set

    with workbench() as bench:
        report = load_judged_set(bench, collection, judged_set, queries, grades)
    if as_json:
        print_json(asdict(report))
        return
    print(f"{report.queries} queries, {report.grades} grades: revision {report.revision} of {judged_set}")
    if report.unknown_records:
        shown = ", ".join(report.unknown_records[:10])
        print(f"{len(report.unknown_records)} graded records are not in the collection: {shown}")
