"""The order of equal scores: by chosen fields, then by key."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import total_ordering
from typing import Any

import numpy as np
from numpy.typing import NDArray

FieldValue = float | str | None


@total_ordering
@dataclass(frozen=True, slots=True)
class _Descending:
    """Turns the order of what it holds round."""

    value: float | str

    def __lt__(self, other: "_Descending") -> bool:
        return self.value > other.value  # pyright: ignore[reportOperatorIssue]


def place_of_value(value: FieldValue, descending: bool) -> tuple[Any, ...]:
    """What to sort a field's values by: numbers before texts, no value last, either way round."""
    if value is None:
        return (2,)
    kind = 1 if isinstance(value, str) else 0
    return (kind, _Descending(value) if descending else value)


def order_of_equals(columns: Sequence[tuple[Sequence[FieldValue], bool]], record_count: int) -> NDArray[np.int32]:
    """Each record's place among equals, 0 first: int32 (records,).

    columns: for each field its values by record id and whether the greatest comes first. Numbers
    come before texts, records without a value last; what is still equal goes by record id, and
    record ids are in order of key.
    """
    order = list(range(record_count))
    for values, descending in reversed(columns):
        # Sorted least important field first: a stable sort keeps what earlier rounds settled.
        numbers = [i for i in order if isinstance(values[i], int | float)]
        texts = [i for i in order if isinstance(values[i], str)]
        rest = [i for i in order if values[i] is None]
        numbers.sort(key=lambda i: float(values[i] or 0.0), reverse=descending)
        texts.sort(key=lambda i: str(values[i]), reverse=descending)
        order = numbers + texts + rest
    places = np.empty(record_count, np.int32)
    places[np.array(order, np.int64)] = np.arange(record_count, dtype=np.int32)
    return places
