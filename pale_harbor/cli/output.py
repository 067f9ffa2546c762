"""How commands print: JSON for programs, plain columns for people."""

import sys
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Annotated, Any

import orjson
import typer

from pale_harbor.errors import BadInput

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


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


def text_of(path: str) -> str:
    """The text of a file, or of standard input where the path is `-`. Raises BadInput."""
    try:
        content = sys.stdin.buffer.read() if path == "-" else Path(path).read_bytes()
        return content.decode("utf-8-sig")
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise BadInput(f"{path} is not UTF-8 text (byte {error.start + 1}).") from error
