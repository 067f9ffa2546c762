"""An index of many times the records: made up exactly, told closely."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.growing import bytes_at, grown_index, growth_of, heaps_law, reading_growth, trend_of
from pale_harbor.core.index import build_index, merged_index
from pale_harbor.core.text import chain_of

CHAIN = chain_of("words > lower")
TEXTS = st.lists(st.text(alphabet="abc ", max_size=12), min_size=1, max_size=8)


def index_of(texts: list[str]):
    return build_index([[text] for text in texts], CHAIN)


@given(texts=TEXTS, times=st.integers(1, 4))
def test_a_grown_index_is_the_one_that_copies_give(texts: list[str], times: int):
    index = index_of(texts)
    count = len(texts)
    copies = [(index, np.arange(count, dtype=np.int32) + copy * count) for copy in range(times)]
    wanted, grown = merged_index(copies, times * count), grown_index(index, times)
    assert list(grown.vocabulary) == list(wanted.vocabulary)
    for name in (
        "posting_firsts record_ids frequencies posting_lengths occurrence_firsts positions starts ends spans lengths"
    ).split():
        np.testing.assert_array_equal(getattr(grown, name), getattr(wanted, name), err_msg=name)


def test_heaps_law_is_found_in_what_follows_it():
    tokens = np.geomspace(100, 10_000, 20)
    law = heaps_law(tokens, 7 * tokens**0.5)
    assert law.beta == pytest.approx(0.5)
    assert law.at(1_000_000) == pytest.approx(7_000)


def test_heaps_law_gives_what_is_there_now():
    tokens = np.array([100.0, 200.0, 400.0, 800.0])
    assert heaps_law(tokens, np.array([50.0, 90.0, 120.0, 200.0])).at(800) == pytest.approx(200)


@pytest.mark.parametrize(
    ("found", "beta"),
    [([10.0, 10.0, 10.0], 0.0), ([10.0, 9.0, 8.0], 0.0), ([10.0, 40.0, 160.0], 1.0)],
)
def test_a_vocabulary_neither_shrinks_nor_outgrows_its_text(found: list[float], beta: float):
    assert heaps_law(np.array([100.0, 200.0, 400.0]), np.array(found)).beta == pytest.approx(beta)


def test_of_two_points_nothing_is_told_but_the_most():
    law = heaps_law(np.array([100.0, 200.0]), np.array([50.0, 80.0]))
    assert (law.beta, law.at(400)) == (1.0, pytest.approx(160))


def test_what_nobody_says_does_not_grow():
    assert heaps_law(np.zeros(0), np.zeros(0)).at(1_000) == 0.0


def test_growth_counts_terms_as_records_bring_them():
    growth = growth_of(index_of(["a b", "a c", "d", "e f g"]))
    assert growth.tokens[-1] == 8
    assert growth.terms[-1] == 7
    assert growth.letters[-1] == 7
    assert (np.diff(growth.terms) >= 0).all()


def test_growth_counts_living_records_alone():
    growth = growth_of(index_of(["a b", "a c", "d", "e f g"]), np.array([True, True, False, False]))
    assert (growth.tokens[-1], growth.terms[-1]) == (4, 3)


@given(texts=TEXTS)
def test_bytes_of_now_are_those_of_now(texts: list[str]):
    index = index_of(texts)
    told = bytes_at(reading_growth([(index, None)]), 1)
    # The places at the end of two arrays are no term's.
    assert told == pytest.approx(index.index_bytes, abs=32)


def test_bytes_of_ten_times_the_records_are_told_within_a_quarter():
    rng = np.random.default_rng(3)
    # Of words without end, as people say ever new ones.
    drawn = [" ".join(f"w{word}" for word in rng.zipf(1.4, 20)) for _ in range(3_000)]
    small, large = index_of(drawn[:300]), index_of(drawn)
    growth = reading_growth([(small, None)])
    assert bytes_at(growth, 10) == pytest.approx(large.index_bytes, rel=0.25)
    assert growth.terms_at(10) == pytest.approx(len(large.vocabulary), rel=0.25)


def test_a_trend_goes_on_by_doublings():
    trend = trend_of([100, 200, 400, 800], [0.8, 0.7, 0.6, 0.5])
    assert trend.by_doubling == pytest.approx(-0.1)
    value, low, high = trend.at(1_600)
    assert (value, low, high) == (pytest.approx(0.4), pytest.approx(0.4), pytest.approx(0.4))


def test_a_trend_says_how_sure_it_is():
    trend = trend_of([100, 100, 200, 200], [0.4, 0.6, 0.4, 0.6])
    value, low, high = trend.at(400)
    assert value == pytest.approx(0.5)
    # By hand: residual s = sqrt(0.04 / 2); of x two above the mean by 1.5, with a spread of 1: s * sqrt(1 + 1/4 + 9/4).
    reach = 4.302652729911275 * np.sqrt(0.02) * np.sqrt(1 + 1 / 4 + 1.5**2 / 1)
    assert (low, high) == (pytest.approx(max(0.0, 0.5 - reach)), pytest.approx(min(1.0, 0.5 + reach)))


def test_two_points_make_a_line_and_no_certainty():
    assert trend_of([100, 200], [0.5, 0.6]).at(400)[1:] == (0.0, 1.0)


def test_a_measure_stays_between_nothing_and_all():
    assert trend_of([100, 200, 400], [0.5, 0.7, 0.9]).at(100_000)[0] == 1.0
    assert trend_of([100, 200, 400], [0.5, 0.3, 0.1]).at(100_000)[0] == 0.0
