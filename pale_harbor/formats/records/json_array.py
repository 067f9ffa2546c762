"""A JSON array of objects, read as it streams in."""

from collections.abc import Iterator
from typing import Any

import ijson
import orjson

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow

_BOM = b"\xef\xbb\xbf"


class JsonArray:
    """One JSON array of objects. A row's line is its place in the array."""

    name = "json_array"
    title = "JSON array"

    def recognises(self, source: Source, head: bytes) -> bool:
        return head.removeprefix(_BOM).lstrip().startswith(b"[")

    def settled(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        place = 0
        with source.opened() as file:
            first = file.read(3)
            stream: Any = file if first == _BOM else _After(first, file)
            try:
                for item in ijson.items(stream, "item", use_float=True):
                    place += 1
                    yield _row(place, item)
            except (ijson.JSONError, UnicodeDecodeError, OverflowError, RecursionError) as error:
                reason = f"from here on this is not JSON ({_words(error)}); what came before was read."
                if place == 0:
                    raise BadInput(f"{source.name} is not JSON: {_words(error)}.") from error
                yield RawRow(place + 1, None, reason, b"")


def _row(place: int, item: Any) -> RawRow:
    try:
        raw = orjson.dumps(item)
    except (TypeError, orjson.JSONEncodeError) as error:
        return RawRow(place, None, f"this cannot be kept: {error}.")
    if len(raw) > LONGEST_ROW:
        return RawRow(place, None, f"this is longer than {LONGEST_ROW:,} bytes.", raw)
    if not isinstance(item, dict):
        return RawRow(place, None, "a JSON object must stand here.", raw)
    return RawRow(place, item, raw=raw)


def _words(error: Exception) -> str:
    return " ".join(str(error).split())[:200].rstrip(".")


class _After:
    """A file whose first bytes were read already."""

    def __init__(self, first: bytes, file: Any) -> None:
        self.first = first
        self.file = file

    def read(self, size: int = -1) -> bytes:
        if size == 0:
            return b""
        first, self.first = self.first, b""
        return first + self.file.read(size)
