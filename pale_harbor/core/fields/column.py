"""A field's values of all records as columns: for filters, facets, signals and groups."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from math import nan
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray

_PERIOD: Final = re.compile(r"\d{4}(?:-\d{2}){0,2}")
_DATE: Final = re.compile(r"\d{4}-\d{2}-\d{2}(?!\d)")


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class FieldColumn:
    """A field by record id.

    texts: every distinct value as text, ascending; codes: int32 (values,), which of them; firsts: int64
    (records + 1,), each record's stretch of `codes`; numbers: float64 (distinct values,), NaN where a
    value is no number. Dates count as days, flags as 0 and 1. dates: whether the values are dates.
    """

    texts: list[str]
    codes: IntArray
    firsts: IntArray
    numbers: NDArray[np.float64]
    dates: bool = False

    @property
    def record_count(self) -> int:
        """How many records the column is of."""
        return self.firsts.size - 1

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, its texts reckoned as short ones."""
        return self.codes.nbytes + self.firsts.nbytes + self.numbers.nbytes + 80 * len(self.texts)

    @property
    def is_numeric(self) -> bool:
        """Whether every value is a number or a date."""
        return bool(self.texts) and not np.isnan(self.numbers).any()

    def first_numbers(self) -> NDArray[np.float64]:
        """The first value of each record as a number: float64 (records,), NaN where there is none."""
        first = np.full(self.record_count, nan)
        has = self.firsts[1:] > self.firsts[:-1]
        first[has] = self.numbers[self.codes[self.firsts[:-1][has]]]
        return first

    def first_codes(self) -> NDArray[np.int32]:
        """The first value of each record: int32 (records,), −1 where there is none."""
        first = np.full(self.record_count, -1, np.int32)
        has = self.firsts[1:] > self.firsts[:-1]
        first[has] = self.codes[self.firsts[:-1][has]]
        return first


def column_of(values: Iterable[Any]) -> FieldColumn:
    """The column of a field whose values come record by record: None, one value, or a list of them.

    Where every value is an ISO 8601 date, they are taken as days.

    >>> column_of([1846, None, [1900, 1846]]).first_numbers()[[0, 2]].tolist()
    [1846.0, 1900.0]
    """
    seen: dict[str, int] = {}
    raw: list[Any] = []
    codes: list[int] = []
    firsts = [0]
    for value in values:
        own: dict[int, None] = {}
        for one in value if isinstance(value, list) else [value]:
            if one is not None:
                text = text_of(one)
                code = seen.setdefault(text, len(seen))
                if code == len(raw):
                    raw.append(one)
                own[code] = None
        # A value that a record says twice is one value.
        codes.extend(own)
        firsts.append(len(codes))
    texts = sorted(seen)
    dates = bool(texts) and all(isinstance(one, str) and _DATE.match(one) for one in raw)
    places = np.empty(len(texts), np.int32)
    places[[seen[text] for text in texts]] = np.arange(len(texts), dtype=np.int32)
    numbers = np.array([number_of(raw[seen[text]], dates) for text in texts], np.float64)
    return FieldColumn(
        texts=texts,
        codes=places[np.array(codes, np.int64)],
        firsts=np.array(firsts, np.int64),
        numbers=numbers,
        dates=dates,
    )


def text_of(value: Any) -> str:
    """A value as it is shown and filtered by: flags as true and false."""
    return ("true" if value else "false") if isinstance(value, bool) else str(value)


def number_of(value: Any, dates: bool) -> float:
    """A value as a number; NaN where it is none. A date is its day, counted from 1970-01-01."""
    if isinstance(value, bool | int | float):
        return float(value)
    if dates and isinstance(value, str):
        return day_of(value, last=False)
    return nan


def day_of(text: str, last: bool) -> float:
    """The day of an ISO 8601 date, or the first or last day of a year or month; NaN for anything else.

    >>> day_of("1907-02", last=True) - day_of("1907-02", last=False)
    27.0
    """
    written = text.strip()[:10]
    if _PERIOD.fullmatch(written) is None:
        return nan
    try:
        period = np.datetime64(written)
    except ValueError:
        return nan
    if last:
        # The day before the next year or month begins; a day is its own last one.
        period = (period + 1).astype("datetime64[D]") - 1
    return float(period.astype("datetime64[D]").astype(np.int64))
