"""Delimited text with a header: CSV (RFC 4180), TSV and their kin; delimiter and encoding told by content.

A quote that is never closed would swallow the rest of the file: then the line it stands on is
rejected, and reading goes on with the next.
"""

import codecs
import csv
import io
import re
from collections import Counter, deque
from collections.abc import Iterator
from typing import Any, Final

import orjson
from charset_normalizer import from_bytes

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.conversion import FIELDS_AT_MOST
from pale_harbor.formats.records.json_columns import column_name
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow

DELIMITERS: Final = ",;\t|"
_SAMPLE: Final = 262_144
_BOMS: Final = {codecs.BOM_UTF8: "utf-8", codecs.BOM_UTF16_LE: "utf-16", codecs.BOM_UTF16_BE: "utf-16"}
# Bytes that are not of the encoding, as they are read.
_FOREIGN: Final = re.compile("[\udc80-\udcff]")
# A cell may hold this many lines; fewer once quotes have been left open, or each would cost a long search.
_CONTROLS: Final = bytes(code for code in range(32) if code not in b"\t\n\r\f\x1b")
_MOST_LINES: Final = 20_000


class Delimited:
    """Delimited text whose first line names the fields."""

    name = "delimited"
    title = "CSV, TSV or other delimited text"
    mended_by: str | None = "delimited"

    def recognises(self, source: Source, head: bytes) -> bool:
        return not source.is_folder and (_bom(head) is not None or _is_text(head[:4_096]))

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        head = source.head(_SAMPLE)
        encoding = plan.encoding or _encoding(head)
        try:
            text = head.decode(encoding, "replace").removeprefix("\ufeff")
        except LookupError as error:
            raise BadInput(f'There is no encoding "{encoding}". Known are utf-8, windows-1252, iso-8859-1 …') from error
        delimiter = plan.delimiter or _delimiter(text, plan.quote)
        plan = plan.model_copy(update={"encoding": encoding, "delimiter": delimiter})
        if plan.columns is None:
            plan = plan.model_copy(update={"columns": self._columns(source, plan)})
        return plan

    def _columns(self, source: Source, plan: ImportPlan) -> list[str] | None:
        csv.field_size_limit(LONGEST_ROW)
        with source.open() as file:
            text = io.TextIOWrapper(file, plan.encoding, errors="surrogateescape", newline="")
            header = _RowReader(_Lines(text), plan).next_row()
        return None if header is None else header.cells

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        plan = self.complete_plan(source, plan)
        csv.field_size_limit(LONGEST_ROW)
        with source.open() as file:
            # A byte that is not of the encoding becomes half a surrogate pair, which its row is rejected for.
            text = io.TextIOWrapper(file, plan.encoding, errors="surrogateescape", newline="")
            lines = _Lines(text)
            parser = _RowReader(lines, plan)
            header = parser.next_row()
            if header is None:
                return
            names = _names(source, header)
            if plan.key is not None and plan.key not in [name for name, _ in names]:
                raise BadInput(
                    f'{source.name} is neither JSON nor delimited text with a column "{plan.key}": '
                    f"its first line is {header.raw.strip()[:200]!r}. Name the key's column with --key."
                )
            while (row := parser.next_row()) is not None:
                yield _row(names, row, plan.encoding or "")


class _Lines:
    """Physical lines with their numbers, which can be given back."""

    def __init__(self, text: io.TextIOBase) -> None:
        self.text = text
        self.number = 0
        self.waiting: deque[str] = deque()
        self.begun = False

    def take(self) -> str | None:
        if self.waiting:
            self.number += 1
            return self.waiting.popleft()
        line = self.text.readline(LONGEST_ROW)
        if not self.begun:
            line = line.removeprefix("\ufeff")
            self.begun = True
        if not line:
            return None
        if len(line) == LONGEST_ROW and not line.endswith("\n"):
            while (rest := self.text.readline(LONGEST_ROW)) and not rest.endswith("\n"):
                pass
        self.number += 1
        return line

    def give_back(self, lines: list[str]) -> None:
        self.waiting.extendleft(reversed(lines))
        self.number -= len(lines)


class _Parsed:
    """A row's cells, or the reason why it has none; its line, and its text."""

    __slots__ = ("cells", "line", "raw", "reason")

    def __init__(self, line: int, cells: list[str] | None, reason: str, raw: str) -> None:
        self.line = line
        self.cells = cells
        self.reason = reason
        self.raw = raw


class _RowReader:
    """Rows from lines: one reader goes on from row to row until a row goes wrong."""

    def __init__(self, lines: _Lines, plan: ImportPlan) -> None:
        self.lines = lines
        self.plan = plan
        self.taken: list[str] = []
        self.size = 0
        self.left_open = 0
        self.reader = self._reader()

    def next_row(self) -> _Parsed | None:
        """The next row that is not empty; None at the end."""
        while True:
            self.taken, self.size = [], 0
            first = self.lines.number + 1
            try:
                cells = next(self.reader)
            except StopIteration:
                return None
            except csv.Error as error:
                return self._wrong(first, error)
            if cells:
                return _Parsed(first, cells, "", "".join(self.taken))

    def _wrong(self, first: int, error: csv.Error) -> _Parsed:
        self.reader = self._reader()
        line, *rest = self.taken
        if not rest:
            return _Parsed(first, None, f"this row cannot be read: {error}.", line)
        self.left_open += 1
        self.lines.give_back(rest)
        reason = f"the quote ({self.plan.quote}) that is opened on this line is not closed where a cell ends."
        return _Parsed(first, None, reason, line)

    def _reader(self) -> "Iterator[list[str]]":
        return csv.reader(self._given(), delimiter=self.plan.delimiter or ",", quotechar=self.plan.quote, strict=True)

    def _given(self) -> Iterator[str]:
        while (line := self.lines.take()) is not None:
            self.taken.append(line)
            self.size += len(line)
            if self.size >= LONGEST_ROW:
                raise csv.Error(f"it is longer than {LONGEST_ROW:,} characters")
            if len(self.taken) > max(20, _MOST_LINES // (1 + self.left_open)):
                raise csv.Error("a cell holds too many lines")
            yield line


def _row(names: list[tuple[str, bool]], row: _Parsed, encoding: str) -> RawRow:
    raw = row.raw.encode("utf-8", "surrogateescape")
    if (foreign := _FOREIGN.search(row.raw)) is not None:
        byte = ord(foreign.group()) - 0xDC00
        return RawRow(
            row.line, None, f"the byte 0x{byte:02X} at character {foreign.start() + 1} is not {encoding}.", raw
        )
    if row.cells is None:
        return RawRow(row.line, None, row.reason, raw)
    if len(row.cells) != len(names):
        reason = f"{len(row.cells)} {'cell' if len(row.cells) == 1 else 'cells'}, but the header has {len(names)}."
        return RawRow(row.line, None, reason, raw)
    values: dict[str, Any] = {}
    for (name, is_json), cell in zip(names, row.cells, strict=True):
        if cell == "":
            continue
        if not is_json:
            values[name] = cell
            continue
        try:
            values[name] = orjson.loads(cell)
        except orjson.JSONDecodeError as error:
            return RawRow(row.line, None, f'the cell of "{name}" is not JSON: {error.msg}.', raw)
    return RawRow(row.line, values, raw=raw)


def _names(source: Source, header: _Parsed) -> list[tuple[str, bool]]:
    """The fields' names, and whether their cells are JSON."""
    if header.cells is None:
        raise BadInput(f"{source.name}: the first line cannot be read as a header: {header.reason}")
    if len(header.cells) > FIELDS_AT_MOST:
        raise BadInput(
            f"{source.name}: the first line names {len(header.cells):,} columns; {FIELDS_AT_MOST:,} are read at most. "
            "Does it part cells by another sign, or are rows and columns exchanged?"
        )
    names = [column_name(cell) for cell in header.cells]
    counts = Counter(name for name, _ in names)
    for place, (name, _) in enumerate(names, start=1):
        if not name.strip():
            raise BadInput(f"{source.name}: column {place} has no name. The first line must name every column.")
        if counts[name] > 1:
            raise BadInput(f'{source.name}: the header names "{name}" more than once.')
    return names


def _is_text(head: bytes) -> bool:
    """Whether hardly any byte is one that no text has; a stray one costs its own row only."""
    controls = len(head) - len(head.translate(None, _CONTROLS))
    return head.count(0) <= 0.02 * len(head) and controls <= 0.3 * len(head)


def _bom(head: bytes) -> str | None:
    return next((encoding for bom, encoding in _BOMS.items() if head.startswith(bom)), None)


def _encoding(head: bytes) -> str:
    marked = _bom(head)
    if marked is not None:
        return marked
    try:
        # The sample may end within a character.
        codecs.getincrementaldecoder("utf-8")().decode(head)
    except UnicodeDecodeError:
        found = from_bytes(head[:100_000], cp_isolation=_LIKELY).best()
        return "cp1252" if found is None else found.encoding
    return "utf-8"


_LIKELY: Final = [
    "cp1252",
    "iso8859_15",
    "cp1250",
    "cp1251",
    "cp1253",
    "cp1254",
    "shift_jis",
    "gb18030",
    "big5",
    "euc_kr",
]


def _delimiter(text: str, quote: str) -> str:
    """The delimiter that cuts the most first lines into the same number of cells, more than one."""
    # As files end their lines; a text may hold other separators (U+0085, U+2028) within a cell.
    lines = [f"{line}\n" for line in re.split("\r\n|\n|\r", text, maxsplit=51)[:51]]
    lines = lines[:-1] if len(lines) == 51 or lines[-1] == "\n" else lines
    # A sample cut off within a line would have a short last row.
    lines = lines[:-1] if len(lines) > 2 else lines

    def agreement(delimiter: str) -> tuple[int, int]:
        try:
            sizes = [len(cells) for cells in csv.reader(lines, delimiter=delimiter, quotechar=quote) if cells]
        except csv.Error:
            return (0, 0)
        if not sizes or sizes[0] < 2:
            return (0, 0)
        return (sum(size == sizes[0] for size in sizes), sizes[0])

    # Where none parts the lines it is the first: a comma.
    return max(DELIMITERS, key=agreement)
