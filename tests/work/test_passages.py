"""Passages of a list: row by row, and of all records together for a program that goes on with them."""

from pathlib import Path
from typing import Any

import pytest

from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.passages import ListPassages, PassagesWanted, list_passages
from pale_harbor.work.ranking.searching import Found, Telling, find
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

LONG = "Nothing is said here. " * 20
ROWS = [
    {"id": "a", "title": "Fog bell", "notes": f"{LONG}The 🐋 bell rang in the fog. {LONG}The fog went."},
    {"id": "b", "title": "A horn", "notes": ["A horn for fog.", "It is a loud one."]},
    {"id": "c", "title": "A horn again", "notes": "A horn for fog! "},
    {"id": "d", "title": "Lamp", "notes": None},
    {"id": "e", "title": "Rain", "notes": "Rain, rain and fog on the quay, said the old keeper of the lamp."},
]
DOCUMENT = ranker_document(
    {"readings": [{"field": name, "chain": "words > lower", "b": 0} for name in ("title", "notes")]}
)


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    return bench


def search(bench: Workbench, query: str, telling: Telling) -> Found:
    def work(opened: Any) -> Found:
        ranker = bench.choose(opened.collection, RankerChoice(document=DOCUMENT)).ranker
        return find(opened, ranker, Question(query), 10, telling=telling)

    return bench.with_collection("coast", work)


def passages(bench: Workbench, query: str, letters: int = 1_000, **wanted: int) -> ListPassages:
    def work(opened: Any) -> ListPassages:
        ranker = bench.choose(opened.collection, RankerChoice(document=DOCUMENT)).ranker
        own = PassagesWanted(**{"length": 100, "most": 2} | wanted)
        return list_passages(opened, ranker, Question(query), letters, own, 10)

    return bench.with_collection("coast", work)


def test_rows_tell_their_best_passages_where_they_are_asked_for(coast: Workbench):
    assert all(one.passages == [] for one in search(coast, "fog bell", Telling()).results)
    first = search(coast, "fog bell", Telling(PassagesWanted(40, 1))).results[0]
    notes, title = sorted(first.passages, key=lambda one: one.field)
    assert (title.text, title.start, title.end) == ("Fog bell", 0, 8)
    assert notes.text == "The 🐋 bell rang in the fog."
    assert [notes.text[start:end] for start, end in notes.marks] == ["bell", "fog"]
    assert str(ROWS[0]["notes"])[notes.start : notes.end] == notes.text
    assert notes.share == 1


def test_places_count_code_points_or_utf16_units(coast: Workbench):
    plain = search(coast, "went", Telling(PassagesWanted(40, 1))).results[0]
    units = search(coast, "went", Telling(PassagesWanted(40, 1), utf16=True)).results[0]
    # One whale stands before it, which takes two units.
    assert units.passages[0].start == plain.passages[0].start + 1
    assert units.marks["notes"][0][0] == plain.marks["notes"][0][0] + 1
    assert units.passages[0].marks == plain.passages[0].marks


def test_several_values_are_laid_end_to_end(coast: Workbench):
    (row,) = search(coast, "loud", Telling(PassagesWanted(40, 1))).results
    (one,) = row.passages
    assert (one.text, one.start) == ("A horn for fog.\nIt is a loud one.", 0)
    start, end = one.marks[0]
    assert one.text[start:end] == "loud"


def test_a_list_s_best_passages_stand_in_order_without_repeats(coast: Workbench):
    told = passages(coast, "fog horn")
    assert told.passages[0].passage.text.startswith("A horn for fog")
    assert [one.score for one in told.passages] == sorted((one.score for one in told.passages), reverse=True)
    texts = [one.passage.text for one in told.passages]
    assert len(set(texts)) == len(texts)
    assert told.letters == sum(map(len, texts))
    assert told.records == 4
    assert all(one.rank >= 1 and 0 < one.score <= 1 for one in told.passages)


def test_what_says_the_same_is_left_out(coast: Workbench, tmp_path: Path):
    before = passages(coast, "horn fog", length=40)
    load_rows(coast.pool, tmp_path, [{"id": "f", "title": "Horns", "notes": "A HORN, for fog"}])
    after = passages(coast, "horn fog", length=40)
    assert after.repeats == before.repeats + 1
    assert len(after.passages) == len(before.passages)


@pytest.mark.parametrize(
    ("one", "other", "repeats"),
    [("gong one two three", "gong one two three four", 1), ("gong one two", "gong one two three", 0)],
)
def test_four_fifths_of_the_same_words_say_the_same(
    coast: Workbench, tmp_path: Path, one: str, other: str, repeats: int
):
    load_rows(coast.pool, tmp_path, [{"id": "x", "title": one}, {"id": "y", "title": other}])
    assert passages(coast, "gong").repeats == repeats


@pytest.mark.parametrize(("letters", "count"), [(8, 1), (7, 0)])
def test_no_letter_more_than_asked(coast: Workbench, letters: int, count: int):
    told = passages(coast, "bell", letters)
    assert [one.passage.text for one in told.passages] == ["Fog bell"][:count]


def test_a_query_that_finds_nothing_has_none(coast: Workbench):
    for query in ("gone", "", "?"):
        told = passages(coast, query)
        assert (told.passages, told.letters, told.repeats) == ([], 0, 0)
