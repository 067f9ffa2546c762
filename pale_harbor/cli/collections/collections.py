"""`collection`: collections listed, copied, renamed, dropped; what was rejected."""

from pathlib import Path
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.errors import BadInput

app = typer.Typer(help="Collections.", no_args_is_help=True)


@app.command("list")
def list_collections(as_json: AsJson = False) -> None:
    """Lists the collections."""
    from pale_harbor.store.collections.collections import all_collections
    from pale_harbor.store.records.records import record_count

    with database() as pool, pool.connection() as connection:
        rows = [
            {"name": one.name, "records": record_count(connection, one.id), "revision": one.revision}
            for one in all_collections(connection)
        ]
    if as_json:
        print_json(rows)
    else:
        print_columns([(row["name"], f"{row['records']} records", f"revision {row['revision']}") for row in rows])


@app.command()
def copy(collection: str, name: str) -> None:
    """Makes a copy under another name: records, fields, chains, rankers, judged sets."""
    with workbench() as bench:
        bench.copy_collection(collection, name)
    print(f"{collection} was copied to {name}.")


@app.command()
def rename(collection: str, name: str) -> None:
    """Gives a collection another name."""
    with workbench() as bench:
        bench.rename_collection(collection, name)
    print(f"{collection} is now {name}.")


@app.command()
def drop(
    collection: str,
    confirm: Annotated[str | None, typer.Option(help="The collection's name again, in place of the question.")] = None,
) -> None:
    """Drops a collection with all its records, rankers and judged sets. This cannot be undone."""
    said = confirm if confirm is not None else typer.prompt(f"This cannot be undone. Type {collection} to drop it")
    if said != collection:
        raise BadInput(f'"{said}" is not "{collection}": nothing was dropped.')
    with workbench() as bench:
        bench.drop_collection(collection)
    print(f"{collection} was dropped.")


@app.command()
def pictures(
    collection: str, folder: Annotated[Path, typer.Argument(help="SVG, PNG, JPEG, WebP or GIF files.")]
) -> None:
    """Loads a folder of small pictures; records name them by their files' names."""
    from pale_harbor.work.records.pictures import load_pictures

    with workbench() as bench:
        count = load_pictures(bench.pool, collection, folder)
    print(f"{count} pictures loaded.")


@app.command()
def rejected(collection: str, as_json: AsJson = False) -> None:
    """Lists the rows that imports could not read and that were not mended since."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.imports.imports import all_rejected, imports_of

    with database() as pool, pool.connection() as connection:
        collection_named(connection, collection)
        rows = [
            {"import": job.id, "source": job.source.get("name"), "line": row.line, "reason": row.reason, "raw": row.raw}
            for job in imports_of(connection, collection)
            if job.rows_rejected
            for row in all_rejected(connection, job.id)
        ]
    if as_json:
        print_json(rows)
        return
    for row in rows:
        print(f"{row['source']}, line {row['line']}: {row['reason']}\n  {str(row['raw'])[:200].rstrip()}")
