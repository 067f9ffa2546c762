"""Small parts of the work: what values are to a reading, to an order, to a folder of settings."""

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import VALUE_GAP, build_index
from pale_harbor.core.ranking import FieldValue, ReadingStatistics, order_of_equals, statistics_of
from pale_harbor.core.text import chain_of
from pale_harbor.settings import ROOT, Settings, settings
from pale_harbor.work.ranking.searching import PLAINLY, Telling, _told_of  # pyright: ignore[reportPrivateUsage]
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.warm_up import compile_kernels


@pytest.mark.parametrize(
    ("value", "texts"),
    [
        (None, []),
        ("", [""]),
        ("fog", ["fog"]),
        (1690, ["1690"]),
        (0.5, ["0.5"]),
        (True, ["true"]),
        (False, ["false"]),
        ([], []),
        (["fog", None, 3, True], ["fog", "3", "true"]),
    ],
)
def test_a_reading_sees_any_value_as_texts(value: Any, texts: list[str]):
    assert texts_of(value) == texts


_values = st.one_of(st.none(), st.sampled_from([1.0, 2.0, -3.5, 1e9]), st.sampled_from(["a", "b", "é"]))


@given(columns=st.lists(st.tuples(st.lists(_values, min_size=6, max_size=6), st.booleans()), max_size=3))
def test_the_order_of_equals_is_that_of_comparing_field_by_field(columns: list[tuple[list[FieldValue], bool]]):
    places = order_of_equals(columns, 6)

    def comes_first(one: int, other: int) -> bool:
        """Numbers before texts before nothing; then by value; then by the next field; then by key."""
        for values, descending in columns:
            a, b = values[one], values[other]
            ranks = [0 if isinstance(v, float) else 1 if isinstance(v, str) else 2 for v in (a, b)]
            if ranks[0] != ranks[1]:
                return ranks[0] < ranks[1]
            if a != b:
                return bool((a > b) if descending else (a < b))  # pyright: ignore[reportOperatorIssue, reportOptionalOperand]
        return one < other

    assert sorted(places.tolist()) == list(range(6))
    for one in range(6):
        for other in range(6):
            if one != other:
                assert (places[one] < places[other]) == comes_first(one, other)


@given(values=st.lists(st.sampled_from(["fog bell", "lamp", "", "fog"]), min_size=1, max_size=6))
def test_values_of_a_field_keep_their_distance(values: list[str]):
    index = build_index([values], chain_of("words"))
    positions = sorted(index.positions.tolist())
    words = [len(value.split()) for value in values]
    gaps = sum(after - before > 1 for before, after in itertools.pairwise(positions))
    assert gaps == max(0, sum(count > 0 for count in words) - 1)
    assert all(
        after - before in (1, *range(VALUE_GAP, 10 * VALUE_GAP)) for before, after in itertools.pairwise(positions)
    )


def test_the_data_folder_is_the_projects_own_unless_another_is_named(monkeypatch: pytest.MonkeyPatch, tmp_path: Path):
    monkeypatch.delenv("PALEHARBOR_DATA", raising=False)
    assert settings() == Settings(ROOT / "data")
    monkeypatch.setenv("PALEHARBOR_DATA", str(tmp_path / "elsewhere"))
    here = settings()
    assert here.data == tmp_path / "elsewhere"
    assert {here.cluster.parent, here.indexes.parent, here.logs.parent, here.server.parent} == {here.data}


def test_arrays_of_an_index_cannot_be_written_to():
    index = build_index([["fog bell"], ["bell"]], chain_of("words"))
    for name in ("record_ids", "frequencies", "posting_lengths", "positions", "starts", "ends", "lengths"):
        with pytest.raises(ValueError, match="read-only"):
            getattr(index, name)[0] = 7


def test_the_size_of_an_index_is_that_of_its_arrays():
    small = build_index([["fog"]], chain_of("words"))
    large = build_index([["fog " * 50]] * 20, chain_of("words"))
    assert 0 < small.index_bytes < large.index_bytes
    assert large.occurrence_count == 1_000
    assert statistics_of([(large, None)]).average_length == 50


def test_kernels_compile_without_a_collection():
    compile_kernels()


def test_an_index_of_a_field_nobody_fills_has_a_mean_length_that_is_never_used():
    index = build_index([[], []], chain_of("words"))
    assert statistics_of([(index, None)]) == ReadingStatistics(2, 1.0)
    assert np.array_equal(index.lengths, [0, 0])


def test_of_a_field_its_first_five_thousand_marks_are_told():
    many = [(4 * number, 4 * number + 3) for number in range(5_001)]
    told = _told_of({"text": many, "title": many[:5_000]}, PLAINLY)
    assert (told["text"], told["title"]) == (many[:5_000], many[:5_000])
    # Of fields that may not be seen none are.
    assert list(_told_of({"text": many, "title": many}, Telling(fields=frozenset({"title"})))) == ["title"]
