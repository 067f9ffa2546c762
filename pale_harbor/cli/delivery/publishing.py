"""`publish`: which version of a ranker answers at the search endpoint."""

from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.cli.ranking.ranker_choice import ranker_choice

if TYPE_CHECKING:
    from pale_harbor.store.delivery.publications import Publication

app = typer.Typer(help="What is live at a collection's search endpoint.", no_args_is_help=True)

Note = Annotated[str, typer.Option(help="Why.")]
RankerArgument = Annotated[str, typer.Argument(help="NAME or NAME:VERSION.")]


@app.command()
def show(collection: str, as_json: AsJson = False) -> None:
    """Tells what is live, what is a candidate, and what was published before."""
    from pale_harbor.work.delivery.publishing import published_told

    with workbench() as bench:
        told = published_told(bench, collection)
    if as_json:
        print_json(asdict(told))
        return
    if told.live is None:
        print("Nothing is published.")
    print_columns(
        [
            (f"{one.at:%Y-%m-%d %H:%M}", one.place, _called(one), one.by_person or "", one.overruled or one.note)
            for one in told.history
        ]
    )


@app.command()
def live(
    collection: str,
    ranker: RankerArgument,
    note: Note = "",
    overrule: Annotated[str | None, typer.Option(help="Why it is published although guard rules are broken.")] = None,
    as_json: AsJson = False,
) -> None:
    """Makes a version live, where its guard rules hold."""
    from pale_harbor.work.delivery.publishing import publish

    choice = ranker_choice(ranker)
    with workbench() as bench:
        _print(publish(bench, collection, choice.name or ranker, choice.version, note, overrule), as_json)


@app.command()
def back(collection: str, note: Note = "", as_json: AsJson = False) -> None:
    """Makes live again what was live before."""
    from pale_harbor.work.delivery.publishing import go_back

    with workbench() as bench:
        _print(go_back(bench, collection, note), as_json)


@app.command()
def candidate(
    collection: str,
    ranker: RankerArgument,
    share: Annotated[float, typer.Option(min=0.0001, max=1, help="Of visitors who meet it.")] = 0.1,
    mixed: Annotated[
        bool, typer.Option("--mixed/--alone", help="In one list with what is live, or in a list of its own.")
    ] = True,
    note: Note = "",
    as_json: AsJson = False,
) -> None:
    """Has a share of visitors meet another version."""
    from pale_harbor.work.delivery.publishing import offer_candidate

    choice = ranker_choice(ranker)
    with workbench() as bench:
        made = offer_candidate(bench, collection, choice.name or ranker, choice.version, share, note, mixed=mixed)
    _print(made, as_json)


@app.command("no-candidate")
def no_candidate(collection: str, note: Note = "", as_json: AsJson = False) -> None:
    """No visitor meets a candidate any more."""
    from pale_harbor.work.delivery.publishing import end_candidate

    with workbench() as bench:
        _print(end_candidate(bench, collection, note), as_json)


@app.command()
def rules(
    collection: str,
    judged_set: Annotated[str | None, typer.Option("--set", help="The judged set that they are checked on.")] = None,
    file: Annotated[str | None, typer.Option(help="A file of rules, one a line; - to read.")] = None,
    kept_days: Annotated[
        int | None, typer.Option(min=1, max=3_650, help="For how many days it is kept what was asked.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Tells or settles what has to hold before a version goes live, and how long it is kept what was asked."""
    from pale_harbor.work.delivery.keeping import change_settings_partly, settings_told

    with workbench() as bench:
        if judged_set is None and file is None and kept_days is None:
            told = settings_told(bench, collection)
        else:
            text = None if file is None else text_of(file)
            told = change_settings_partly(bench, collection, judged_set, text, kept_days)
    if as_json:
        print_json(asdict(told))
    else:
        print(f"set    {told.judged_set or 'none'}")
        print(f"kept   {told.kept_days} days")
        print(told.rules.strip() or "No rules.")


def _called(one: "Publication") -> str:
    return "none" if one.ranker is None else f"{one.ranker}:{one.version}"


def _print(made: "Publication", as_json: bool) -> None:
    if as_json:
        print_json(asdict(made))
    elif made.ranker is None:
        print("There is no candidate any more.")
    elif made.place == "live":
        print(f"{_called(made)} is live.")
    else:
        how = "mixed with what is live" if made.mixed else "alone"
        print(f"{_called(made)} meets {made.share:.1%} of visitors, {how}.")
