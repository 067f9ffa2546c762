"""Rows of JSON Lines or of CSV with a header, told from plain columns by their content."""

import csv
import io
from collections.abc import Iterator
from typing import Any

import orjson

from pale_harbor.errors import BadInput
from pale_harbor.formats.spreadsheet_cells import unguarded_cell


def rows_of(text: str, name: str, column: str) -> Iterator[tuple[int, dict[str, Any]]] | None:
    """The rows of a JSON Lines file or of a CSV file whose header has a column, each with its line; None for others."""
    first = next((line for line in io.StringIO(text, newline="") if line.strip()), "")
    if first.lstrip().startswith("{"):
        return _json_rows(text, name)
    header = next(csv.reader([first]), []) if first else []
    if column in header:
        return _csv_rows(text, name)
    return None


def _json_rows(text: str, name: str) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, line in enumerate(text.split("\n"), start=1):
        if line.strip():
            try:
                row = orjson.loads(line)
            except orjson.JSONDecodeError as error:
                raise BadInput(f"{name}, line {number}: this is not JSON: {error.msg}.") from error
            if not isinstance(row, dict):
                raise BadInput(f"{name}, line {number}: a JSON object must stand here.")
            yield number, row


def _csv_rows(text: str, name: str) -> Iterator[tuple[int, dict[str, Any]]]:
    reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
    try:
        for row in reader:
            yield (
                reader.line_num,
                {name: unguarded_cell(cell) if isinstance(cell, str) else cell for name, cell in row.items()},
            )
    except csv.Error as error:
        raise BadInput(f"{name}, line {reader.line_num}: this row is not CSV: {error}.") from error
