"""Columns of delimited text whose cells are JSON values: our own export writes them where plain cells would not do."""

import json
from collections.abc import Iterable
from typing import Final

_MARK: Final = " [JSON]"
# What a spreadsheet takes for a formula (OWASP, "CSV Injection"); a name must not look like one either.
FORMULA_STARTS: Final = ("=", "+", "-", "@", "\t", "\r")


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
