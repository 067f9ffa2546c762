"""Known-item queries made up from records: what is drawn, each decision by hand."""

from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index.near_terms import edit_distance
from pale_harbor.core.simulating.known_items import (
    MOST_WORDS,
    Drawing,
    Typed,
    cut_short,
    known_item_queries,
    slipped,
)

PLAIN = Drawing(noise=0, slips=0, short=0)
ONE_WORD = Drawing(more_words=0, noise=0, slips=0, short=0)
SHIPS = ["petrel", "tern", "gannet", "plover", "dunlin", "curlew", "avocet", "knot"]
RECORDS = [{"name": [f"{ship} of Saltmere"], "text": [f"a sloop called {ship}, rigged {ship}"]} for ship in SHIPS]


def test_every_word_of_a_plain_query_is_of_its_record():
    for one in known_item_queries(RECORDS, 40, PLAIN):
        words = " ".join(text for texts in RECORDS[one.record].values() for text in texts).casefold()
        assert all(word in words for word in one.text.split())
        assert one.typed is Typed.WELL


def test_words_that_every_record_holds_are_never_drawn():
    # "of", "saltmere", "a", "sloop", "called" and "rigged" tell no ship from another.
    assert {one.text for one in known_item_queries(RECORDS, 40, ONE_WORD)} == set(SHIPS)


def test_frequent_words_of_a_record_and_rare_ones_of_all_are_drawn_more_often():
    # Of the second record's text: "sail" twice and in one record, "mast" once and in one, "deck" once and in two.
    records = [{"text": ["deck of oak"]}, {"text": ["sail sail mast deck"]}, {"text": ["oak"]}, {"text": ["oak"]}]
    drawn = Counter[str]()
    for seed in range(400):
        drawn.update(one.text for one in known_item_queries(records, 1, ONE_WORD, seed) if one.record == 1)
    assert drawn["sail"] > 1.5 * drawn["mast"] > 1.5 * drawn["deck"] > 0


def test_fields_are_drawn_alike_however_long_they_are():
    records = [
        {"name": [f"name{i}"], "text": [" ".join(f"word{i}x{k}" for k in range(50))], "empty": [""]} for i in range(4)
    ]
    found = [known_item_queries(records, 1, ONE_WORD, seed)[0].text for seed in range(200)]
    assert 70 < sum(text.startswith("name") for text in found) < 130


def test_queries_are_as_many_as_asked_for_and_none_is_there_twice():
    records = [{"name": [f"{ship} {place}"]} for ship in SHIPS for place in ("quay", "reef", "sound", "light", "bank")]
    found = known_item_queries(records, 30, PLAIN)
    assert len(found) == len({one.text for one in found}) == 30
    assert all(1 <= len(one.text.split()) <= MOST_WORDS for one in found)
    assert found == known_item_queries(records, 30, PLAIN)
    assert found != known_item_queries(records, 30, PLAIN, seed=1)


@pytest.mark.parametrize("records", [[], [{}], [{"name": [""]}], [{"name": ["lamp"]}], [{"name": ["lamp"]}] * 3])
def test_where_nothing_tells_records_apart_nothing_is_made_up(records: list[dict[str, list[str]]]):
    assert known_item_queries(records, 5) == []


def test_slips_and_short_ones_come_at_about_their_shares_and_say_so():
    found = known_item_queries(
        [{"name": [f"lighthouse{chr(97 + i % 26)} vessel{chr(97 + i // 26)}"]} for i in range(400)], 300
    )
    typed = Counter(one.typed for one in found)
    assert 20 < typed[Typed.SLIP] < 75
    assert 20 < typed[Typed.SHORT] < 75
    for one in found:
        if one.typed is Typed.SHORT:
            assert len(one.text.split()[-1]) < 10


@pytest.mark.parametrize(
    ("word", "short"), [("bell", "bel"), ("lamps", "lam"), ("lighthouse", "lighth"), ("oars", "oar")]
)
def test_a_word_is_cut_to_six_tenths_but_three_letters_stay(word: str, short: str):
    assert cut_short(word) == short


@given(st.text("abcde", min_size=5, max_size=12).filter(lambda word: len(set(word)) > 1), st.integers(0, 10_000))
def test_a_slip_is_one_edit_away_and_leaves_the_first_letter(word: str, seed: int):
    other = slipped(word, np.random.default_rng(seed))
    assert other != word
    assert other[0] == word[0]
    assert edit_distance(word, other) == 1
