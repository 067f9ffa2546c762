"""Records from files: JSON Lines, a JSON array, or CSV with a header, told apart by content."""

import csv
import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from io import TextIOWrapper
from pathlib import Path
from typing import Any, Final

import orjson

from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable

LONGEST_KEY: Final = 500
LONGEST_ROW: Final = 16_000_000
_RAW_SHOWN: Final = 500


@dataclass(frozen=True, slots=True)
class RecordRow:
    """A record as read. values: all fields, the key's included."""

    line: int
    key: str
    values: dict[str, Any]
    content_hash: bytes


@dataclass(frozen=True, slots=True)
class Reject:
    """A row that could not be read: where, why, and what stood there (its beginning, if long)."""

    line: int
    reason: str
    raw: str


def read_records(path: Path, key_field: str) -> Iterator[RecordRow | Reject]:
    """The rows of a file in order, good and bad. Raises BadInput where the file is of no known kind."""
    try:
        with path.open("rb") as file:
            head = file.read(65_536)
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    start = head.lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"{"):
        rows = _json_lines(path)
    elif start.startswith(b"["):
        rows = _json_array(path)
    elif start:
        rows = _csv_rows(path, key_field)
    else:
        rows = iter(())
    for line, values, raw in rows:
        if isinstance(values, str):
            yield Reject(line, values, raw[:_RAW_SHOWN])
        else:
            yield _row(line, values, raw, key_field)


# What each reader gives for a row: its line, its values or the reason it has none, its raw text.
_Row = tuple[int, dict[str, Any] | str, str]


def _json_lines(path: Path) -> Iterator[_Row]:
    with path.open("rb") as file:
        for line, content in enumerate(iter(lambda: file.readline(LONGEST_ROW), b""), start=1):
            stripped = content.removeprefix(b"\xef\xbb\xbf").strip() if line == 1 else content.strip()
            if not stripped:
                continue
            raw = stripped.decode("utf-8", "replace")
            try:
                values = orjson.loads(stripped)
            except orjson.JSONDecodeError as error:
                yield line, f"this is not JSON: {error.msg} (character {error.pos + 1}).", raw
                continue
            yield line, values if isinstance(values, dict) else "a JSON object must stand here.", raw


def _json_array(path: Path) -> Iterator[_Row]:
    try:
        values = orjson.loads(path.read_bytes().removeprefix(b"\xef\xbb\xbf"))
    except orjson.JSONDecodeError as error:
        raise BadInput(f"{path} is not JSON: {error.msg} (line {error.lineno}, column {error.colno}).") from error
    for number, item in enumerate(values, start=1):
        raw = orjson.dumps(item).decode()
        yield number, item if isinstance(item, dict) else "a JSON object must stand here.", raw


def _csv_rows(path: Path, key_field: str) -> Iterator[_Row]:
    with path.open("rb") as binary:
        # A byte that is no UTF-8 becomes a lone surrogate, which the row is then refused for.
        file = TextIOWrapper(binary, "utf-8-sig", errors="surrogateescape", newline="")
        csv.field_size_limit(LONGEST_ROW)
        reader = csv.reader(file, strict=True)
        try:
            header = next(reader)
        except csv.Error as error:
            raise BadInput(f"{path}: the header cannot be read as CSV: {error}.") from error
        if key_field not in header:
            raise BadInput(
                f"{path} is neither JSON nor a CSV file with a column {key_field!r}: "
                f"its first line is {','.join(header)[:200]!r}. Give the key's column with --key."
            )
        while True:
            line = reader.line_num + 1
            try:
                cells = next(reader)
            except StopIteration:
                return
            except csv.Error as error:
                yield line, f"this row is not CSV: {error}.", ""
                continue
            if not cells:
                continue
            raw = ",".join(cells)
            if len(cells) != len(header):
                yield line, f"{len(cells)} cells, but the header has {len(header)}.", raw
                continue
            yield line, {name: cell for name, cell in zip(header, cells, strict=True) if cell}, raw


def _row(line: int, values: dict[str, Any], raw: str, key_field: str) -> RecordRow | Reject:
    reason = _problem(values, key_field)
    if reason is not None:
        return Reject(line, reason, raw[:_RAW_SHOWN].encode("utf-8", "replace").decode())
    key = str(values[key_field])
    content = orjson.dumps([key, values], option=orjson.OPT_SORT_KEYS)
    return RecordRow(line, key, values, hashlib.sha256(content).digest())


def _problem(values: dict[str, Any], key_field: str) -> str | None:
    key = values.get(key_field)
    if key is None or key == "":
        return f'the key field "{key_field}" is missing or empty.'
    if isinstance(key, bool) or not isinstance(key, str | int):
        return f'the key field "{key_field}" must be a text or a whole number.'
    if len(str(key)) > LONGEST_KEY:
        return f"the key is longer than {LONGEST_KEY} characters."
    for name, value in values.items():
        if not name.strip():
            return "a field has no name."
        if (wrong := unstorable(name)) is not None:
            return f"the name of a field holds {wrong}."
        for item in value if isinstance(value, list) else [value]:
            if isinstance(item, dict | list):
                return f'the field "{name}" holds a nested value; a field holds texts, numbers or flags, one or a list.'
            if isinstance(item, str) and (wrong := unstorable(item)) is not None:
                return f'the field "{name}" holds {wrong}.'
    return None
