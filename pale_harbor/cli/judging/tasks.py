"""`task`: judging tasks and their links."""

from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetArgument
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.cli.ranking.ranker_choice import ranker_choice

if TYPE_CHECKING:
    from pale_harbor.work.judging.tasks import Links
    from pale_harbor.work.workbench import Workbench

app = typer.Typer(help="Judging tasks: pools of records, shared out among judges.", no_args_is_help=True)


@app.callback()
def task() -> None:
    """Judging tasks: pools of records, shared out among judges."""


@app.command()
def make(
    collection: str,
    judged_set: SetArgument,
    name: str,
    judge: Annotated[list[str], typer.Option(help="Who judges; may be given several times.")],
    ranker: Annotated[list[str] | None, typer.Option(help="NAME or NAME:VERSION; may be given several times.")] = None,
    outside: Annotated[list[str] | None, typer.Option(help="An outside ranker; may be given several times.")] = None,
    depth: Annotated[int, typer.Option(min=1, max=1_000, help="First records of each ranker.")] = 10,
    others: Annotated[int, typer.Option(min=0, max=100, help="Records drawn at random for each query.")] = 0,
    twice: Annotated[float, typer.Option(min=0, max=1, help="Share of the pool that two judges judge.")] = 0.2,
    again: Annotated[bool, typer.Option("--again", help="Judged records too.")] = False,
    tag: Annotated[str | None, typer.Option(help="Queries with this tag only.")] = None,
    same: Annotated[
        list[str] | None, typer.Option(help="A judge who is the one who judged the set under that name before.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Makes a judging task and prints each judge's link, this once."""
    from pale_harbor.work.judging.tasks import TaskWanted, new_task
    from pale_harbor.work.measuring.compared import RankerSide

    sides = [RankerSide(ranker_choice(one)) for one in ranker or ([] if outside else [None])]
    sides += [RankerSide(outside=one) for one in outside or []]
    with workbench() as bench:
        links = new_task(
            bench,
            collection,
            judged_set,
            TaskWanted(
                name=name,
                judges=tuple(judge),
                sides=tuple(sides),
                depth=depth,
                others=others,
                twice=twice,
                leave_out_judged=not again,
                tag=tag,
                same=tuple(same or ()),
            ),
        )
        _print(bench, collection, judged_set, as_json, links)


@app.command()
def confirm(
    collection: str,
    judged_set: SetArgument,
    name: str,
    judge: Annotated[list[str], typer.Option(help="Who judges; may be given several times.")],
    days: Annotated[int, typer.Option(min=1, max=3_650, help="Of the clicks of so many days.")] = 30,
    query: Annotated[
        list[str] | None, typer.Option(help="This query alone; may be given several times; all where there is none.")
    ] = None,
    twice: Annotated[float, typer.Option(min=0, max=1, help="Share of the records that two judges judge.")] = 0.2,
    same: Annotated[
        list[str] | None, typer.Option(help="A judge who is the one who judged the set under that name before.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Makes a judging task of what clicks suggest and nobody graded; judges do not see the suggestion."""
    from pale_harbor.work.delivery.confirming import ConfirmingWanted, confirming_task

    wanted = ConfirmingWanted(
        name=name,
        judges=tuple(judge),
        days=days,
        twice=twice,
        queries=None if not query else tuple(query),
        same=tuple(same or ()),
    )
    with workbench() as bench:
        links = confirming_task(bench, collection, judged_set, wanted)
        _print(bench, collection, judged_set, as_json, links)


@app.command("list")
def list_tasks(collection: str, judged_set: SetArgument, as_json: AsJson = False) -> None:
    """Lists a set's judging tasks, and how far their judges are."""
    with workbench() as bench:
        _print(bench, collection, judged_set, as_json)


@app.command()
def link(
    collection: str,
    judged_set: SetArgument,
    number: int,
    judge: str,
    days: Annotated[float | None, typer.Option(min=0.001, max=3_650, help="For how long it leads there.")] = None,
    none: Annotated[bool, typer.Option("--none", help="Draw the link back; there is none from then on.")] = False,
    as_json: AsJson = False,
) -> None:
    """Gives a judge another link and prints it; the one before leads nowhere from then on."""
    from pale_harbor.work.judging.tasks import draw_link_back, new_link

    with workbench() as bench:
        if none:
            draw_link_back(bench, collection, judged_set, number, judge)
            _print(bench, collection, judged_set, as_json)
        else:
            links = new_link(bench, collection, judged_set, number, judge, days)
            _print(bench, collection, judged_set, as_json, links)


def _print(bench: "Workbench", collection: str, judged_set: str, as_json: bool, links: "Links | None" = None) -> None:
    from pale_harbor.work.judging.tasks import tasks

    rows = [
        {
            "task": one.id,
            "name": one.name,
            "judge": own.judge,
            "judged": own.judged,
            "records": own.items,
            "closed": one.closed,
            "path": own.path,
        }
        for one in tasks(bench, collection, judged_set, links)
        for own in one.judges
    ]
    if as_json:
        print_json(rows)
        return
    lines = [[*list(row.values())[:-1], row["path"] or "told once"] for row in rows]
    print_columns([["task", "name", "judge", "judged", "of", "closed", "link"], *lines])


@app.command()
def close(
    collection: str,
    judged_set: SetArgument,
    number: int,
    again: Annotated[bool, typer.Option("--open", help="Open it again.")] = False,
) -> None:
    """Closes a task for its judges, or opens it again."""
    from pale_harbor.work.judging.tasks import change_task

    with workbench() as bench:
        change_task(bench, collection, judged_set, number, closed=not again)
    print("open" if again else "closed")


@app.command()
def drop(collection: str, judged_set: SetArgument, number: int) -> None:
    """Drops a task with its links; what was judged stays."""
    from pale_harbor.work.judging.tasks import change_task

    with workbench() as bench:
        change_task(bench, collection, judged_set, number, closed=None)
    print("gone")
