"""From a raw row to a record: nested values spread out, values made what the plan says, the key found."""

import hashlib
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date, datetime
from math import isfinite
from typing import Any, Final

import orjson

from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.places_text import are_places, places_in, referred
from pale_harbor.formats.records.plan import FieldPlan, ImportPlan
from pale_harbor.formats.records.rows import RawRow
from pale_harbor.formats.storable import unstorable

LONGEST_KEY: Final = 500
LONGEST_NAME: Final = 200
FIELDS_AT_MOST: Final = 2_000
_DEEPEST: Final = 16
_LONGEST_NUMBER: Final = 40
# What JSON is written with takes these.
_LEAST_INTEGER: Final = -(2**63)
_GREATEST_INTEGER: Final = 2**64 - 1
_NUMBER: Final = re.compile(r"[+-]?([0-9]+(\.[0-9]*)?|\.[0-9]+)([eE][+-]?[0-9]+)?")

_FLAGS: Final = {"true": True, "yes": True, "y": True, "false": False, "no": False, "n": False}


@dataclass(frozen=True, slots=True)
class RecordRow:
    """A record as it will be kept. values: all fields, the key's included; places: by digest, what values refer to."""

    key: str
    values: dict[str, Any]
    content_hash: bytes
    places: dict[str, str] = field(default_factory=dict[str, str])


class Unfit(BadInput, ValueError):
    """Why a row cannot become a record, in words."""


def record_of(row: RawRow, row_number: int, plan: ImportPlan) -> RecordRow:
    """The record that a row describes. Raises Unfit.

    row_number: from 1; the key where the plan names none.
    """
    if row.values is None:
        raise Unfit(row.reason)
    values: dict[str, Any] = {}
    _spread("", row.values, values, 0)
    if plan.fields is not None:
        values = _convert(values, plan.fields)
    _check(values)
    places = _places_aside(values, are_made=row.made_places)
    key = _key(values, plan.key, row_number)
    return RecordRow(key, values, content_hash(key, values), places)


def readable_values(rows: Iterable[RawRow]) -> Iterator[dict[str, Any]]:
    """What rows hold, nested values spread out; those that cannot become records are passed over."""
    open_plan = ImportPlan()
    for number, row in enumerate(rows, start=1):
        try:
            yield record_of(row, number, open_plan).values
        except Unfit:
            continue


def _places_aside(values: dict[str, Any], *, are_made: bool) -> dict[str, str]:
    """Puts references to places in the place of these; returns them by digest. Raises Unfit.

    are_made: whether a reader has just made them.
    """
    aside: dict[str, str] = {}
    for name, value in values.items():
        if are_places(value):
            try:
                if not are_made:
                    places_in(value)
            except BadInput as error:
                raise Unfit(f'the field "{name}" holds places, of which {error}') from error
            values[name], digest = referred(value)
            aside[digest] = value
    return aside


def content_hash(key: str, values: dict[str, Any]) -> bytes:
    """Equal for equal keys and values, whatever the order of the fields."""
    return hashlib.sha256(orjson.dumps([key, values], option=orjson.OPT_SORT_KEYS)).digest()


def _spread(name: str, value: Any, values: dict[str, Any], depth: int) -> None:
    """Lays nested objects out as fields with dots: {"a": {"b": 1}} becomes a.b = 1."""
    if depth > _DEEPEST:
        raise Unfit(f'the field "{name[:80]}" is nested more than {_DEEPEST} deep.')
    match value:
        case dict():
            for inner, item in value.items():
                _spread(f"{name}.{inner}" if depth else str(inner), item, values, depth + 1)
        case list() if any(isinstance(item, dict | list) for item in value):
            _spread_list(name, value, values, depth)
        case _:
            if name in values:
                # {"a.b": 1, "a": {"b": 2}} names one field twice: both values are kept.
                earlier = values[name] if isinstance(values[name], list) else [values[name]]
                value = [*earlier, *(value if isinstance(value, list) else [value])]
            values[name] = value


def _spread_list(name: str, items: list[Any], values: dict[str, Any], depth: int) -> None:
    columns: dict[str, Any] = {}
    for item in items:
        spread: dict[str, Any] = {}
        _spread(name, item, spread, depth + 1)
        for inner, value in spread.items():
            columns.setdefault(inner, []).extend(value if isinstance(value, list) else [value])
    for inner, found in columns.items():
        _spread(inner, found, values, depth + 1)


def _convert(values: dict[str, Any], fields: list[FieldPlan]) -> dict[str, Any]:
    plans = {field.name: field for field in fields}
    converted: dict[str, Any] = {}
    for name, value in values.items():
        field = plans.get(name)
        if field is None or (value is None and field.keep):
            converted[name] = value
        elif field.keep and (new := converted_value(value, field)) is not None:
            converted[name] = new
    return converted


def converted_value(value: Any, field: FieldPlan) -> Any:
    """A field's value as its plan wants it; None for no value. Raises Unfit."""
    if field.split and isinstance(value, str):
        value = [part.strip() for part in value.split(field.split) if part.strip()]
    if isinstance(value, list):
        if not field.several:
            if len(value) > 1:
                raise Unfit(f'the field "{field.name}" holds {len(value)} values, but one only by the plan.')
            return converted_item(value[0], field) if value and value[0] is not None else None
        return [None if item is None else converted_item(item, field) for item in value]
    single = converted_item(value, field)
    return [single] if field.several and field.split else single


def converted_item(value: Any, field: FieldPlan) -> Any:
    """One value as its field's kind. Raises Unfit."""
    match field.kind:
        case "text" | "exact":
            # A number of a typed source stays one: readings take it as its text anyway.
            return value
        case "number":
            found = number_of(value)
            wanted = "a number"
        case "date":
            found = date_of(value) if isinstance(value, str) else None
            wanted = "a date (like 1846-05-03)"
        case "flag":
            found = value if isinstance(value, bool) else _FLAGS.get(str(value).strip().lower())
            wanted = "a flag (true or false, yes or no)"
    if found is None:
        raise Unfit(f'the field "{field.name}" must be {wanted}, and here is {_show(value)}.')
    return found


def number_of(value: Any) -> int | float | None:
    """The number that a value is or says; None where it says none.

    >>> number_of(" 1846 "), number_of("1.5"), number_of("1,846"), number_of("nan")
    (1846, 1.5, None, None)
    """
    if isinstance(value, bool):
        return None
    if isinstance(value, int | float):
        return value
    text = str(value).strip()
    if len(text) > _LONGEST_NUMBER or _NUMBER.fullmatch(text) is None:
        return None
    if text.lstrip("+-").isdecimal():
        return int(text)
    number = float(text)
    return number if abs(number) < float("inf") else None


def date_of(text: str) -> str | None:
    """A date as ISO 8601 writes it: a year and month, a day, or a moment; None where a text is none.

    3.5.1846 is understood too, for day and month cannot be mistaken there.

    >>> date_of("1846-05-03"), date_of("3.5.1846"), date_of("1846-05"), date_of("1846")
    ('1846-05-03', '1846-05-03', '1846-05', None)
    """
    text = text.strip()
    for read in (_day, _moment, _month, _day_first):
        try:
            return read(text)
        except ValueError:
            continue
    return None


def _day(text: str) -> str:
    if len(text) != 10:
        raise ValueError
    return date.fromisoformat(text).isoformat()


def _moment(text: str) -> str:
    if len(text) < 13 or "-" not in text[:8]:
        raise ValueError
    datetime.fromisoformat(text)
    return text


def _month(text: str) -> str:
    if len(text) != 7:
        raise ValueError
    return date.fromisoformat(f"{text}-01").isoformat()[:7]


def _day_first(text: str) -> str:
    day, month, year = text.split(".")
    if len(year) != 4:
        raise ValueError
    return date(int(year), int(month), int(day)).isoformat()


def _show(value: Any) -> str:
    text = str(value)
    return f'"{text[:60]}…"' if len(text) > 60 else f'"{text}"'


def _check(values: dict[str, Any]) -> None:
    if len(values) > FIELDS_AT_MOST:
        raise Unfit(f"it has {len(values):,} fields; {FIELDS_AT_MOST:,} are taken at most.")
    for name, value in values.items():
        if not name.strip():
            raise Unfit("a field has no name.")
        if len(name) > LONGEST_NAME:
            raise Unfit(f"the name of a field is longer than {LONGEST_NAME} characters: {name[:60]} …")
        if (wrong := unstorable(name)) is not None:
            raise Unfit(f"the name of a field holds {wrong}.")
        for item in value if isinstance(value, list) else [value]:
            if isinstance(item, str) and (wrong := unstorable(item)) is not None:
                raise Unfit(f'the field "{name}" holds {wrong}.')
            if isinstance(item, int) and not _LEAST_INTEGER <= item <= _GREATEST_INTEGER:
                raise Unfit(f'the field "{name}" holds a whole number of more than 64 bits. In quotes it is a text.')
            if isinstance(item, float) and not isfinite(item):
                raise Unfit(f'the field "{name}" holds NaN or a number that is too large. In quotes it is a text.')


def _key(values: dict[str, Any], key_field: str | None, row_number: int) -> str:
    if key_field is None:
        return f"{row_number:08d}"
    key = values.get(key_field)
    if key is None or key == "":
        raise Unfit(f'the key field "{key_field}" is missing or empty.')
    if isinstance(key, bool) or not isinstance(key, str | int):
        raise Unfit(f'the key field "{key_field}" must be a text or a whole number.')
    if len(str(key)) > LONGEST_KEY:
        raise Unfit(f"the key is longer than {LONGEST_KEY} characters.")
    return str(key)
