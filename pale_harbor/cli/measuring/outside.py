"""`outside`: rankers that are not ours."""

from pathlib import Path
from typing import Annotated, Any

import orjson
import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.errors import BadInput

app = typer.Typer(
    help="Rankers that are not ours: run files, searches asked over HTTP, and databases asked by SQL.",
    no_args_is_help=True,
)


@app.command("list")
def list_outside(collection: str, as_json: AsJson = False) -> None:
    """Lists outside rankers."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.measuring.outside_rankers import outside_rankers_of

    with database() as pool, pool.connection() as connection:
        found = outside_rankers_of(connection, collection_named(connection, collection).id)
    rows = [
        {"name": one.name, "kind": one.document["kind"], "state": one.state, "problem": one.problem} for one in found
    ]
    if as_json:
        print_json(rows)
    else:
        print_columns([["name", "kind", "state", "problem"], *[[cell or "" for cell in row.values()] for row in rows]])


@app.command("run")
def bring(collection: str, name: str, file: str, judged_set: SetOption) -> None:
    """Keeps a six-column run file's lists as those of an outside ranker."""
    from pale_harbor.work.measuring.outside import bring_run

    with workbench() as bench:
        lists, strangers = bring_run(bench, collection, name, judged_set, text_of(file), file)
    print(f"{name} has lists for {lists} queries of {judged_set}")
    if strangers:
        print(f"{len(strangers)} lists are for queries that {judged_set} does not have: {', '.join(strangers[:10])}")


@app.command()
def put(
    collection: str,
    name: str,
    file: Annotated[Path, typer.Argument(help="A JSON document, as docs/measures.md has it.")],
    header: Annotated[list[str] | None, typer.Option(help="NAME=FILE: the header's value stands in a file.")] = None,
) -> None:
    """Says how a search is asked, over HTTP or by SQL. Headers come from files: a command line is seen by others."""
    from pale_harbor.work.measuring.outside import put_service

    secrets: dict[str, str] = {}
    for one in header or []:
        key, sign, path = one.partition("=")
        if not sign:
            raise BadInput(f'"{one}" names no file. Write NAME=FILE.')
        secrets[key] = text_of(path).strip()
    with workbench() as bench:
        put_service(bench, collection, name, _document(text_of(str(file)), str(file)), secrets)
    print(f"{name} is kept")


@app.command()
def ask(collection: str, name: str, judged_set: SetOption) -> None:
    """Asks a service or a database for every query of a judged set, at its pace, and keeps the lists."""
    from pale_harbor.work.measuring.outside import ask_now

    with workbench() as bench:
        count = ask_now(bench, collection, name, judged_set)
    print(f"{name} has lists for {count} queries of {judged_set}")


@app.command()
def drop(collection: str, name: str) -> None:
    """Drops an outside ranker with its lists."""
    from pale_harbor.work.measuring.outside import drop as drop_outside

    with workbench() as bench:
        drop_outside(bench, collection, name)
    print(f"{name} is gone")


def _document(text: str, file: str) -> dict[str, Any]:
    try:
        data = orjson.loads(text)
    except orjson.JSONDecodeError as error:
        raise BadInput(f"{file} is not JSON: {error.msg}, line {error.lineno}.") from error
    if not isinstance(data, dict):
        raise BadInput(f"{file} must hold a JSON object.")
    return data
