"""Synonyms in a query: which tokens they add, when what was typed is held, and what they are worth."""

from math import log

import numpy as np
import pytest

from pale_harbor.core.index import build_index
from pale_harbor.core.ranking import (
    Need,
    RankedList,
    Ranker,
    Reading,
    Spelling,
    TermKind,
    Workspace,
    prepare,
    search,
    why,
)
from pale_harbor.core.ranking.looked_up import LookedUp
from pale_harbor.core.ranking.prepared import PreparedQuery
from pale_harbor.core.text import chain_of
from pale_harbor.core.text.ways import Way, ways_of
from pale_harbor.core.text.word_lists import SynonymRule, Synonyms

LISTS = {
    "harbor": Synonyms(
        (
            SynonymRule(("foghorn",), ("fog signal",)),
            SynonymRule(("lamp",), ("light", "burning glass house")),
            SynonymRule(("rope walk",), ("ropery",)),
            SynonymRule(("the lot",), ("everything",)),
        )
    )
}
PLAIN = chain_of("words > lower")
SYNONYMS = chain_of("words > lower > synonyms(@harbor)", LISTS)
ALL = Need(((1, None),))


def told(notation: str, text: str) -> list[tuple[str, list[list[str]], bool]]:
    """Each way: what it says otherwise, the terms of its words, whether it took its place."""
    chain = chain_of(notation, LISTS)
    tokens = chain.run(text)
    return [
        (text[way.start : way.end], [[tokens[n].text for n in word] for word in way.words], way.instead)
        for way in ways_of(chain, text)
    ]


def test_ways_are_told_with_what_they_stand_for():
    assert told("words > lower > synonyms(@harbor)", "Old lamp") == [
        ("lamp", [["light"]], False),
        ("lamp", [["burning"], ["glass"], ["house"]], False),
    ]
    assert told("words > lower > synonyms(@harbor)", "a rope walk, a foghorn") == [
        ("rope walk", [["ropery"]], False),
        ("foghorn", [["fog"], ["signal"]], False),
    ]


def test_further_stages_belong_to_the_words_that_they_were_made_of():
    assert told("words > lower > synonyms(@harbor) > stem(en) > prefixes(2, 3)", "foghorn") == [
        ("foghorn", [["fo", "fog"], ["si", "sig"]], False)
    ]
    assert told("words > synonyms(@harbor) > stopwords(en)", "everything") == [("everything", [[], ["lot"]], False)]


def test_ways_may_take_the_place_of_a_word():
    assert told("words > synonyms(@harbor, beside=no)", "lamp oil") == [
        ("lamp", [["light"]], True),
        ("lamp", [["burning"], ["glass"], ["house"]], True),
    ]


def test_a_chain_without_synonyms_has_no_ways():
    assert ways_of(PLAIN, "lamp") == []
    assert ways_of(SYNONYMS, "oil") == []
    assert ways_of(SYNONYMS, "foghorn") == [Way(0, 7, ((1,), (2,)), False)]


TEXTS = ["foghorn", "fog signal", "signal flag", "fog bank", "lamp", "light", "ropery", "rope", "walk", "rope walk"]


def found(query: str, need: Need = ALL) -> list[str]:
    return [TEXTS[record] for record in ranked(query, need).record_ids.tolist()]


def ranked(query: str, need: Need = ALL, synonyms: float = 0.6) -> RankedList:
    index = build_index([[text] for text in TEXTS], PLAIN)
    ranker = Ranker(readings=(Reading(field="text", chain=PLAIN, query_chain=SYNONYMS, synonyms=synonyms),), need=need)
    order = np.arange(len(TEXTS), dtype=np.int32)
    return search(prepare(query, ranker, [index]), 20, order, Workspace(len(TEXTS)))


@pytest.mark.parametrize(
    ("query", "records"),
    [
        # All of a way, or what was typed; never one word of it.
        ("foghorn", ["foghorn", "fog signal"]),
        ("fog signal", ["fog signal", "foghorn"]),
        ("lamp", ["lamp", "light"]),
        ("ropery", ["rope walk", "ropery"]),
        ("rope walk", ["rope walk", "ropery"]),
        # One word of an entry is no entry.
        ("rope", ["rope", "rope walk"]),
        ("foghorn -signal", ["foghorn"]),
        ("-foghorn", [text for text in TEXTS if text not in ("foghorn", "fog signal")]),
    ],
)
def test_with_all_words_needed_all_of_one_way_is_held(query: str, records: list[str]):
    assert sorted(found(query)) == sorted(records)
    if " " not in query:
        # Of one word any is all of it.
        assert sorted(found(query, Need())) == sorted(records)


def test_what_was_typed_comes_before_its_synonym_by_the_worth_of_synonyms():
    list_of = ranked("lamp", synonyms=0.25)
    assert [TEXTS[record] for record in list_of.record_ids.tolist()] == ["lamp", "light"]
    assert list_of.scores[1] == pytest.approx(list_of.scores[0] / 4)
    alike = ranked("lamp", synonyms=1.0)
    assert alike.scores[0] == alike.scores[1]


def test_a_synonym_is_never_taken_for_rarer_than_the_word_that_was_typed():
    texts = ["lamp", "lamp", "lamp", "light", "oil"]
    index = build_index([[text] for text in texts], PLAIN)
    ranker = Ranker(readings=(Reading(field="text", chain=PLAIN, query_chain=SYNONYMS),))
    parts = why(prepare("lamp", ranker, [index]), 3).readings[0].terms
    common = log(1 + (5 - 3 + 0.5) / (3 + 0.5))
    assert [(part.kind, part.term, part.said, part.worth) for part in parts] == [
        (TermKind.SYNONYM, "light", "lamp", 0.6)
    ]
    assert parts[0].idf == pytest.approx(common)
    # Where nobody has the word that was typed, the synonym is as rare as it is.
    alone = why(prepare("lamp", ranker, [build_index([["light"], ["oil"]], PLAIN)]), 0).readings[0].terms
    assert alone[0].idf == pytest.approx(log(1 + (2 - 1 + 0.5) / (1 + 0.5)))


def test_a_word_that_was_typed_is_no_synonym_but_holds_what_it_stands_beside():
    parts = why(prepared("lamp light"), TEXTS.index("light"))
    assert [(part.kind, part.term, part.worth) for part in parts.readings[0].terms] == [(TermKind.TERM, "light", 1.0)]
    assert [(word.word, word.held) for word in parts.words] == [("lamp", True), ("light", True)]


def test_synonyms_are_given_no_spelling_slack():
    slack = Spelling(edits=1, fixed_start=0)
    index = build_index([["lighr"], ["lamb"]], PLAIN)
    ranker = Ranker(readings=(Reading(field="text", chain=PLAIN, query_chain=SYNONYMS),), spelling=slack)
    (reading,) = prepare("lamp", ranker, [index]).readings
    assert [term.text for term in reading.terms if term.kind is TermKind.SPELLING] == ["lamb"]


def test_in_the_place_of_a_word_a_way_is_worth_as_much_as_the_word():
    index = build_index([[text] for text in TEXTS], PLAIN)
    instead = chain_of("words > lower > synonyms(@harbor, beside=no)", LISTS)
    ranker = Ranker(readings=(Reading(field="text", chain=PLAIN, query_chain=instead),), need=ALL)
    (reading,) = prepare("foghorn", ranker, [index]).readings
    assert [(t.text, t.kind, t.worth) for t in reading.terms if t.worth] == [
        ("fog", TermKind.TERM, 1.0),
        ("signal", TermKind.TERM, 1.0),
    ]
    order = np.arange(len(TEXTS), dtype=np.int32)
    got = search(prepare("foghorn", ranker, [index]), 20, order, Workspace(len(TEXTS)))
    assert [TEXTS[record] for record in got.record_ids.tolist()] == ["fog signal"]


def test_a_turned_worth_of_synonyms_is_weighed_without_looking_up_anew():
    first = prepared("lamp")
    looked_up = LookedUp(slabs=[first], words=1, all_counted=True)
    turned = Ranker(readings=(Reading(field="text", chain=PLAIN, query_chain=SYNONYMS, synonyms=0.1),), need=ALL)
    plan = prepared("lamp", turned).plan
    for _ in range(3):
        (again,) = looked_up.for_plan(plan)
        assert {t.text: t.worth for t in again.readings[0].terms if t.kind is TermKind.SYNONYM}["light"] == 0.1
        order = np.arange(len(TEXTS), dtype=np.int32)
        got = search(again, 20, order, Workspace(len(TEXTS)))
        assert got.scores.tolist() == ranked("lamp", synonyms=0.1).scores.tolist()


def prepared(query: str, ranker: Ranker | None = None) -> PreparedQuery:
    index = build_index([[text] for text in TEXTS], PLAIN)
    usual = Ranker(readings=(Reading(field="text", chain=PLAIN, query_chain=SYNONYMS),), need=ALL)
    return prepare(query, ranker or usual, [index])
