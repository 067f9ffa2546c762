"""Suggestions of a collection: where they come from, and that none leads to nothing."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.typing.recipe import BeginsAt
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.ranking import completing
from pale_harbor.work.ranking.completing import Completed, completions_for, suggestions_told
from pale_harbor.work.ranking.completion_costs import begins_costs
from pale_harbor.work.ranking.past_queries import forget_past_queries, load_past_queries, past_queries_told
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

ROWS: list[dict[str, Any]] = [
    {"id": "a", "title": "Fog bell", "visits": 5, "notes": "the old fog bell of the pier", "speaks": "en"},
    {"id": "b", "title": "Fog bells", "visits": 40, "notes": "an old fog bell", "speaks": "en"},
    {"id": "c", "title": "Lamp", "visits": None, "notes": "old fog bell", "speaks": "en"},
    {"id": "d", "title": ["Lamp", "Leuchte"], "visits": 7, "notes": "die Lampe des Turms", "speaks": "de"},
    {"id": "e", "title": "x" * 121, "visits": -2, "notes": None, "speaks": None},
]
READING = {"field": "title", "chain": "words > lower > stem(en)"}
Complete = Callable[..., Completed]


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    return bench


@pytest.fixture
def complete(coast: Workbench) -> Complete:
    def asked(typed: str, *sources: dict[str, Any], language_asked: str | None = None, **recipe: Any) -> Completed:
        document = ranker_document(
            {"readings": [READING], "completions": {"sources": list(sources), "popular": 1.0} | recipe}
        )

        def work(opened: Any) -> Completed:
            chosen = coast.choose(opened.collection, RankerChoice(document=document))
            return completions_for(opened, chosen.ranker, typed, 10, language_asked)

        return coast.with_collection("coast", work)

    return asked


def texts(done: Completed) -> list[str]:
    return [one.text for one in done.completions]


def test_values_of_a_field_are_weighed_by_records_or_by_a_number(complete: Complete):
    by_records = complete("l", {"values": "title"}, fold=False)
    assert [(one.text, one.weight) for one in by_records.completions] == [("Lamp", 2.0), ("Leuchte", 1.0)]
    by_visits = complete("l", {"values": "title", "by": "visits"}, fold=False)
    # Both lamps count, the one without a number for nothing.
    assert [(one.text, one.weight) for one in by_visits.completions] == [("Lamp", 7.0), ("Leuchte", 7.0)]
    folded = complete("f", {"values": "title", "by": "visits"})
    assert [(one.text, one.weight) for one in folded.completions] == [("Fog bells", 45.0)]
    assert texts(complete("f", {"values": "title", "by": "visits"}, fold=False)) == ["Fog bells", "Fog bell"]


def test_phrases_of_a_field_leave_small_words_out_at_their_ends(complete: Complete):
    assert texts(complete("old", {"phrases": "notes", "records": 3}, fold=False)) == ["old fog bell"]
    assert texts(complete("old", {"phrases": "notes", "records": 4}, fold=False)) == []


def test_past_queries_that_lead_to_nothing_are_never_shown(complete: Complete, coast: Workbench):
    load_past_queries(coast, "coast", "fog bell\t3\nfog of war\t2\nfogou\t90\nfoghorn\t1", "asked")
    assert texts(complete("fog", {"asked": 1})) == ["fog bell", "fog of war"]
    assert texts(complete("fog", {"asked": 3})) == ["fog bell"]
    # The ranker that is asked decides: with all words needed the other one finds nothing either.
    everything = ranker_document({"readings": [READING], "need": "all", "completions": {"sources": [{"asked": 1}]}})
    ranker = coast.with_collection(
        "coast", lambda opened: coast.choose(opened.collection, RankerChoice(document=everything)).ranker
    )
    told = coast.with_collection("coast", lambda opened: completions_for(opened, ranker, "fog", 10))
    assert texts(told) == ["fog bell"]


def test_a_list_that_is_loaded_anew_is_suggested_at_once(complete: Complete, coast: Workbench):
    load_past_queries(coast, "coast", "lamp oil\t3", "asked")
    assert texts(complete("l", {"asked": 1})) == ["lamp oil"]
    load_past_queries(coast, "coast", "lamp glass\t3", "asked")
    assert texts(complete("l", {"asked": 1})) == ["lamp glass"]
    forget_past_queries(coast, "coast")
    assert texts(complete("l", {"asked": 1})) == []
    assert past_queries_told(coast, "coast").kept is None
    with pytest.raises(NotFound, match="no past queries"):
        forget_past_queries(coast, "coast")


def test_records_that_change_change_what_is_suggested(complete: Complete, coast: Workbench, tmp_path: Path):
    assert texts(complete("le", {"values": "title"})) == ["Leuchte"]
    load_rows(coast.pool, tmp_path, [{**ROWS[3], "title": "Lens"}])
    assert texts(complete("le", {"values": "title"})) == ["Lens"]
    assert [one.weight for one in complete("lamp", {"values": "title"}).completions] == [1.0]


def test_suggestions_are_of_the_language_of_their_records(complete: Complete):
    values = {"values": "title"}
    assert texts(complete("l", values, language="speaks", language_asked="de")) == ["Lamp", "Leuchte"]
    assert texts(complete("l", values, language="speaks", language_asked="en")) == ["Lamp"]
    assert texts(complete("l", values, language="speaks")) == ["Lamp", "Leuchte"]
    phrases = {"phrases": "notes", "records": 2}
    assert texts(complete("old", phrases, language="speaks", language_asked="de")) == []
    assert texts(complete("old", phrases, language="speaks", language_asked="en")) == ["old fog bell"]


def test_withheld_words_are_never_shown(complete: Complete, coast: Workbench):
    put_list(coast, "coast", "hushed", "word\nbell\n", None)
    assert texts(complete("f", {"values": "title"}, withhold="@hushed", fold=False)) == ["Fog bells"]
    with pytest.raises(BadInput, match='no list of words "@none"'):
        complete("f", {"values": "title"}, withhold="@none")


def test_a_ranker_that_says_nothing_suggests_the_usual(coast: Workbench):
    document = ranker_document({"readings": [READING, {**READING, "field": "notes"}]})
    load_past_queries(coast, "coast", "lamp oil\t3", "asked")

    def work(opened: Any):
        ranker = coast.choose(opened.collection, RankerChoice(document=document)).ranker
        return suggestions_told(opened, ranker), completions_for(opened, ranker, "l", 10), begins_costs(opened, ranker)

    told, done, costs = coast.with_collection("coast", work)
    assert (told.own, told.too_long, told.read, told.records) == (False, 1, 5, 5)
    assert told.past is not None
    assert told.past.queries == 1
    assert told.usual == [{"asked": 1}, {"values": "title"}, {"phrases": "title"}, {"phrases": "notes"}]
    assert set(texts(done)) == {"lamp oil", "Lamp", "Leuchte"}
    # What it says is a recipe that a ranker may have.
    ranker_document({"readings": [READING], "completions": {"sources": told.usual}})
    assert [one.begins for one in costs] == [BeginsAt.SUGGESTION, BeginsAt.WORD]
    assert costs[0].entries == told.suggestions < costs[1].entries == told.entries
    assert costs[0].bytes < costs[1].bytes
    assert costs[0].typed == told.suggestions


def test_only_so_many_are_tried_at_a_key_press_and_the_rest_at_the_next(
    complete: Complete, coast: Workbench, monkeypatch: pytest.MonkeyPatch
):
    monkeypatch.setattr(completing, "MOST_TRIED", 3)
    load_past_queries(coast, "coast", "foga\t9\nfogb\t8\nfogc\t7\nfogd\t6\nfog bell\t5", "asked")
    first = complete("fog", {"asked": 1})
    assert (texts(first), first.tried_all) == ([], False)
    second = complete("fog", {"asked": 1})
    assert (texts(second), second.tried_all) == (["fog bell"], True)


def test_trying_leaves_nothing_remembered_of_what_nobody_asked(complete: Complete, coast: Workbench):
    complete("l", {"values": "title"})
    assert coast.memory.looked_up.held_keys() == []
