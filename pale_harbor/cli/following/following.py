"""`follow`: a collection kept in step with a live database."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import orjson
import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.following.connecting import Looked
    from pale_harbor.work.following.told import FollowingTold

app = typer.Typer(help="Collections kept in step with a live database.", no_args_is_help=True)

_OUT = "The document as a JSON file, - for standard input."


@app.command()
def draft(
    collection: str,
    connection: str,
    table: Annotated[str, typer.Argument(help="Whose rows are the records, with its schema.")],
    join: Annotated[
        list[str] | None, typer.Option(help="A way to join along, as `--ways` lists them; the usual ones without.")
    ] = None,
    ways: Annotated[bool, typer.Option("--ways", help="Lists the ways that there are.")] = False,
    way: Annotated[str, typer.Option(help="How it would be followed: asking, triggers or decoding.")] = "triggers",
) -> None:
    """Drafts a document from the foreign keys of a table."""
    from pale_harbor.work.following.connecting import drafted

    with workbench() as bench:
        found = drafted(bench.pool, bench.sealing, collection, connection, table, join)
    if ways:
        rows = [
            [one.name, one.table, one.how_many, "usual" if one.name in found.joins else ""] for one in found.reachable
        ]
        print_columns([["way", "table", "rows to one", ""], *rows])
        return
    document = {
        "connection": connection,
        "query": found.drafted.query,
        "key": found.drafted.key,
        "way": way,
        "tables": [one.model_dump() for one in found.drafted.tables],
    }
    print(orjson.dumps(document, option=orjson.OPT_INDENT_2).decode())


@app.command()
def look(collection: str, document: Annotated[str, typer.Argument(help=_OUT)], as_json: AsJson = False) -> None:
    """The first rows of a query, what it costs, and how it could be followed. Nothing is kept of it."""
    from dataclasses import asdict

    from pale_harbor.formats.following.document import following_document
    from pale_harbor.work.following.connecting import look as look_at

    wanted = following_document(_json(document))
    with workbench() as bench:
        found = look_at(
            bench.pool,
            bench.sealing,
            collection,
            wanted.connection,
            wanted.query,
            wanted.key,
            wanted.tables,
            wanted.changed_at,
        )
    if as_json:
        told = asdict(found)
        told["fields"] = [one.model_dump() for one in found.fields]
        print_json(told)
    else:
        _print_looked(found)


@app.command()
def script(
    collection: str,
    document: Annotated[str, typer.Argument(help=_OUT)],
    out: Annotated[Path | None, typer.Option(help="A file for it instead of standard output.")] = None,
) -> None:
    """What the owner of the tables runs in the database before it is followed so."""
    from pale_harbor.formats.following.document import following_document
    from pale_harbor.work.following.connecting import look as look_at

    wanted = following_document(_json(document))
    with workbench() as bench:
        found = look_at(
            bench.pool,
            bench.sealing,
            collection,
            wanted.connection,
            wanted.query,
            wanted.key,
            wanted.tables,
            wanted.changed_at,
        )
    if found.problem:
        raise BadInput(found.problem)
    text = next((one.script for one in found.ways if one.way == wanted.way), "")
    if not text:
        text = "-- Nothing has to be run for this way.\n"
    if out is None:
        print(text, end="")
    else:
        out.write_text(text, "utf-8")
        print(f"{out} is written")


@app.command()
def put(collection: str, document: Annotated[str, typer.Argument(help=_OUT)]) -> None:
    """Has a collection follow a database, or says anew how; a running server keeps it in step."""
    from pale_harbor.work.following.connecting import follow

    with workbench() as bench:
        follow(bench.pool, bench.sealing, collection, _json(document))
    print(f"{collection} follows; see: follow show {collection}")


@app.command()
def show(collection: str, as_json: AsJson = False) -> None:
    """How a following stands."""
    from dataclasses import asdict

    from pale_harbor.work.following.told import following_told

    with workbench() as bench:
        found = following_told(bench.pool, collection)
    if as_json:
        print_json(None if found is None else asdict(found))
    elif found is None:
        print(f"{collection} follows no database")
    else:
        _print_told(found)


@app.command(name="catch-up")
def catch_up(collection: str) -> None:
    """Follows here and now until nothing waits, for where no server runs on and on."""
    from threading import Event

    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.work.following.follower import Follower
    from pale_harbor.work.following.told import following_told

    with workbench() as bench:
        with bench.pool.connection() as connection:
            kept = collection_named(connection, collection)
        Follower(bench.pool, bench.sealing, kept.id, Event(), sweeps_at_once=True).catch_up()
        found = following_told(bench.pool, collection)
    if found is not None:
        _print_told(found)


@app.command()
def unfit(collection: str, as_json: AsJson = False) -> None:
    """Rows of the source that cannot become records, with the reason."""
    from dataclasses import asdict

    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.following.sources import unfit_rows

    with workbench() as bench, bench.pool.connection() as connection:
        found = unfit_rows(connection, collection_named(connection, collection).id, 0, 10_000)
    if as_json:
        print_json([asdict(one) for one in found])
    else:
        print_columns([["key", "reason"], *[[one.key, one.reason] for one in found]])


@app.command()
def pause(collection: str) -> None:
    """Follows no more until told to go on."""
    from pale_harbor.work.following import connecting

    with workbench() as bench:
        connecting.pause(bench.pool, collection)
    print(f"{collection} is paused")


@app.command(name="go-on")
def go_on(collection: str) -> None:
    """Goes on from where it stood."""
    from pale_harbor.work.following import connecting

    with workbench() as bench:
        connecting.go_on(bench.pool, collection)
    print(f"{collection} follows")


@app.command()
def compare(
    collection: str,
    take_columns: Annotated[
        bool, typer.Option("--take-columns", help="Whatever columns the query gives now are right.")
    ] = False,
) -> None:
    """Has everything read once more."""
    from pale_harbor.work.following.connecting import compare_everything

    with workbench() as bench:
        compare_everything(bench.pool, collection, take_columns=take_columns)
    print(f"everything of {collection} is read once more")


@app.command()
def agree(
    collection: str, deletes: Annotated[int, typer.Option(help="How many records may go, as `follow show` tells.")]
) -> None:
    """Lets what was read delete so many records."""
    from pale_harbor.work.following import connecting

    with workbench() as bench:
        connecting.agree(bench.pool, collection, deletes)
    print(f"{collection} goes on")


@app.command()
def end(collection: str) -> None:
    """Follows no more; the records stay."""
    from pale_harbor.work.following import connecting

    with workbench() as bench:
        found = connecting.end(bench.pool, bench.sealing, collection)
    print(f"{collection} follows no database any more")
    if found.problem:
        print(found.problem)
    if found.removal:
        print(f"What was installed in the database is removed by:\n{found.removal}", end="")


def _json(file: str) -> Any:
    try:
        return orjson.loads(text_of(file))
    except orjson.JSONDecodeError as error:
        raise BadInput(f"{file} is not JSON: {error.msg}, line {error.lineno}.") from error


def _print_looked(found: "Looked") -> None:
    rows = [["field", "type of its column", "becomes"]]
    for field in found.fields:
        # What is nested in a column became fields of their own.
        written = next(
            (one.written for one in found.columns if f"{field.name}.".startswith(f"{one.name}.")),
            "",
        )
        several = ", several values" if field.several else ""
        rows.append([field.name, written, f"{field.kind}{several}{f' ({field.role})' if field.role else ''}"])
    print_columns(rows)
    print(f"{found.looked_at} rows in {found.elapsed_ms:.0f} ms, {found.rejected} of them unfit")
    for row in found.rows[:5]:
        print(f"{row.key}: {row.reason or row.values}")
    print("\n".join(found.planned.lines))
    if found.unheard:
        print(f"Read, but not heard of when they change: {', '.join(found.unheard)}")
    if found.problem:
        print(found.problem)
    for way in found.ways:
        print(f"{way.title}: {'ready' if way.is_ready else 'not yet'}. {way.price} {way.unseen}".rstrip())
        for one in way.lacking:
            print(f"  {one.what}. {one.remedy}")


def _print_told(found: "FollowingTold") -> None:
    print(f"{found.title}: {found.standing}")
    if found.problem:
        print(found.problem)
    if found.outlook is not None:
        print(
            f"To {found.outlook.records:,} records: {found.outlook.added:,} new, {found.outlook.updated:,} changed, "
            f"{found.outlook.deleted:,} deleted. Let it with: follow agree … --deletes {found.outlook.deleted}"
        )
    if found.waiting:
        print(f"behind by {found.waiting:,} changes and {found.behind_s:.0f} s")
    elif found.behind_s:
        print(f"it was in step {found.behind_s:,.0f} s ago")
    print(
        f"since it follows: {found.changes:,} changes read; {found.added:,} records added, {found.updated:,} changed, "
        f"{found.deleted:,} deleted; {found.unfit:,} rows unfit"
    )
