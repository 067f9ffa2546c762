"""Filters: which records a list may hold, by the values of their fields."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, isnan
from typing import Annotated

import numpy as np

from pale_harbor.core.arrays import IntArray, Mask
from pale_harbor.core.fields.column import FieldColumn, day_of
from pale_harbor.core.kernels import kernel
from pale_harbor.core.knobs import Knob, Names

_Field = Annotated[str, Knob("field", "the field whose values count", longest=200, names=Names.FIELD)]


@dataclass(frozen=True, slots=True)
class OneOf:
    """Records with one of these values; any_case: whatever their case."""

    field: _Field
    one_of: Annotated[
        tuple[str, ...],
        Knob("one of", "one of these values", items=(1, 200), longest=1_000, empty=True),
    ]
    any_case: bool = False

    def __str__(self) -> str:
        return f"{self.field} is {' or '.join(self.one_of)}"


@dataclass(frozen=True, slots=True)
class Within:
    """Records with a value from low to high, bounds included; None: open. Numbers, dates, or else texts."""

    field: _Field
    low: Annotated[str | None, Knob("low", "from this value on", longest=100, empty=True)] = None
    high: Annotated[str | None, Knob("high", "up to this value", longest=100, empty=True)] = None

    def __str__(self) -> str:
        low = f"from {_bound_in_words(self.low)} " if self.low is not None else ""
        return f"{self.field} {low}{f'to {_bound_in_words(self.high)}' if self.high is not None else 'on'}".strip()


@dataclass(frozen=True, slots=True)
class Has:
    """Records with any value, or (has false) with none."""

    field: _Field
    has: Annotated[bool, Knob("has", "whether it has a value at all")]

    def __str__(self) -> str:
        return f"{self.field} {'has' if self.has else 'has no'} value"


def _bound_in_words(bound: str) -> str:
    """A bound without the point that a whole number need not have."""
    return bound.removesuffix(".0")


Filter = OneOf | Within | Has


def passing_records(wanted: Filter, column: FieldColumn) -> Mask:
    """Which records pass: bool (records,)."""
    match wanted:
        case OneOf(_, values, any_case):
            return _holders(column, _one_of(column.texts, values, any_case=any_case))
        case Within(_, low, high):
            return _holders(column, _within(column, low, high))
        case Has(_, has):
            return (column.firsts[1:] > column.firsts[:-1]) == has


def _one_of(texts: list[str], values: Sequence[str], *, any_case: bool) -> Mask:
    """Which distinct values are among those that are wanted. texts: ascending."""
    if any_case:
        chosen = {value.casefold() for value in values}
        return np.array([text.casefold() in chosen for text in texts], np.bool_)
    fits = np.zeros(len(texts), np.bool_)
    for value in values:
        place = bisect_left(texts, value)
        if place < len(texts) and texts[place] == value:
            fits[place] = True
    return fits


def _within(column: FieldColumn, low: str | None, high: str | None) -> Mask:
    """Which distinct values lie between the bounds. A bound that is no number lets no number pass."""
    if not column.is_numeric:
        return np.array(
            [(low is None or text >= low) and (high is None or text <= high) for text in column.texts], np.bool_
        )
    least = -inf if low is None else _bound(low, column.dates, last=False)
    most = inf if high is None else _bound(high, column.dates, last=True)
    if isnan(least) or isnan(most):
        return np.zeros(len(column.texts), np.bool_)
    return (column.numbers >= least) & (column.numbers <= most)


def _bound(text: str, dates: bool, last: bool) -> float:
    if dates:
        return day_of(text, last)
    try:
        return float(text)
    except ValueError:
        return float("nan")


def _holders(column: FieldColumn, fits: Mask) -> Mask:
    """Which records have a value that fits."""
    return _with_one_that_fits(column.codes, column.firsts, fits)


@kernel
def _with_one_that_fits(codes: IntArray, firsts: IntArray, fits: Mask) -> Mask:
    found = np.zeros(firsts.size - 1, np.bool_)
    for record in range(found.size):
        for i in range(firsts[record], firsts[record + 1]):
            if fits[codes[i]]:
                found[record] = True
                break
    return found
