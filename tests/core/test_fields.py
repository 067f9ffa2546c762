"""Columns of field values: what filters let pass and facets count is what looking at each record gives."""

from collections import Counter
from math import isnan
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.fields import Filter, Has, OneOf, Within, column_of, day_of, facet, passing_records, text_of

scalars = st.sampled_from(["letter", "chart", "chart b", "", 1846, 1900, 1846.5, -3, True, False])
values = st.lists(st.none() | scalars | st.lists(scalars, max_size=3), max_size=12)
numbers = st.lists(st.none() | st.integers(1800, 1950), max_size=12)


def listed(value: Any) -> list[str]:
    return list(
        dict.fromkeys(text_of(one) for one in (value if isinstance(value, list) else [value]) if one is not None)
    )


@given(values=values, wanted=st.lists(st.sampled_from(["letter", "chart", "1846", "true", "no"]), max_size=3))
def test_a_filter_on_values_lets_records_pass_that_have_one_of_them(values: list[Any], wanted: list[str]):
    found = passing_records(OneOf("kind", tuple(wanted)), column_of(values))
    assert found.tolist() == [bool(set(listed(value)) & set(wanted)) for value in values]


def test_a_filter_on_values_that_no_record_has_lets_none_pass():
    column = column_of(["chart", None, "letter"])
    for value in ("", "charta", "zeppelin"):
        assert passing_records(OneOf("kind", (value,)), column).tolist() == [False, False, False]
    assert passing_records(OneOf("kind", ("zeppelin", "letter", "a")), column).tolist() == [False, False, True]
    assert passing_records(OneOf("kind", ("chart",)), column_of([None, None])).tolist() == [False, False]


def test_a_filter_may_pass_over_the_case():
    column = column_of(["Cold Haven", "cold haven", "Saltmere"])
    assert passing_records(OneOf("place", ("COLD haven",), any_case=True), column).tolist() == [True, True, False]
    assert passing_records(OneOf("place", ("cold haven",)), column).tolist() == [False, True, False]


@given(values=values, there=st.booleans())
def test_a_filter_on_having_a_value(values: list[Any], there: bool):
    assert passing_records(Has("kind", there), column_of(values)).tolist() == [bool(listed(v)) == there for v in values]


@given(values=numbers, low=st.none() | st.integers(1800, 1950), high=st.none() | st.integers(1800, 1950))
def test_a_range_of_numbers_includes_its_ends(values: list[int | None], low: int | None, high: int | None):
    wanted = Within("year", None if low is None else str(low), None if high is None else str(high))
    expected = [v is not None and (low is None or v >= low) and (high is None or v <= high) for v in values]
    assert passing_records(wanted, column_of(values)).tolist() == expected


@pytest.mark.parametrize(
    ("wanted", "pass_"),
    [
        (Within("acquired", "1907", "1907"), [True, True, False, False]),
        (Within("acquired", "1907-11", None), [True, False, True, False]),
        (Within("acquired", None, "1907-03-01"), [False, True, False, False]),
        (Within("acquired", "soon", None), [False, False, False, False]),
    ],
)
def test_dates_are_filtered_by_year_month_and_day(wanted: Filter, pass_: list[bool]):
    column = column_of(["1907-11-06", "1907-03-01", "1908-01-01", None])
    assert column.dates
    assert passing_records(wanted, column).tolist() == pass_


def test_texts_are_filtered_in_their_order_and_no_number_is_within_words():
    assert passing_records(Within("name", "b", "c"), column_of(["a", "bell", "c", "d"])).tolist() == [
        False,
        True,
        True,
        False,
    ]
    assert passing_records(Within("year", "many", None), column_of([1846])).tolist() == [False]


@given(values=values, data=st.data())
def test_a_facet_counts_each_record_once_for_each_of_its_values(values: list[Any], data: st.DataObject):
    chosen = data.draw(st.lists(st.sampled_from(range(len(values))), unique=True)) if values else []
    half = len(values) // 2
    # However the records are spread over slabs.
    parts = [(column_of(values[:half]), [i for i in chosen if i < half])]
    parts.append((column_of(values[half:]), [i - half for i in chosen if i >= half]))
    found = facet([(column, np.array(ids, np.int32)) for column, ids in parts])
    expected = Counter(text for i in chosen for text in listed(values[i]))
    assert dict(found) == expected
    assert found == sorted(found, key=lambda item: (-item[1], item[0]))


def test_numbers_are_counted_in_stretches_of_a_width():
    column = column_of([1846, 1849, 1850, None, 1899])
    everything = np.arange(5, dtype=np.int32)
    assert facet([(column, everything)], step=10) == [("1840", 2), ("1850", 1), ("1890", 1)]


def test_days_are_counted_from_1970():
    assert day_of("1970-01-01", last=False) == 0
    assert day_of("1970-02-01", last=False) == 31
    assert day_of("1971", last=True) == 729
    assert day_of("1972-02", last=True) - day_of("1972-02", last=False) == 28
    assert day_of("1972-02-29T10:00:00", last=True) == day_of("1972-02-29", last=False)
    for text in ("", "soon", "1972-13", "1972-02-30", "now", "NaT", "72-01-01"):
        assert isnan(day_of(text, last=False))


def test_the_first_of_several_values_stands_for_a_record():
    column = column_of([[1900, 1846], None, 1846, "old"])
    first = column.first_numbers()
    assert first[[0, 2]].tolist() == [1900.0, 1846.0]
    assert np.isnan(first[[1, 3]]).all()
    assert [None if code < 0 else column.texts[code] for code in column.first_codes()] == ["1900", None, "1846", "old"]
