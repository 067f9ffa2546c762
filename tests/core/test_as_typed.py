"""The last word of a query while it is being typed: a word, and the beginning of one."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import build_index, vocabulary_of
from pale_harbor.core.index.near_beginnings import near_beginnings
from pale_harbor.core.index.near_terms import edit_distance
from pale_harbor.core.marking import marks
from pale_harbor.core.query import parse_query
from pale_harbor.core.ranking import (
    Need,
    PreparedQuery,
    Ranker,
    Reading,
    SlabView,
    SlackWhen,
    Spelling,
    Typing,
    TypingWhen,
    Workspace,
    looked_for,
    order_of_equals,
    plan_of,
    prepare_slabs,
    search,
    statistics_of,
    why,
)
from pale_harbor.core.ranking.beginnings import most_held
from pale_harbor.core.ranking.preparing import no_columns
from pale_harbor.core.text import chain_of

WORDS = chain_of("words > lower")
STEMS = chain_of("words > lower > stem(en)")


def reading(chain: Any = WORDS, field: str = "text", **knobs: Any) -> Reading:
    return Reading(field=field, chain=chain, query_chain=chain, **knobs)


def prepared_for(
    texts: list[str], query: str, ranker: Ranker | None = None, is_typed: bool = True, **typing: Any
) -> PreparedQuery:
    ranker = replace(ranker or Ranker(readings=(reading(),)), typing=Typing(**typing))
    plan = plan_of(looked_for(parse_query(query, ["text"]), ranker.typing, is_typed), ranker)
    indexes = [build_index([[text] for text in texts], one.chain) for one in plan.readings]  # pyright: ignore[reportArgumentType]
    slab = SlabView(indexes, None, len(texts), no_columns)
    (prepared,) = prepare_slabs(plan, [statistics_of([(own, None)]) for own in indexes], [slab])
    return prepared


def listed(
    texts: list[str], query: str, ranker: Ranker | None = None, is_typed: bool = True, **typing: Any
) -> dict[int, float]:
    """Records by number with their scores, best first, of one field."""
    prepared = prepared_for(texts, query, ranker, is_typed, **typing)
    found = search(prepared, 100, order_of_equals([], len(texts)), Workspace(len(texts)))
    for record_id, score in zip(found.record_ids.tolist(), found.scores.tolist(), strict=True):
        assert why(prepared, record_id).score == score
    return dict(zip(found.record_ids.tolist(), found.scores.tolist(), strict=True))


SHIPS = ["harpoon gun", "a harp", "harpoons of iron", "fog bell", "the bell of fog"]


def test_the_last_word_may_be_the_beginning_of_one():
    assert sorted(listed(SHIPS, "harpo")) == [0, 2]
    assert list(listed(SHIPS, "fog be")) == [3, 4]
    # In any order; earlier words are whole.
    assert sorted(listed(SHIPS, "be fo", Ranker(readings=(reading(),), need=Need(((1, None),))))) == []
    assert sorted(listed(SHIPS, "bell fo", Ranker(readings=(reading(),), need=Need(((1, None),))))) == [3, 4]


@pytest.mark.parametrize("query", ["harpo ", "harpo,", '"harpo"', "harpo -bell", "harpo OR harpo "])
def test_what_ends_with_a_blank_a_sign_or_in_quotes_is_typed_to_its_end(query: str):
    assert listed(SHIPS, query) == {}


def test_a_word_in_one_field_and_the_last_of_several_in_parentheses_or_not():
    assert sorted(listed(SHIPS, "text:harpo")) == [0, 2]
    # Who leaves out a word means the word.
    assert sorted(listed(SHIPS, "bell -fo")) == [3, 4]
    assert sorted(listed(SHIPS, "bell OR harpo")) == [0, 2, 3, 4]


@pytest.mark.parametrize(
    ("when", "is_typed", "query", "found"),
    [
        (TypingWhen.TYPED, True, "harp", [0, 1, 2]),
        (TypingWhen.TYPED, False, "harp", [1]),
        (TypingWhen.TYPED, False, "harpo", []),
        (TypingWhen.MISSING, False, "harp", [1]),
        (TypingWhen.MISSING, False, "harpo", [0, 2]),
        (TypingWhen.MISSING, True, "harp", [0, 1, 2]),
        (TypingWhen.ALWAYS, False, "harp", [0, 1, 2]),
    ],
)
def test_when_the_last_word_is_taken_for_a_beginning(when: TypingWhen, is_typed: bool, query: str, found: list[int]):
    assert sorted(listed(SHIPS, query, when=when, is_typed=is_typed)) == found


def test_so_many_letters_are_taken_for_a_beginning_and_one_where_words_have_no_blanks_between_them():
    assert (listed(SHIPS, "ha", letters=3), sorted(listed(SHIPS, "har", letters=3))) == ({}, [0, 1, 2])
    assert list(listed(["鯨油 ランプ"], "ラ", letters=3)) == [0]
    assert sorted(listed(["หมอก", "fog"], "ห", letters=3)) == [0]
    assert listed(["éa", "ë"], "é", letters=2) == {}


def test_a_longer_word_counts_its_worth_of_what_the_word_does():
    # Both stand in one record of the same length: idf and norms are alike.
    texts = ["harp", "harpoon", "x"]
    (whole, longer) = (listed(texts, "harp", worth=w) for w in (1.0, 0.5))
    assert whole[1] == pytest.approx(2 * longer[1])
    assert whole[0] == longer[0]
    # The words that begin so are as rare as all of them are: the two together stand in two records of three.
    assert whole[1] < whole[0]


def test_who_holds_the_word_itself_is_not_counted_for_longer_ones_too():
    both, alone = (listed([text, "x", "y"], "harp")[0] for text in ("harp harpoon", "harp mast"))
    assert both == alone
    # Whatever a stemmer finds is the word itself.
    stems = Ranker(readings=(reading(STEMS),))
    assert listed(["harpoons", "x", "y"], "harpoon", stems) == listed(["harpoon", "x", "y"], "harpoon", stems)


def test_a_beginning_of_a_stemmed_word_is_looked_for_in_whole_words():
    assert list(listed(["harpooning", "mast"], "harpooni", Ranker(readings=(reading(STEMS),)))) == [0]


def test_grams_find_letters_inside_of_words():
    grams = chain_of("words > lower > grams(3, 3)")
    ranker = Ranker(readings=(reading(grams, share=1.0),))
    assert list(listed(["harpoon", "spoon"], "arpo", ranker)) == [0]


def test_a_word_that_is_of_several_counted_words_is_held_whole():
    blanks = chain_of("blanks > lower")
    ranker = Ranker(readings=(reading(blanks),), need=Need(((1, None),)))
    assert list(listed(["SM-1904.23", "SM-1805.1"], "sm-19", ranker)) == [0]


def test_edits_in_a_beginning_count_where_no_word_begins_so():
    assert sorted(listed(["harpoon", "mast"], "hapr")) == [0]
    # Half of the worth of a beginning.
    exact, one_off = (listed(["harpoon", "mast"], typed, worth=0.8)[0] for typed in ("harp", "hapr"))
    assert one_off == pytest.approx(exact / 2)
    assert listed(["harpoon", "hapricot"], "hapr").keys() == {1}
    assert listed(["harpoon", "mast"], "hapr", slack=0) == {}
    # From four letters on one edit, from eight on two, and the first letter has to agree.
    assert (listed(["harpoon"], "hpr"), listed(["harpoon"], "hpr", slack_from=3).keys()) == ({}, {0})
    assert listed(["harpoons"], "hraponos", slack=2).keys() == {0}
    assert listed(["harpoons"], "hrapono", slack=2) == {}
    assert listed(["harpoon"], "jarp") == {}
    # Another year is another year.
    assert listed(["17875"], "1788") == {}


def test_what_begins_so_in_one_reading_is_no_edit_in_another():
    ranker = Ranker(readings=(reading(), reading(chain_of("words"))))
    assert listed(["HARPOON", "hapricot"], "hapr", ranker).keys() == {1}


def test_spelling_slack_is_not_given_where_a_word_begins_so():
    ranker = Ranker(readings=(reading(),), spelling=Spelling(edits=1, when=SlackWhen.MISSING))
    assert listed(["harpoon", "harps"], "harp", ranker).keys() == {0, 1}
    assert listed(["harpoon", "carp"], "harpo", ranker).keys() == {0}
    # A word that is not there gets it all the same where it is no beginning either.
    ranker = replace(ranker, spelling=Spelling(edits=1, fixed_start=0))
    assert listed(["carp"], "harp", ranker, slack=0).keys() == {0}


def test_of_many_words_those_in_the_most_records_count():
    texts = ["mast", "mast", "master", "mat", "mat"]
    assert listed(texts, "ma", most=3).keys() == {0, 1, 2, 3, 4}
    assert listed(texts, "ma", most=2).keys() == {0, 1, 3, 4}
    # Of equals the first by their letters.
    assert listed(texts, "ma", most=1).keys() == {0, 1}


def test_a_stop_word_that_others_begin_with_is_their_beginning():
    chain = chain_of("words > lower > stopwords(en)")
    assert listed(["theodolite", "the mast"], "the", Ranker(readings=(reading(chain),))).keys() == {0}


def marked(text: str, query: str, ranker: Ranker | None = None) -> list[str]:
    """The letters of a record that a query marks."""
    return [text[start:end] for start, end in marks(prepared_for([text], query, ranker), [0])[0].get("text", [])]


def test_the_letters_that_were_typed_are_marked():
    assert marked("The HARPOON of harps", "harp") == ["HARP", "harp"]
    # Who holds the word itself is not counted for longer ones, and these are not marked.
    assert marked("fog foghorn", "fog") == ["fog"]
    assert marked("an iron harpoon", "*oon") == ["oon"]
    # With an edit, or where a chain made other letters of it, the whole word.
    assert marked("a harpoon", "hapr") == ["harpoon"]
    folded = Ranker(readings=(reading(chain_of("nfkc > words > lower")),))
    assert marked("the ﬁshery", "fis", folded) == ["ﬁshery"]


words = st.text("abc", min_size=1, max_size=5)


@given(vocabulary=st.sets(words, max_size=30), typed=words, edits=st.integers(0, 2), fixed=st.integers(0, 1))
def test_near_beginnings_are_those_of_every_beginning_of_every_term(
    vocabulary: set[str], typed: str, edits: int, fixed: int
):
    terms = sorted(vocabulary)
    near = [min(edit_distance(typed, term[:i]) for i in range(len(term) + 1)) for term in terms]
    wanted = [
        (number, far)
        for number, (term, far) in enumerate(zip(terms, near, strict=True))
        if far <= edits and term[:fixed] == typed[:fixed]
    ]
    numbers, distances = near_beginnings(vocabulary_of(terms), typed, edits, fixed)
    assert list(zip(numbers.tolist(), distances.tolist(), strict=True)) == wanted


@given(
    slabs=st.lists(st.lists(st.lists(words, max_size=4), min_size=1, max_size=6), min_size=1, max_size=3),
    most=st.integers(1, 4),
    data=st.data(),
)
def test_the_words_in_the_most_living_records_are_the_same_however_these_are_spread(
    slabs: list[list[list[str]]], most: int, data: st.DataObject
):
    alive = [np.array([data.draw(st.booleans()) for _ in slab]) for slab in slabs]
    indexes = [build_index([[" ".join(record)] for record in slab], WORDS) for slab in slabs]
    numbers = [np.arange(len(index.vocabulary), dtype=np.int32) for index in indexes]
    held: dict[str, int] = {}
    for slab, lives in zip(slabs, alive, strict=True):
        for record, is_alive in zip(slab, lives.tolist(), strict=True):
            for word in set(record) if is_alive else ():
                held[word] = held.get(word, 0) + 1
    wanted = set(sorted(held, key=lambda word: (-held[word], word))[:most])
    found = most_held(indexes, alive, numbers, most)
    here = [{index.vocabulary.term(one) for one in own.tolist()} for index, own in zip(indexes, found, strict=True)]
    assert set().union(*here) == wanted
