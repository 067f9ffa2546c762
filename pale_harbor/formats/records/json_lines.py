"""JSON Lines: one JSON object a line (jsonlines.org; RFC 8259 for what stands in a line)."""

import re
from collections.abc import Iterator

import orjson

from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow

_BOM = b"\xef\xbb\xbf"
# A brace alone may be the name of a table's first field.
_OBJECT = re.compile(rb"\s*\{\s*(?:[\"}]|$)")


class JsonLines:
    """One JSON object a line."""

    name = "json_lines"
    title = "JSON Lines"
    mended_by: str | None = "json_lines"

    def recognises(self, source: Source, head: bytes) -> bool:
        return _OBJECT.match(head.removeprefix(_BOM)) is not None

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        with source.open() as file:
            line = 0
            while content := file.readline(LONGEST_ROW):
                line += 1
                if len(content) == LONGEST_ROW and not content.endswith(b"\n"):
                    while (rest := file.readline(LONGEST_ROW)) and not rest.endswith(b"\n"):
                        pass
                    yield RawRow(line, None, f"this line is longer than {LONGEST_ROW:,} bytes.", content)
                    continue
                stripped = content.removeprefix(_BOM).strip() if line == 1 else content.strip()
                if stripped:
                    yield json_row(line, stripped)


def json_row(line: int, content: bytes) -> RawRow:
    """The row that a JSON text describes."""
    try:
        values = orjson.loads(content)
    except orjson.JSONDecodeError as error:
        return RawRow(line, None, f"this is not JSON: {error.msg} (character {error.pos + 1}).", content)
    if not isinstance(values, dict):
        return RawRow(line, None, "a JSON object must stand here.", content)
    return RawRow(line, values, raw=content)
