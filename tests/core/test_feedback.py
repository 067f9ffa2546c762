"""Feedback: which words of the first records count how much, each decision by hand."""

from math import log, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import build_index
from pale_harbor.core.ranking import PreparedQuery, Ranker, Reading, TermKind, prepare
from pale_harbor.core.ranking.fed_back import can_be_fed, holding_of, with_feedback
from pale_harbor.core.ranking.feedback import Feedback, FeedbackHow, RecordTerms, feedback_terms
from pale_harbor.core.text import chain_of

LAMP = RecordTerms(3.0, {"oil": 2, "lamp": 1, "wick": 1})
BELL = RecordTerms(1.0, {"oil": 1, "bell": 1})


def in_two(_: str) -> int:
    return 2


def weights(feedback: Feedback, records: list[RecordTerms], count: int = 20, holding: int = 2) -> dict[str, float]:
    return dict(feedback_terms(feedback, records, count, lambda _: holding))


def test_a_relevance_model_weighs_a_words_part_of_a_record_by_the_records_score():
    found = weights(Feedback(), [LAMP, BELL])
    # oil: 3/4 · 2/4 + 1/4 · 1/2; lamp and wick: 3/4 · 1/4; bell: 1/4 · 1/2. They sum to 1 before they are scaled.
    assert found == pytest.approx({"oil": 0.5, "lamp": 0.1875, "wick": 0.1875, "bell": 0.125})


def test_the_mean_record_weighs_rare_words_more_and_every_record_alike():
    held = {"oil": 10, "lamp": 2, "wick": 2, "bell": 2}
    found = dict(feedback_terms(Feedback(how=FeedbackHow.MEAN, common=0.5), [LAMP, BELL], 20, held.__getitem__))
    rare, common = log(1 + (20 - 2 + 0.5) / 2.5), log(1 + (20 - 10 + 0.5) / 10.5)
    first, second = sqrt((2 * common) ** 2 + 2 * rare**2), sqrt(common**2 + rare**2)
    plain = {
        "oil": 2 * common / first + common / second,
        "lamp": rare / first,
        "wick": rare / first,
        "bell": rare / second,
    }
    assert found == pytest.approx({word: weight / sum(plain.values()) for word, weight in plain.items()})


def test_of_words_that_weigh_the_same_the_first_by_letters_stays():
    assert [word for word, _ in feedback_terms(Feedback(terms=2), [LAMP, BELL], 20, in_two)] == ["oil", "lamp"]


def test_what_is_left_out_leaves_no_weight():
    assert sum(weights(Feedback(terms=2), [LAMP, BELL]).values()) == pytest.approx(1)


@pytest.mark.parametrize(("holding", "kept"), [(1, False), (2, True), (4, True), (5, False)])
def test_words_of_one_record_alone_and_of_too_many_are_passed_over(holding: int, kept: bool):
    assert bool(weights(Feedback(common=0.2), [LAMP], holding=holding)) == kept


def test_where_no_record_has_a_score_all_count_alike():
    found = weights(Feedback(), [RecordTerms(0.0, {"oil": 1}), RecordTerms(0.0, {"bell": 1})])
    assert found == {"bell": 0.5, "oil": 0.5}


@given(
    st.lists(
        st.builds(
            RecordTerms, st.floats(0, 100), st.dictionaries(st.sampled_from("abcdef"), st.integers(1, 9), min_size=1)
        ),
        max_size=5,
    ),
    st.sampled_from(FeedbackHow),
    st.integers(1, 8),
)
def test_weights_sum_to_one_and_fall(records: list[RecordTerms], how: FeedbackHow, terms: int):
    found = feedback_terms(Feedback(how=how, terms=terms, common=1.0), records, 50, in_two)
    assert len(found) <= terms
    assert [weight for _, weight in found] == sorted((weight for _, weight in found), reverse=True)
    assert sum(weight for _, weight in found) == pytest.approx(1 if records else 0)


TEXTS = ["oil lamp", "oil wick", "wick", "wick lamp", "bell"]
CHAIN = chain_of("words")


def prepared(query: str) -> list[PreparedQuery]:
    ranker = Ranker(readings=(Reading(field="text", chain=CHAIN, query_chain=CHAIN),))
    return [prepare(query, ranker, [build_index([[text] for text in TEXTS], CHAIN)])]


def test_added_terms_together_weigh_their_share_of_what_was_typed():
    (fed,) = with_feedback(prepared("oil lamp"), {0: [("wick", 0.75), ("bell", 0.25)]}, 0.2, finds=True)
    added = [term for term in fed.readings[0].terms if term.kind is TermKind.FEEDBACK]
    # Two words were typed; a fifth of the query is a quarter of the rest: half a word.
    assert [(term.text, term.worth) for term in added] == [
        ("wick", pytest.approx(0.375)),
        ("bell", pytest.approx(0.125)),
    ]
    assert [term.holding for term in added] == [3, 1]


def test_only_readings_of_whole_words_that_look_for_something_are_fed():
    (query,) = prepared("oil")
    assert can_be_fed(query.readings[0])
    (nothing,) = prepared("")
    assert not can_be_fed(nothing.readings[0])
    grams = Reading(field="text", chain=CHAIN, query_chain=CHAIN, share=0.5)
    (by_share,) = [prepare("oil", Ranker(readings=(grams,)), [build_index([["oil"]], CHAIN)])]
    assert not can_be_fed(by_share.readings[0])


def test_a_term_is_counted_over_living_records():
    assert holding_of(prepared("oil"), 0, "wick") == 3
    assert holding_of(prepared("oil"), 0, "mast") == 0


def test_without_terms_a_query_stays_what_it_is():
    query = prepared("oil")
    assert with_feedback(query, {0: []}, 0.3, finds=True) == query
