"""Words of a list's first records that find more, and spaces that read misspelled words as slack mended them."""

from collections.abc import Callable, Generator
from dataclasses import replace
from typing import Any

import pytest

from pale_harbor.core.fields import OneOf
from pale_harbor.core.ranking import Ranker, Reading
from pale_harbor.core.ranking.feedback import Feedback
from pale_harbor.core.sheets.weighing import sheet_name
from pale_harbor.core.text import chain_of
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import open_pool
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import Found, WhyRecord, find, why_record
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows
from tests.spaces import COLLECTION, filled

ROWS: list[dict[str, Any]] = [
    {"id": "a1", "title": "Lamp with a glass chimney", "kind": "lamp"},
    {"id": "a2", "title": "Lamp and chimney of brass", "kind": "brass"},
    {"id": "a3", "title": "Chimney from Ternholm", "kind": "lamp"},
    {"id": "a4", "title": "Chimney for a stove, forbidden", "kind": "stove"},
    {"id": "b1", "title": "Bell of the pilot cutter", "kind": "bell"},
    {"id": "b2", "title": "Bell rope", "kind": "bell"},
    {"id": "b3", "title": "Ball of twine", "kind": "twine"},
    *({"id": f"z{i}", "title": f"Chart number {i}", "kind": "chart"} for i in range(20)),
]
READINGS = [{"field": "title", "chain": "words > lower > stopwords(en)"}]
FED = {"records": 2, "terms": 5, "common": 0.5}


@pytest.fixture(scope="module", params=[1, 3], ids=["one slab", "three slabs"])
def coast(
    cluster: Cluster,
    empty_database: Callable[[], str],
    tmp_path_factory: pytest.TempPathFactory,
    request: pytest.FixtureRequest,
) -> Generator[Workbench]:
    folder, parts = tmp_path_factory.mktemp("fed"), request.param
    with pytest.MonkeyPatch.context() as patch, open_pool(cluster.address(empty_database())) as pool:
        patch.setattr("pale_harbor.work.collections.opened.JOINED_AT_ONCE", 0)
        patch.setattr("pale_harbor.work.workbench.wants_joining", never)
        bench = Workbench(pool, folder / "indexes")
        for part in range(parts):
            load_rows(pool, folder, ROWS[part::parts])
            bench.with_collection(COLLECTION, lambda opened: opened.indexes("title", _chain(bench, opened)))
        filled(bench, "meaning", {"kind": "packaged"}, fields=["title"])
        yield bench


def never(_: OpenCollection) -> bool:
    return False


def _chain(bench: Workbench, opened: OpenCollection) -> Any:
    return bench.choose(opened.collection, _choice({})).ranker.readings[0].chain


def _choice(more: dict[str, Any]) -> RankerChoice:
    return RankerChoice(document=ranker_document({"readings": READINGS, **more}))


def asked(bench: Workbench, query: str, more: dict[str, Any], **question: Any) -> Found:
    def work(opened: OpenCollection) -> Found:
        return find(opened, bench.choose(opened.collection, _choice(more)).ranker, Question(query, **question), 100)

    return bench.with_collection(COLLECTION, work)


def why(bench: Workbench, query: str, more: dict[str, Any], key: str) -> WhyRecord:
    def work(opened: OpenCollection) -> WhyRecord:
        return why_record(opened, bench.choose(opened.collection, _choice(more)).ranker, Question(query), key)

    return bench.with_collection(COLLECTION, work)


def keys(found: Found) -> list[str]:
    return [result.key for result in found.results]


def test_words_of_the_first_records_find_records_that_hold_none_of_the_querys(coast: Workbench):
    assert keys(asked(coast, "lamp", {})) == ["a1", "a2"]
    found = asked(coast, "lamp", {"feedback": FED})
    assert keys(found) == ["a1", "a2", "a3", "a4"]
    assert found.fed_back is not None
    assert found.fed_back.records == ("a1", "a2")
    # "glass" and "brass" stand in one record alone.
    assert {one.term for one in found.fed_back.terms} == {"lamp", "chimney"}


def test_where_it_may_not_find_by_itself_it_only_orders(coast: Workbench):
    found = asked(coast, "lamp", {"feedback": {**FED, "finds": False}})
    assert keys(found) == ["a1", "a2"]
    assert found.results[0].score > asked(coast, "lamp", {}).results[0].score


@pytest.mark.parametrize(
    ("query", "listed"),
    [("lamp -forbidden", ["a1", "a2", "a3"]), ('lamp "with a glass"', ["a1"])],
)
def test_what_signs_demand_has_to_be_met_all_the_same(coast: Workbench, query: str, listed: list[str]):
    assert sorted(keys(asked(coast, query, {"feedback": FED}))) == listed


def test_what_a_visitor_narrows_the_list_to_changes_no_word(coast: Workbench):
    whole = asked(coast, "lamp", {"feedback": FED})
    narrowed = asked(coast, "lamp", {"feedback": FED}, filters=(OneOf("kind", ("lamp",)),))
    assert narrowed.fed_back == whole.fed_back
    assert keys(narrowed) == ["a1", "a3"]
    assert [row.score for row in narrowed.results] == [row.score for row in whole.results if row.key in ("a1", "a3")]


def test_the_rankers_own_filters_say_which_records_are_the_first(coast: Workbench):
    more = {"feedback": FED, "filters": [{"field": "kind", "one_of": ["lamp"]}]}
    found = asked(coast, "lamp", more)
    assert found.fed_back is not None
    assert found.fed_back.records == ("a1",)


@pytest.mark.parametrize("how", ["sum", "strongest", "pooled"])
def test_why_comes_to_the_score_and_names_what_was_fed_back(coast: Workbench, how: str):
    more = {"feedback": FED, "combine": {"how": how}}
    found = asked(coast, "lamp", more)
    for row in found.results:
        told = why(coast, "lamp", more, row.key)
        assert told.why.score == row.score
        assert told.rank == row.rank
    parts = why(coast, "lamp", more, "a3").why
    terms = parts.readings[0].terms if parts.pool is None else parts.pool
    assert [(term.kind.value, term.term) for term in terms] == [("feedback", "chimney")]


def test_only_the_words_of_one_field_are_fed_back_where_one_is_named(coast: Workbench):
    more = {"readings": [*READINGS, {"field": "kind", "chain": "words > lower"}]}
    both = asked(coast, "lamp", {**more, "feedback": FED}).fed_back
    one = asked(coast, "lamp", {**more, "feedback": {**FED, "field": "kind"}}).fed_back
    assert both is not None
    assert one is not None
    assert {term.field for term in both.terms} == {"title", "kind"}
    assert {term.field for term in one.terms} == {"kind"}


def test_a_query_that_finds_nothing_is_fed_nothing(coast: Workbench):
    found = asked(coast, "mizzen", {"feedback": FED})
    assert found.fed_back is not None
    assert (found.fed_back.records, found.fed_back.terms, found.results) == ((), (), [])


def test_a_ranker_with_feedback_is_searched_for_and_not_weighed_from_sheets():
    ranker = Ranker(readings=(Reading(field="title", chain=chain_of("words"), query_chain=chain_of("words")),))
    assert sheet_name(ranker) is not None
    assert sheet_name(replace(ranker, feedback=Feedback())) is None


MEANING = {"spaces": [{"space": "meaning"}], "blend": {"meaning": 1}, "spelling": {}}
MENDING = {**MEANING, "spaces": [{"space": "meaning", "mended": True}]}


def test_a_space_reads_a_misspelled_word_as_slack_mended_it(coast: Workbench):
    mended = asked(coast, "pilott bell", MENDING)
    assert mended.mended == "pilot bell"
    assert keys(mended) == keys(asked(coast, "pilot bell", MEANING))
    assert asked(coast, "pilott bell", MEANING).mended is None


def test_words_that_some_record_holds_are_left_as_they_are(coast: Workbench):
    assert asked(coast, "pilot bell", MENDING).mended is None
    # "rope" is there; slack that is given always finds others near it, and mends nothing.
    always = {**MENDING, "spelling": {"when": "always", "edits": 2, "fixed_start": 0}}
    assert asked(coast, "rope", always).mended is None


def test_nothing_is_mended_without_slack_or_where_nothing_is_near(coast: Workbench):
    assert asked(coast, "pilott", {**MENDING, "spelling": None}).mended is None
    assert asked(coast, "qqqqq", MENDING).mended is None


def test_of_words_as_near_the_most_frequent_mends(coast: Workbench):
    # Both are one edit away: two records have a bell, one a ball. One each have glass and brass.
    free = {**MENDING, "spelling": {"fixed_start": 0, "edits": 2}}
    assert asked(coast, "bxll", free).mended == "Bell"
    assert asked(coast, "blass", free).mended == "brass"
