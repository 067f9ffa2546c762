"""A JSON array of objects, read as it streams in."""

import re
from collections.abc import Iterator
from typing import Any, BinaryIO

import ijson
import numpy as np
import orjson

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.kernels import kernel
from pale_harbor.errors import BadInput
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow

# No real record is nested so.
DEEPEST = 500
_BOM = b"\xef\xbb\xbf"
# A bracket alone may be the name of a table's first field.
_ARRAY = re.compile(rb"\s*\[\s*(?:[{\[\"\]]|$)")


class JsonArray:
    """One JSON array of objects. A row's line is its place in the array."""

    name = "json_array"
    title = "JSON array"
    mended_by: str | None = "json_lines"

    def recognises(self, source: Source, head: bytes) -> bool:
        return _ARRAY.match(head.removeprefix(_BOM)) is not None

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        place = 0
        with source.open() as file:
            try:
                for item in ijson.items(_NotTooDeep(file), "item", use_float=True):
                    place += 1
                    yield _row(place, item)
            except (ijson.JSONError, UnicodeDecodeError, OverflowError, _TooDeep) as error:
                reason = f"from here on this is not JSON ({_words(error)}); what came before was read."
                if place == 0:
                    raise BadInput(f"{source.name} is not JSON: {_words(error)}.") from error
                yield RawRow(place + 1, None, reason, b"")


class _TooDeep(ValueError):
    """Brackets stand within brackets without end."""

    def __init__(self) -> None:
        super().__init__(f"it is nested more than {DEEPEST} deep")


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


class _NotTooDeep:
    """A file of JSON without its byte order mark, up to where it is nested too deep: there it raises _TooDeep.

    A parser remembers the way to each place, so that a small file of many brackets would fill the memory.
    """

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._before = file.read(3).removeprefix(_BOM)
        # Depth, whether within a string, whether after a backslash.
        self._state = (0, False, False)
        self._too_deep = False

    def read(self, size: int = -1) -> bytes:
        if size == 0:
            return b""
        if self._too_deep:
            raise _TooDeep
        data, self._before = self._before + self._file.read(size), b""
        depth, in_text, escaped, good = _depths(np.frombuffer(data, np.uint8), *self._state, DEEPEST)
        self._state = (depth, in_text, escaped)
        self._too_deep = good < len(data)
        # Nothing to hand out would look like the end of the file.
        if self._too_deep and not good:
            raise _TooDeep
        return data[:good]


@kernel
def _depths(data: IntArray, depth: int, in_text: bool, escaped: bool, most: int) -> tuple[int, bool, bool, int]:
    """How deep brackets stand within brackets after these bytes, and how many bytes come before they stand too deep.

    Brackets in strings are text.
    """
    for i in range(data.size):
        byte = data[i]
        if in_text:
            if escaped:
                escaped = False
            elif byte == 92:
                escaped = True
            elif byte == 34:
                in_text = False
        elif byte == 34:
            in_text = True
        elif byte in (91, 123):
            depth += 1
            if depth > most:
                return depth, in_text, escaped, i
        elif byte in (93, 125):
            depth -= 1
    return depth, in_text, escaped, data.size
