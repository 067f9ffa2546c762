"""Records as files: JSON Lines, CSV or Parquet, each of which gives the same collection when it is imported.

In CSV and Parquet a column is plain where every one of its values comes back from it as it was. Where
one would not (several values, numbers among texts, a text that reads like a number or, in a
spreadsheet, like a formula), the whole column holds JSON values and says so.
"""

import csv
import io
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Any, Final, Literal

import orjson
import pyarrow as pa
import pyarrow.parquet as pq

from pale_harbor.formats.records.conversion import converted_item
from pale_harbor.formats.records.guessing import FieldEvidence
from pale_harbor.formats.records.json_columns import can_be_plain, json_header
from pale_harbor.formats.records.parquet import JSON_MARK
from pale_harbor.formats.records.plan import FieldPlan
from pale_harbor.formats.spreadsheet_cells import FORMULA_STARTS

ExportFormat = Literal["jsonl", "csv", "parquet"]
FieldValues = dict[str, Any]
# Gives every record from the start each time it is asked.
AllValues = Callable[[], Iterable[FieldValues]]

_ROWS_AT_ONCE: Final = 1_000


def json_lines(records: AllValues) -> Iterator[bytes]:
    """One JSON object a line."""
    for values in records():
        yield orjson.dumps(values, option=orjson.OPT_APPEND_NEWLINE)


def csv_lines(records: AllValues, names: list[str], key: str | None) -> Iterator[bytes]:
    """CSV (RFC 4180) with a header."""
    plain = _plain_columns(records, names, key)
    yield _csv_line([name if name in plain else json_header(name) for name in names])
    for values in records():
        yield _csv_line([_cell(values, name, name in plain) for name in names])


def write_parquet(records: AllValues, names: list[str], path: Path) -> None:
    """A Parquet file with zstd compression."""
    types = _arrow_types(records, names)
    schema = pa.schema([_arrow_field(name, types[name]) for name in names])
    with pq.ParquetWriter(path, schema, compression="zstd") as writer:
        batch: list[FieldValues] = []
        for values in records():
            batch.append(values)
            if len(batch) == _ROWS_AT_ONCE:
                writer.write_table(_table(batch, names, types, schema))
                batch = []
        writer.write_table(_table(batch, names, types, schema))


def _csv_line(cells: list[str]) -> bytes:
    text = io.StringIO()
    csv.writer(text, lineterminator="\r\n").writerow(cells)
    # One empty cell alone would be an empty line, which is no row.
    return text.getvalue().encode()


def _cell(values: FieldValues, name: str, plain: bool) -> str:
    if name not in values:
        return ""
    value = values[name]
    if not plain:
        return orjson.dumps(value).decode()
    return ("true" if value else "false") if isinstance(value, bool) else str(value)


def _plain_columns(records: AllValues, names: list[str], key: str | None) -> set[str]:
    """The columns whose plain cells are read as the same values again."""
    plain = {name for name in names if can_be_plain(name)}
    evidence = {name: FieldEvidence(name=name, typed=False) for name in names}
    for values in records():
        for name in plain & values.keys():
            value = values[name]
            if _is_plain(value):
                evidence[name].note(str(value) if not isinstance(value, bool) else ("true" if value else "false"))
            else:
                plain.discard(name)
    plans = {name: _plan(evidence[name], name == key) for name in plain if len(name) <= 200}
    for name in list(plain):
        if name not in plans or plans[name].split is not None:
            plain.discard(name)
    for values in records():
        for name in plain & values.keys():
            if not _comes_back(values[name], plans[name]):
                plain.discard(name)
    # A row of one empty cell would be an empty line: then its column says what is missing.
    return plain if len(names) > 1 else set()


def _plan(seen: FieldEvidence, is_key: bool) -> FieldPlan:
    return FieldPlan(name=seen.name, kind="exact" if is_key else seen.kind(), split=seen.delimiter)


def _is_plain(value: Any) -> bool:
    if isinstance(value, str):
        return value != "" and not value.startswith(FORMULA_STARTS) and "\x00" not in value
    return isinstance(value, bool | int | float)


def _comes_back(value: Any, plan: FieldPlan) -> bool:
    text = ("true" if value else "false") if isinstance(value, bool) else str(value)
    try:
        again = converted_item(text, plan)
    except ValueError:
        return False
    return type(again) is type(value) and again == value


def _arrow_types(records: AllValues, names: list[str]) -> dict[str, Any]:
    """The type of each column, None where its values are written as JSON."""
    found: dict[str, set[str]] = {name: set() for name in names}
    for values in records():
        for name, value in values.items():
            found[name].add(_arrow_name(value))
    simple = {"str": pa.string(), "int": pa.int64(), "float": pa.float64(), "bool": pa.bool_()}
    types: dict[str, Any] = {}
    for name, kinds in found.items():
        scalar = simple.get(next(iter(kinds))) if len(kinds) == 1 else None
        lists = kinds - {"list of nothing"}
        item = simple.get(next(iter(lists)).removeprefix("list of ")) if len(lists) == 1 else None
        is_list = bool(lists) and all(kind.startswith("list of ") for kind in kinds)
        types[name] = scalar if scalar is not None else pa.list_(item) if is_list and item is not None else None
    return types


def _arrow_field(name: str, arrow_type: Any) -> Any:
    return pa.field(name, arrow_type or pa.string(), metadata=None if arrow_type else {JSON_MARK: b"1"})


def _arrow_name(value: Any) -> str:
    if isinstance(value, list):
        kinds = {_arrow_name(item) for item in value}
        return "list of nothing" if not kinds else f"list of {kinds.pop()}" if len(kinds) == 1 else "mixed"
    if isinstance(value, int) and not isinstance(value, bool) and not -(2**63) <= value < 2**63:
        return "mixed"
    return "mixed" if value is None else type(value).__name__


def _table(batch: list[FieldValues], names: list[str], types: dict[str, Any], schema: Any) -> Any:
    columns = [
        [
            None if name not in values else orjson.dumps(values[name]).decode() if types[name] is None else values[name]
            for values in batch
        ]
        for name in names
    ]
    arrays = [pa.array(column, type=schema.field(name).type) for column, name in zip(columns, names, strict=True)]
    return pa.Table.from_arrays(arrays, schema=schema)
