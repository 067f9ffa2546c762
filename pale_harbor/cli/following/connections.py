"""`connection`: other databases that a collection may be read from."""

from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.errors import BadInput

app = typer.Typer(help="Other databases by names: kept with what is secret of them sealed.", no_args_is_help=True)


@app.command()
def put(
    collection: str,
    name: str,
    address: Annotated[
        str, typer.Argument(help="postgresql://user@host:5432/database, mysql://user@host/database or sqlite:///file.")
    ],
    password: Annotated[
        str | None, typer.Option(help="A file that holds the password, - for standard input; nobody sees it then.")
    ] = None,
) -> None:
    """Keeps how a database is reached; the password that is kept stays where none is given."""
    from pale_harbor.work.following.addresses import document_of
    from pale_harbor.work.following.connecting import keep_connection

    document, within = document_of(address)
    if within is not None and password is not None:
        raise BadInput("The address holds a password, and a file of one is named too. Give one of them.")
    secret = within if password is None else text_of(password).strip("\n")
    with workbench() as bench:
        keep_connection(bench.pool, bench.sealing, collection, name, document, secret)
    print(f"{name} is kept")


@app.command(name="list")
def list_connections(collection: str, as_json: AsJson = False) -> None:
    """Lists connections, without what is secret of them."""
    from dataclasses import asdict

    from pale_harbor.work.following.connecting import connections_told

    with workbench() as bench:
        found = connections_told(bench.pool, collection)
    if as_json:
        print_json([asdict(one) for one in found])
    else:
        print_columns(
            [
                ["name", "kind", "database", ""],
                *[
                    [one.name, str(one.document["kind"]), one.title, "followed" if one.followed else ""]
                    for one in found
                ],
            ]
        )


@app.command(name="try")
def try_it(collection: str, name: str) -> None:
    """Tells whether a database answers."""
    from pale_harbor.work.following.connecting import reached

    with workbench() as bench:
        found = reached(bench.pool, bench.sealing, collection, name)
    print(f"{name} answers: {found.version}, in {found.elapsed_ms:.0f} ms")


@app.command()
def tables(collection: str, name: str, as_json: AsJson = False) -> None:
    """Lists the tables that may be read, and what they refer to."""
    from dataclasses import asdict

    from pale_harbor.work.following.connecting import catalogue

    with workbench() as bench:
        found = catalogue(bench.pool, bench.sealing, collection, name)
    if as_json:
        print_json(asdict(found))
        return
    rows = [["table", "rows, about", "key", "refers to"]]
    for one in found.tables:
        refers = [
            f"{other.to} ({', '.join(other.columns)})" for other in found.references if other.table == one.full_name
        ]
        rows.append([one.full_name, "" if one.rows is None else f"{one.rows:,}", ", ".join(one.key), ", ".join(refers)])
    print_columns(rows)


@app.command()
def drop(collection: str, name: str) -> None:
    """Forgets a connection that nothing follows by."""
    from pale_harbor.work.following.connecting import drop as drop_connection

    with workbench() as bench:
        drop_connection(bench.pool, collection, name)
    print(f"{name} is gone")
