"""Apache Parquet, read batch by batch."""

from collections.abc import Iterator
from typing import Any

import orjson
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.opening import Source, Unfolding
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import RawRow
from pale_harbor.formats.records.values import plain_value

_MAGIC = b"PAR1"
# What our own export writes on a column of JSON texts.
JSON_MARK = b"json"
_ROWS_AT_ONCE = 1_000
_BYTES_AT_ONCE = 64_000_000


class Parquet:
    """A Parquet file. A row's line is its place in the table."""

    name = "parquet"
    title = "Parquet"
    mended_by: str | None = "json_lines"

    def recognises(self, source: Source, head: bytes) -> bool:
        return head.startswith(_MAGIC)

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        place = 0
        try:
            unfolds, size = Unfolding(source), source.path.stat().st_size
            with _opened(source) as table:
                schema = table.schema_arrow
                json_columns = {field.name for field in schema if (field.metadata or {}).get(JSON_MARK) == b"1"}
                in_all = max(1, table.metadata.num_rows)
                for batch in table.iter_batches(_rows_at_once(table)):
                    for values in _values_of(batch):
                        place += 1
                        source.bytes_read = size * place // in_all
                        read = _row(place, values, json_columns)
                        unfolds.by(len(read.raw or b""))
                        yield read
        except (pa.ArrowException, OSError, ValueError) as error:
            if place == 0:
                raise BadInput(f"{source.name} cannot be read as Parquet: {error}.") from error
            yield RawRow(place + 1, None, f"from here on the file cannot be read ({error}); what came before was read.")


def _opened(source: Source) -> pq.ParquetFile:
    """The file, texts that stand in it once for many rows left as they are."""
    with pq.ParquetFile(source.path, memory_map=True) as table:
        columns = [table.schema.column(place) for place in range(len(table.schema.names))]
        texts = [column.path for column in columns if column.physical_type == "BYTE_ARRAY"]
    return pq.ParquetFile(source.path, memory_map=True, read_dictionary=texts)


def _rows_at_once(table: pq.ParquetFile) -> int:
    groups = [table.metadata.row_group(place) for place in range(table.metadata.num_row_groups)]
    of_a_row = max((group.total_byte_size / max(1, group.num_rows) for group in groups), default=0.0)
    return max(1, min(_ROWS_AT_ONCE, int(_BYTES_AT_ONCE / max(1.0, of_a_row))))


def _values_of(batch: Any) -> Iterator[dict[str, Any]]:
    """A batch's rows: at once, or one by one where a text that stands in it once would be made anew for too many."""
    if sum(_largest_size(column) for column in batch.columns) <= _BYTES_AT_ONCE:
        yield from batch.to_pylist()
        return
    for row in range(batch.num_rows):
        yield batch.slice(row, 1).to_pylist()[0]


def _largest_size(column: Any) -> int:
    """What the texts of a column come to at most, if each were as long as the longest."""
    if pa.types.is_dictionary(column.type):
        longest = pc.call_function("max", [pc.call_function("binary_length", [column.dictionary])]).as_py()
        return len(column) * (longest or 0)
    if pa.types.is_struct(column.type):
        return sum(_largest_size(part) for part in column.flatten())
    if pa.types.is_list(column.type) or pa.types.is_large_list(column.type) or pa.types.is_map(column.type):
        return _largest_size(column.flatten() if not pa.types.is_map(column.type) else column.items)
    return column.nbytes


def _row(place: int, values: dict[str, Any], json_columns: set[str]) -> RawRow:
    read: dict[str, Any] = {}
    for name, value in values.items():
        if value is None:
            continue
        try:
            read[name] = orjson.loads(value) if name in json_columns else plain_value(value)
        except (ValueError, TypeError) as error:
            return RawRow(place, None, f'the field "{name}" cannot be kept: {error}.', repr(values).encode())
    return RawRow(place, read, raw=orjson.dumps(read, default=str))
