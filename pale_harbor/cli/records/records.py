"""`record`: one record or a few, put, shown, deleted."""

from dataclasses import asdict
from typing import Annotated, Any

import orjson
import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.output import AsJson, print_json, text_of
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
