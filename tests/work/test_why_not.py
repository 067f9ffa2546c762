"""Why a record is missing: the reasons are the true ones, and every suggestion does bring it in."""

from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.fields import OneOf
from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.differences import differences
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import why_record
from pale_harbor.work.ranking.why_not import Suggestion, WhyNot, why_not
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

RECORDS: list[dict[str, Any]] = [
    {
        "id": "a",
        "title": "Toggle harpoon",
        "text": "Thrown by hand from the bow.",
        "maker": "Åsa Coyle",
        "kind": "object",
    },
    {"id": "b", "title": "Fog bell", "text": "Struck in thick weather by keepers.", "maker": "Orde", "kind": "bell"},
    {"id": "c", "title": "Lamp of the light", "text": "Lit at dusk.", "kind": "object"},
]
PLAIN = [{"field": "title", "chain": "words > lower", "weight": 2}]


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, RECORDS)
    return bench


def not_there(bench: Workbench, query: str, key: str, filters: Any = (), **document: Any) -> WhyNot:
    whole = ranker_document({"readings": PLAIN, **document})

    def work(opened: OpenCollection) -> WhyNot:
        choice = RankerChoice(document=whole)
        question = Question(query, filters=filters)
        found = why_not(bench, opened, choice, question, key)
        for one in found.suggestions:
            ranker = bench.choose(opened.collection, RankerChoice(document=one.document)).ranker
            assert why_record(opened, ranker, question, key).rank == one.rank is not None
            assert differences(whole, one.document)
        return found

    return bench.with_collection("coast", work)


def words_of(found: WhyNot) -> list[str]:
    return [one.words for one in found.suggestions]


def test_a_misspelt_word_is_told_with_what_the_record_has(coast: Workbench):
    found = not_there(coast, "harpon", "a")
    assert found.why.rank is None
    assert found.shut_out == ["It holds no word of the query in any reading."]
    (word,) = found.missing
    assert (word.word, word.readings) == ("harpon", {0: ["harpon"]})
    assert (word.near[0].said, word.near[0].edits) == ("harpoon", 1)
    assert words_of(found)[0] == "spelling slack by the length of the word"


def test_the_first_letter_can_be_wrong(coast: Workbench):
    assert "spelling slack of 1 edit, the first letter free" in words_of(not_there(coast, "garpoon", "a"))


def test_another_form_of_a_word_asks_for_a_stemmer(coast: Workbench):
    found = not_there(coast, "harpoons", "a", spelling=None)
    assert found.missing[0].near[0].stem == "en"
    assert "title read with stem(en) at the end of its chain" in words_of(found)


def test_accents_are_folded_where_that_helps(coast: Workbench):
    readings = [{"field": "maker", "chain": "words > lower"}]
    assert "maker read with accents at the end of its chain" in words_of(
        not_there(coast, "asa", "a", readings=readings)
    )


def test_a_field_that_nobody_reads_may_hold_the_word(coast: Workbench):
    assert "a reading of maker" in words_of(not_there(coast, "coyle", "a"))
    switched = [*PLAIN, {"field": "maker", "chain": "words > lower", "weight": 0}]
    assert "maker weight 0 to 1" in words_of(not_there(coast, "coyle", "a", readings=switched))


def test_too_many_words_may_be_needed(coast: Workbench):
    found = not_there(coast, "toggle harpoon gun", "a", need="all")
    assert found.shut_out == ["It holds 2 of 3 words of the query (toggle, harpoon), and that is not enough."]
    assert words_of(found) == ["need at least 2 words of the query", "need any word of the query"]


def test_a_visitors_filter_is_named_and_is_no_knob(coast: Workbench):
    only_bells = not_there(coast, "harpoon", "a", filters=(OneOf("kind", ("bell",)),))
    assert only_bells.shut_out == ["It does not pass the filter: kind is bell."]
    assert only_bells.suggestions == []


def test_a_filter_of_the_ranker_can_be_dropped(coast: Workbench):
    whole = ranker_document({"readings": PLAIN, "filters": [{"field": "kind", "one_of": ["bell"]}]})
    found = asked_with(coast, whole, "harpoon", "a")
    assert found.shut_out == ["It does not pass the filter: kind is bell."]
    assert words_of(found) == ["drop the filter: kind is bell"]


def test_a_rule_that_hides_it_can_be_switched_off(coast: Workbench):
    rule = {"when": {"query": "harpoon"}, "do": {"hide": ["a"]}, "reason": "on loan"}
    whole = ranker_document({"readings": PLAIN, "rules": [rule]})
    found = asked_with(coast, whole, "harpoon", "a")
    assert found.shut_out == ["Rule 1 hides it: on loan"]
    assert words_of(found) == ["switch rule 1 off"]


def test_a_record_that_is_listed_is_told_its_rank(coast: Workbench):
    found = not_there(coast, "fog bell", "b")
    assert (found.why.rank, found.shut_out, found.missing, found.suggestions) == (1, [], [], [])


def test_an_unknown_key_and_an_empty_query_are_answered_in_words(coast: Workbench):
    with pytest.raises(NotFound, match='no record with the key "zz"'):
        not_there(coast, "bell", "zz")
    assert not_there(coast, "  ", "a").shut_out == ["No word of the query is left to look for."]


def asked_with(bench: Workbench, document: RankerDocument, query: str, key: str) -> WhyNot:
    def work(opened: OpenCollection) -> WhyNot:
        return why_not(bench, opened, RankerChoice(document=document), Question(query), key)

    return bench.with_collection("coast", work)


def test_two_edits_are_tried_in_a_short_word_that_looks_like_nothing_there(coast: Workbench):
    found = not_there(coast, "lmap", "c", spelling={"edits": 0})
    assert "spelling slack of 1 edit in every word" in words_of(found)
    # Two of four letters are wrong: no near miss is told, and the knob brings it in all the same.
    far = not_there(coast, "lxmx", "c")
    assert far.missing[0].near == []
    assert words_of(far) == ["spelling slack of 2 edits in every word"]


def test_a_name_that_sounds_alike_asks_for_a_reading_by_sound(coast: Workbench):
    assert "a reading of maker by how its words sound" in words_of(not_there(coast, "koil", "a"))
    assert "a reading of maker by how its words sound" not in words_of(not_there(coast, "lamp", "a"))
    # A slip of a letter or two asks for spelling slack.
    assert "a reading of title by how its words sound" not in words_of(not_there(coast, "harpon", "a"))


@pytest.mark.parametrize("query", ["fogbell", "harbell"])
def test_a_word_written_as_one_is_met_by_its_letters(coast: Workbench, query: str):
    offered = words_of(not_there(coast, query, "b"))
    assert ("a reading of title by letters, for words written apart or as one" in offered) == (query == "fogbell")


def test_how_many_changes_were_tried_is_told_and_nothing_that_was_not_is_offered(
    coast: Workbench, monkeypatch: pytest.MonkeyPatch
):
    nothing = not_there(coast, "sextant", "a")
    assert nothing.suggestions == []
    assert nothing.tried >= 6
    assert len(nothing.synonyms) == 2
    assert nothing.untried == 0
    monkeypatch.setattr("pale_harbor.work.ranking.why_not.MOST_INDEXED", 2)
    large = not_there(coast, "coyle", "a")
    assert "a reading of maker" not in words_of(large)
    assert large.untried >= 1
    monkeypatch.setattr("pale_harbor.work.ranking.why_not.MOST_INDEXED", 3)
    assert not_there(coast, "coyle", "a").untried == 0


def synonyms_offered(bench: Workbench, query: str, key: str, chain: str, *more: dict[str, Any]) -> list[Suggestion]:
    document = ranker_document({"readings": [{"field": "title", "chain": chain, "weight": 2}, *more]})

    def ask(opened: OpenCollection) -> list[Suggestion]:
        return why_not(bench, opened, RankerChoice(document=document), Question(query), key).synonyms

    return bench.with_collection("coast", ask)


def test_a_synonym_is_tried_before_it_is_offered_and_does_that_once_its_list_is_kept(coast: Workbench):
    first, second = synonyms_offered(coast, "a Spear", "a", "words > lower > stem(en)")
    assert [one.words for one in (first, second)] == [
        "“spear” and “toggle” in title, by @synonyms",
        "“spear” and “harpoon” in title, by @synonyms",
    ]
    assert second.document.whole["readings"][0]["query_chain"] == "words > lower > synonyms(@synonyms:1) > stem(en)"
    assert second.new_list is not None
    assert (second.new_list.name, second.new_list.version) == ("synonyms", 1)
    assert second.new_list.row == "spear,harpoon,both"
    text = f"words,means,way\n{second.new_list.row}\n"
    assert put_list(coast, "coast", "synonyms", text, None).version == second.new_list.version

    def rank(opened: OpenCollection) -> int | None:
        ranker = coast.choose(opened.collection, RankerChoice(document=second.document)).ranker
        return why_record(opened, ranker, Question("a Spear"), "a").rank

    assert coast.with_collection("coast", rank) == second.rank == 1


def test_a_synonym_joins_the_list_that_the_reading_has_in_its_newest_version(coast: Workbench):
    for means in ("gong", "horn"):
        put_list(coast, "coast", "sea", f"words,means,way\nbell,{means},one\n", None)
    chain = "words > synonyms(@sea:1, beside=no) > lower"
    first = synonyms_offered(coast, "spear", "a", chain)[0]
    assert first.new_list is not None
    assert (first.new_list.name, first.new_list.version) == ("sea", 3)
    assert first.new_list.row == "spear,Toggle,both"
    assert first.document.whole["readings"][0]["query_chain"] == "words > synonyms(@sea:3, beside=no) > lower"


def test_a_list_of_another_kind_that_has_the_name_is_left_alone(coast: Workbench):
    put_list(coast, "coast", "synonyms", "word\nfog\n", None)
    for version in (1, 2):
        offered = synonyms_offered(coast, "spear", "a", "words > lower")[0]
        assert offered.new_list is not None
        assert (offered.new_list.name, offered.new_list.version) == ("synonyms-too", version)
        put_list(coast, "coast", "synonyms-too", f"words,means,way\nlance,pike{version},both\n", None)


def test_a_chain_that_has_no_room_for_synonyms_is_offered_none(coast: Workbench):
    assert len(synonyms_offered(coast, "spear", "a", " > ".join(["words", *["lower"] * 62]))) == 2
    assert synonyms_offered(coast, "spear", "a", " > ".join(["words", *["lower"] * 63])) == []


MAKER = {"field": "maker", "chain": "words", "weight": 1}


@pytest.mark.parametrize(
    ("more", "fields"),
    [
        # A code has no words, whatever it weighs, and pieces are none: the two heaviest readings of words are taken.
        ([{"field": "id", "chain": "blanks", "weight": 9}], {"title"}),
        ([{"field": "text", "chain": "words > prefixes(2, 9)", "share": 0.5, "weight": 9}], {"title"}),
        ([{"field": "text", "chain": "words", "weight": 0.9}, MAKER], {"title", "maker"}),
        # Of equals the first.
        ([{"field": "text", "chain": "words", "weight": 1}, MAKER], {"title", "text"}),
    ],
)
def test_synonyms_are_offered_in_the_two_heaviest_readings_of_words(
    coast: Workbench, more: list[dict[str, Any]], fields: set[str]
):
    found = synonyms_offered(coast, "spear", "a", "words > lower", *more)
    assert {one.words.split(" in ")[1].split(",")[0] for one in found} == fields


def test_synonyms_are_words_of_three_letters_that_others_have_first_and_at_most_three(bench: Workbench, tmp_path: Path):
    load_rows(
        bench.pool,
        tmp_path,
        [
            {"id": "a", "title": "Ox net 1890 buoy lamp cask gaff"},
            {"id": "b", "title": "A cask, a buoy and a lamp"},
            {"id": "c", "title": "Cask and buoy"},
        ],
    )
    found = synonyms_offered(bench, "spear", "a", "words > lower")
    # In three records, in two, in this one alone; of those that are as many the first one there.
    assert [one.words.split("”")[1].split("“")[1] for one in found] == ["lamp", "buoy", "cask"]
    assert len(synonyms_offered(bench, "spear trident pike", "a", "words > lower")) == 6


def test_a_word_of_two_letters_is_no_synonym_and_one_of_three_is(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Ox net 189"}, {"id": "b", "title": "Lamp"}])
    assert [one.words for one in synonyms_offered(bench, "spear", "a", "words > lower")] == [
        "“spear” and “net” in title, by @synonyms"
    ]
    assert synonyms_offered(bench, "gy", "a", "words > lower") == []
    assert len(synonyms_offered(bench, "gyp", "a", "words > lower")) == 1
