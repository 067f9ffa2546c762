"""Phrases that a field says again and again, with the values of their formula."""

from math import log2

import pytest

from pale_harbor.core.typing.phrases import phrases_of


def said(
    values: list[list[str]], fewest: int = 1, most: int = 3, records: int = 2, small: frozenset[str] = frozenset()
) -> dict[str, float]:
    return {one.text: one.weight for one in phrases_of(values, fewest, most, records, small)}


def test_a_phrase_is_worth_its_records_less_those_of_longer_ones():
    values = [["old fog bell"], ["old fog bell"], ["fog bell"], ["fog bell"], ["fog"]]
    found = said(values)
    assert found["old fog bell"] == pytest.approx(log2(4) * 2)
    assert found["fog bell"] == pytest.approx(log2(3) * (4 - 2))
    # It stands in three longer phrases: one of four records, two of two.
    assert found["fog"] == pytest.approx(log2(2) * (5 - 8 / 3))
    # "old fog" and "old" say nothing of their own; "bell" stands alone in none, but in two phrases of 3 on average.
    assert "old fog" not in found
    assert found["bell"] == pytest.approx(4 - 3)


def test_a_record_that_says_it_twice_holds_it_once():
    assert said([["fog bell, fog bell"], ["fog bell"]])["fog bell"] == pytest.approx(log2(3) * 2)
    assert said([["fog bell", "fog bell"]]) == {}


@pytest.mark.parametrize(("records", "found"), [(2, True), (3, True), (4, False)])
def test_enough_records_hold_it(records: int, found: bool):
    assert ("fog bell" in said([["fog bell"]] * 3, records=records)) is found


def test_so_many_words_at_least_and_at_most():
    values = [["old fog bell rope"]] * 2
    assert set(said(values, fewest=3, most=3)) == {"old fog bell", "fog bell rope"}
    assert set(said(values, fewest=4, most=5)) == {"old fog bell rope"}
    assert said(values, fewest=3, most=2) == {}


@pytest.mark.parametrize("between", [", ", ". ", "\n", " / ", "  "])
def test_no_phrase_reaches_over_a_sign(between: str):
    assert "fog bell" not in said([[f"fog{between}bell"]] * 2)


@pytest.mark.parametrize("between", [" ", "-", "\u00a0"])
def test_a_blank_or_a_hyphen_joins(between: str):
    assert f"fog{between}bell" in said([[f"fog{between}bell"]] * 2)


def test_small_words_stand_inside_only():
    found = said([["the ship in the bottle"]] * 2, most=5, small=frozenset({"the", "in"}))
    assert set(found) == {"ship in the bottle"}


def test_numbers_alone_are_no_phrase():
    assert set(said([["1904 12"], ["1904 12"], ["bell 1904"], ["bell 1904"]])) == {"bell 1904"}


def test_it_is_written_as_it_is_most_often():
    assert set(said([["Fog bell"], ["fog bell"], ["Fog bell"]], fewest=2)) == {"Fog bell"}
    # Equals: the first in the order of letters.
    assert set(said([["fog bell"], ["Fog bell"]], fewest=2)) == {"Fog bell"}


def test_many_records_are_read_in_turn():
    values = [["fog bell"] if i % 4000 == 0 else ["rope"] for i in range(12_001)]
    assert said(values, fewest=2, records=4)["fog bell"] == pytest.approx(log2(3) * 4)
    assert said([], fewest=1) == {}
    assert said([[], [""]], fewest=1) == {}
