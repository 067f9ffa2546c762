"""A record filled in by a row that tells only some of its fields."""

from typing import Any


def filled_in(values: dict[str, Any], row: dict[str, Any]) -> dict[str, Any]:
    """A record's values with those of a row in their place; what the row leaves empty stays as it was.

    >>> filled_in({"id": "a", "title": "Fog bell", "maker": "Orla"}, {"id": "a", "title": None, "maker": "Tamsin"})
    {'id': 'a', 'title': 'Fog bell', 'maker': 'Tamsin'}
    """
    return values | {name: value for name, value in row.items() if not _is_empty(value)}


def _is_empty(value: Any) -> bool:
    if isinstance(value, list):
        return all(_is_empty(item) for item in value)
    return value is None or value == ""
