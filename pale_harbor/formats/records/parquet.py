"""Apache Parquet, read batch by batch."""

from collections.abc import Iterator
from typing import Any

import orjson
import pyarrow as pa
import pyarrow.parquet as pq

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import RawRow
from pale_harbor.formats.records.values import plain_value

_MAGIC = b"PAR1"
# What our own export writes on a column of JSON texts.
JSON_MARK = b"json"
_ROWS_AT_ONCE = 1_000


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
            with pq.ParquetFile(source.path, memory_map=True) as table:
                schema = table.schema_arrow
                json_columns = {field.name for field in schema if (field.metadata or {}).get(JSON_MARK) == b"1"}
                in_all = max(1, table.metadata.num_rows)
                for batch in table.iter_batches(_ROWS_AT_ONCE):
                    for values in batch.to_pylist():
                        place += 1
                        source.bytes_read = source.path.stat().st_size * place // in_all
                        yield _row(place, values, json_columns)
        except (pa.ArrowException, OSError, ValueError) as error:
            if place == 0:
                raise BadInput(f"{source.name} cannot be read as Parquet: {error}.") from error
            yield RawRow(place + 1, None, f"from here on the file cannot be read ({error}); what came before was read.")


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
