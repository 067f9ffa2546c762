"""How commands print: JSON for programs, plain columns for people."""

import sys
from collections.abc import Iterable, Sequence
from itertools import pairwise
from pathlib import Path
from typing import Annotated, Any, Final

import orjson
import typer

from pale_harbor.errors import BadInput
from pale_harbor.formats import text_files

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]

_MOST_DIGITS: Final = 8


def print_json(data: Any) -> None:
    """One line of JSON."""
    sys.stdout.buffer.write(orjson.dumps(data, option=orjson.OPT_APPEND_NEWLINE | orjson.OPT_SERIALIZE_NUMPY))
    sys.stdout.buffer.flush()


def print_columns(rows: Iterable[Sequence[object]]) -> None:
    """Rows in aligned columns."""
    texts = [[str(cell) for cell in row] for row in rows]
    if not texts:
        return
    widths = [max(len(row[column]) for row in texts) for column in range(len(texts[0]))]
    for row in texts:
        print("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def score_digits(scores: Sequence[float]) -> int:
    """With how many decimals scores are printed so that no two neighbours that differ look the same.

    >>> score_digits([2.5, 1.25]), score_digits([0.0164, 0.0161])
    (3, 4)
    """

    def alike(digits: int) -> bool:
        return any(one != other and f"{one:.{digits}f}" == f"{other:.{digits}f}" for one, other in pairwise(scores))

    return next((digits for digits in range(3, _MOST_DIGITS) if not alike(digits)), _MOST_DIGITS)


def print_notes(notes: Iterable[str]) -> None:
    """What keeps figures from meaning what one would think, each once, a line each."""
    for note in dict.fromkeys(notes):
        print(f"note: {note}")


def text_of(path: str) -> str:
    """The text of a file, or of standard input where the path is `-`. Raises BadInput."""
    if path != "-":
        return text_files.text_of(Path(path))
    try:
        return sys.stdin.buffer.read().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput(f"Standard input is not UTF-8 text (byte {error.start + 1}).") from error


def write_text(path: Path, text: str) -> None:
    """Writes a file. Raises BadInput where it cannot be written."""
    try:
        path.write_text(text, encoding="utf-8", newline="")
    except OSError as error:
        raise BadInput(f"{path} cannot be written: {error.strerror}.") from error
