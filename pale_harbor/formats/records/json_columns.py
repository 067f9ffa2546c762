"""Columns of delimited text whose cells are JSON values: our own export writes them where plain cells would not do."""

import json
from collections.abc import Iterable
from typing import Final

from pale_harbor.formats.spreadsheet_cells import FORMULA_STARTS

# A name must not look like a formula either.
_MARK: Final = " [JSON]"


def column_name(header: str) -> tuple[str, bool]:
    """The field that a header names, and whether its cells are JSON.

    >>> column_name("materials [JSON]"), column_name("title")
    (('materials', True), ('title', False))
    """
    if not header.endswith(_MARK):
        return header, False
    name = header.removesuffix(_MARK)
    if name.startswith('"'):
        try:
            return str(json.loads(name)), True
        except json.JSONDecodeError:
            return name, True
    return name, True


def json_header(name: str) -> str:
    """The header of a field's column of JSON cells."""
    return f"{json.dumps(name) if name.startswith((*FORMULA_STARTS, chr(34))) else name}{_MARK}"


def can_be_plain(name: str) -> bool:
    """Whether a column of plain cells may have this header."""
    return not name.endswith(_MARK) and not name.startswith((*FORMULA_STARTS, '"', "\ufeff"))


def json_column_names(columns: Iterable[str]) -> list[str]:
    """The fields whose columns hold JSON cells."""
    return [name for name, is_json in map(column_name, columns) if is_json]
