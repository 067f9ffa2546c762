"""`record`: one record or a few, put, shown, deleted."""

from dataclasses import asdict
from typing import Annotated, Any

import orjson
import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.errors import BadInput

app = typer.Typer(help="Single records.", no_args_is_help=True)


@app.command()
def put(
    collection: str,
    file: Annotated[str, typer.Argument(help="JSON Lines or one JSON array or object; - for standard input.")],
    as_json: AsJson = False,
) -> None:
    """Adds or replaces records, all or none."""
    from pale_harbor.work.records.changes import put_records

    with workbench() as bench:
        _print(asdict(put_records(bench.pool, collection, _rows(text_of(file), file))), as_json)


@app.command()
def delete(
    collection: str,
    keys: Annotated[list[str], typer.Argument(help="The records' keys.")],
    as_json: AsJson = False,
) -> None:
    """Deletes records; they can be restored."""
    from pale_harbor.work.records.changes import remove_records

    with workbench() as bench:
        _print(asdict(remove_records(bench.pool, collection, keys)), as_json)


@app.command()
def deleted(collection: str, as_json: AsJson = False) -> None:
    """Lists the revisions that deleted records which are not there again, the latest first."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.records.records import deletions

    with database() as pool, pool.connection() as connection:
        found = deletions(connection, collection_named(connection, collection).id)
    if as_json:
        print_json([asdict(one) for one in found])
    elif not found:
        print("No record is deleted.")
    else:
        print_columns(
            [
                (
                    f"revision {one.revision}",
                    f"{one.at:%Y-%m-%d %H:%M}",
                    f"{one.records:,} record{'s' * (one.records != 1)}",
                )
                for one in found
            ]
        )


@app.command()
def restore(
    collection: str,
    keys: Annotated[list[str] | None, typer.Argument(help="Keys of deleted records.")] = None,
    revision: Annotated[int | None, typer.Option(help="All that this revision deleted, instead of keys.")] = None,
    as_json: AsJson = False,
) -> None:
    """Brings deleted records back, as they were last."""
    from pale_harbor.work.records.changes import restore_deleted

    if bool(keys) == (revision is not None):
        raise BadInput("Tell either the keys of deleted records, or --revision. Revisions: ./paleharbor record deleted")
    with workbench() as bench:
        changed = restore_deleted(bench.pool, collection, keys=keys or None, ended_revision=revision)
    _print(asdict(changed), as_json)


@app.command()
def get(collection: str, key: str) -> None:
    """Prints a record as JSON."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.records.records import record_with_key

    with database() as pool, pool.connection() as connection:
        print_json(record_with_key(connection, collection_named(connection, collection), key).field_values)


def _rows(text: str, name: str) -> list[dict[str, Any]]:
    try:
        begins = text.lstrip()[:1]
        rows = (
            orjson.loads(text) if begins == "[" else [orjson.loads(line) for line in text.splitlines() if line.strip()]
        )
    except orjson.JSONDecodeError:
        try:
            rows = [orjson.loads(text)]
        except orjson.JSONDecodeError as error:
            raise BadInput(f"{name} is not JSON: {error.msg} (line {error.lineno}, column {error.colno}).") from error
    if not all(isinstance(row, dict) for row in rows):
        raise BadInput(f"{name}: every record must be a JSON object.")
    return rows


def _print(changed: dict[str, Any], as_json: bool) -> None:
    if as_json:
        print_json(changed)
        return
    told = ", ".join(
        f"{changed[name]} {name}" for name in ("added", "updated", "unchanged", "deleted") if changed[name]
    )
    print(f"{told or 'nothing changed'}; records revision {changed['revision']}")
