"""Ranking: the formula, the order, the parts that add up, and one list by every path."""

import itertools
from dataclasses import replace
from math import log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.fields import FieldColumn, column_of
from pale_harbor.core.index import build_index
from pale_harbor.core.marking import marks
from pale_harbor.core.query import parse_query
from pale_harbor.core.ranking import (
    Adjustments,
    Combine,
    CombineHow,
    LookedUp,
    Nearness,
    PreparedQuery,
    Ranker,
    Reading,
    Shape,
    Signal,
    SignalHow,
    SlabView,
    Spelling,
    Workspace,
    adjust,
    basis_of,
    look_up,
    lookup_name,
    matching_records,
    order_of_equals,
    plan_of,
    search,
    shares,
    signal_values,
    statistics_of,
    why,
)
from pale_harbor.core.ranking.search import MOST_MERGED
from pale_harbor.core.text import chain_of
from tests.core import plain
from tests.strategies import needs, queries, rankers, word_texts

records_strategy = st.lists(
    st.fixed_dictionaries(
        {"title": st.lists(word_texts(), max_size=2), "text": word_texts().map(lambda text: [text] if text else [])}
    ),
    min_size=1,
    max_size=12,
)


def prepared_for(records: plain.Records, ranker: Ranker, query: str) -> PreparedQuery:
    kept = looked_up_for(records, ranker, query)
    (prepared,) = kept.for_plan(kept.slabs[0].plan)
    return prepared


def looked_up_for(records: plain.Records, ranker: Ranker, query: str) -> LookedUp:
    plan = plan_of(parse_query(query, ["title", "text"]), ranker)
    indexes = [build_index([r.get(reading.field, []) for r in records], reading.chain) for reading in plan.readings]
    statistics = [statistics_of([(index, None)]) for index in indexes]

    def column(field: str) -> FieldColumn:
        return column_of([record.get(field) for record in records])

    return look_up(plan, statistics, [SlabView(indexes, None, len(records), column)])


def by_id(count: int) -> np.ndarray:
    return np.arange(count, dtype=np.int32)


ways = st.sampled_from([0, 2, MOST_MERGED])


@given(records=records_strategy, ranker=rankers(), query=queries(), top=st.integers(1, 15), way=ways, data=st.data())
def test_the_fast_path_ranks_as_the_plain_path(
    records: plain.Records, ranker: Ranker, query: str, top: int, way: int, data: st.DataObject
):
    order = data.draw(st.permutations(range(len(records))))
    prepared = prepared_for(records, ranker, query)
    found = search(prepared, top, np.array(order, np.int32), Workspace(len(records)), most_merged=way)
    expected = plain.ranked(records, ranker, query, list(order))
    assert found.matched == len(expected)
    scores = dict(expected)
    assert [scores[record] for record in found.record_ids.tolist()] == pytest.approx(found.scores.tolist(), rel=1e-9)
    assert found.scores.tolist() == pytest.approx([score for _, score in expected[:top]], rel=1e-9)
    ties = len({f"{score:.8g}" for _, score in expected}) < len(expected)
    if not ties:
        assert found.record_ids.tolist() == [record for record, _ in expected[:top]]


@given(records=records_strategy, ranker=rankers(), query=queries())
def test_merging_and_accumulating_give_the_same_digits(records: plain.Records, ranker: Ranker, query: str):
    prepared = prepared_for(records, ranker, query)
    lists = [search(prepared, 20, by_id(len(records)), Workspace(len(records)), most_merged=way) for way in (0, 1_000)]
    assert lists[0].record_ids.tolist() == lists[1].record_ids.tolist()
    assert lists[0].scores.tolist() == lists[1].scores.tolist()
    assert lists[0].matched == lists[1].matched


@st.composite
def turns(draw: st.DrawFn, ranker: Ranker) -> Ranker:
    """The ranker with knobs turned that ask for no other look-up: weights, k1, b, what being near is worth, need, how
    readings combine."""
    readings = tuple(
        replace(
            one,
            weight=draw(st.floats(0.01, 100)) if one.weight else 0.0,
            k1=draw(st.floats(0, 3)),
            b=draw(st.floats(0, 1)),
            nearness=one.nearness and replace(one.nearness, weight=draw(st.sampled_from([0.5, 1.0, 7.3]))),
        )
        for one in ranker.readings
    )
    combine = draw(st.builds(Combine, st.sampled_from(CombineHow), st.sampled_from([0.0, 0.3, 1.0]), st.floats(0, 3)))
    return replace(ranker, readings=readings, need=draw(needs()), combine=combine)


@given(records=records_strategy, ranker=rankers(), query=queries(), data=st.data())
def test_what_was_looked_up_once_serves_every_turn_to_the_last_digit(
    records: plain.Records, ranker: Ranker, query: str, data: st.DataObject
):
    kept = looked_up_for(records, ranker, query)
    for _ in range(3):
        turn = data.draw(turns(ranker))
        plan = plan_of(parse_query(query, ["title", "text"]), turn)
        assert lookup_name(plan, None) == lookup_name(kept.slabs[0].plan, None)
        (again,) = kept.for_plan(plan)
        fresh = prepared_for(records, turn, query)
        one, other = (search(own, 20, by_id(len(records)), Workspace(len(records))) for own in (again, fresh))
        assert one.record_ids.tolist() == other.record_ids.tolist()
        assert one.scores.tolist() == other.scores.tolist()
        assert one.matched == other.matched
        for record, score in zip(one.record_ids.tolist(), one.scores.tolist(), strict=True):
            assert why(again, record).score == score


def test_what_asks_for_another_look_up_has_another_name():
    chain, other = chain_of("words > lower"), chain_of("words")
    reading = Reading(field="title", chain=chain, query_chain=chain)
    plan = plan_of(parse_query("fog bell"), Ranker(readings=(reading,)))
    name = lookup_name(plan, None)
    alike = [replace(reading, weight=2), replace(reading, k1=0.5), replace(reading, b=0)]
    assert [lookup_name(plan_of(parse_query("fog bell"), Ranker(readings=(one,))), None) == name for one in alike] == [
        True
    ] * 3
    apart = [
        *(replace(reading, field="text"), replace(reading, chain=other), replace(reading, query_chain=other)),
        *(replace(reading, share=0.5), replace(reading, slack=False), replace(reading, nearness=Nearness())),
        replace(reading, weight=0),
    ]
    assert [lookup_name(plan_of(parse_query("fog bell"), Ranker(readings=(one,))), None) == name for one in apart] == [
        False
    ] * 7
    near, nearer, farther, anyhow = (
        lookup_name(plan_of(parse_query("fog bell"), Ranker(readings=(replace(reading, nearness=one),))), None)
        for one in (Nearness(), Nearness(weight=3.0), Nearness(gap=1), Nearness(same_order=False))
    )
    assert near == nearer
    assert near not in (farther, anyhow)
    assert lookup_name(plan_of(parse_query("fog bells"), Ranker(readings=(reading,))), None) != name
    assert lookup_name(plan_of(parse_query("fog bell"), Ranker(readings=(reading,), spelling=Spelling())), None) != name
    assert lookup_name(plan, "de") != name


def test_sums_come_from_a_sheet_from_the_second_time_on():
    chain = chain_of("words > lower")
    ranker = Ranker(
        readings=(
            Reading(field="title", chain=chain, query_chain=chain, weight=2.0),
            Reading(field="text", chain=chain, query_chain=chain),
        )
    )
    kept = looked_up_for([{"title": ["fog"], "text": ["bell fog"]}, {"text": ["bell"]}], ranker, "fog bell")
    plan = kept.slabs[0].plan
    assert kept.for_plan(plan)[0].sheet is None
    sheet = kept.for_plan(plan)[0].sheet
    assert sheet is not None
    assert (sheet.record_ids.tolist(), sheet.columns.shape, sheet.bits.tolist()) == ([0, 1], (2, 2), [3, 2])
    assert kept.for_plan(plan)[0].sheet is sheet
    turn = replace(ranker, readings=(replace(ranker.readings[0], k1=2.0), ranker.readings[1]))
    assert kept.for_plan(plan_of(parse_query("fog bell", ["title", "text"]), turn))[0].sheet is not sheet
    pool = replace(ranker, combine=Combine(CombineHow.POOLED))
    assert kept.for_plan(plan_of(parse_query("fog bell", ["title", "text"]), pool))[0].sheet is None


def test_a_turn_of_what_being_near_is_worth_makes_the_sheet_anew_and_looks_up_nothing():
    chain = chain_of("words > lower")
    reading = Reading(field="text", chain=chain, query_chain=chain, nearness=Nearness(weight=1.0))
    records: plain.Records = [{"text": ["fog bell"]}, {"text": ["fog then bell"]}]
    kept = looked_up_for(records, Ranker(readings=(reading,)), "fog bell")
    columns: list[list[float]] = []
    for weight in (1.0, 1.0, 2.0):
        turn = Ranker(readings=(replace(reading, nearness=Nearness(weight=weight)),))
        (query,) = kept.for_plan(plan_of(parse_query("fog bell", ["title", "text"]), turn))
        found = [term.found for term in query.readings[0].terms]
        assert all(own is was.found for own, was in zip(found, kept.slabs[0].readings[0].terms, strict=True))
        columns.append([] if query.sheet is None else query.sheet.columns[0].tolist())
    first, second = columns[1], columns[2]
    assert second[0] > first[0]
    assert second[1] == first[1]


@given(records=records_strategy, ranker=rankers(), query=queries())
def test_what_the_readings_add_comes_to_the_score(records: plain.Records, ranker: Ranker, query: str):
    prepared = prepared_for(records, ranker, query)
    found = matching_records(prepared, Workspace(len(records)))
    assert shares(prepared, found.record_ids).sum(axis=1).tolist() == pytest.approx(found.scores.tolist(), rel=1e-9)


signals = st.lists(
    st.builds(
        Signal,
        field=st.just("asked"),
        shape=st.sampled_from(Shape),
        weight=st.floats(-2, 2),
        scale=st.sampled_from([0.5, 1.0, 30.0]),
        without=st.sampled_from([0.0, 0.5]),
        now=st.none() | st.integers(0, 99).map(float),
        how=st.sampled_from(SignalHow),
    ),
    max_size=3,
)
asked_numbers = st.floats(-5, 100) | st.just(float("nan"))


@given(records=records_strategy, ranker=rankers(), query=queries(), signals=signals, data=st.data())
def test_the_parts_of_a_why_come_to_the_score_to_the_last_digit(
    records: plain.Records, ranker: Ranker, query: str, signals: list[Signal], data: st.DataObject
):
    count = len(records)
    asked = np.array(data.draw(st.lists(asked_numbers, min_size=count, max_size=count)))
    values = [(signal, signal_values(signal, asked, basis_of([asked]))) for signal in signals]
    lifts = [(data.draw(st.integers(0, count - 1)), 2.5)]
    adjustments = Adjustments(values, lifts)
    prepared = prepared_for(records, ranker, query)
    found = adjust(matching_records(prepared, Workspace(count)), adjustments)
    for record, score in zip(found.record_ids.tolist(), found.scores.tolist(), strict=True):
        answer = why(prepared, record, adjustments)
        assert answer.matched
        assert answer.score == score
        if answer.how is CombineHow.SUM:
            total = sum(part.weight * sum(term.score for term in part.terms) for part in answer.readings)
            assert total == pytest.approx(answer.keyword_score)
        for pooled in answer.pool or ():
            assert sum(share.added for share in pooled.shares) == pytest.approx(pooled.frequency)
    matched_ids = set(found.record_ids.tolist())
    assert all(why(prepared, record).matched == (record in matched_ids) for record in range(count))


@given(records=records_strategy, ranker=rankers(), texts=st.lists(queries(), min_size=2, max_size=4))
def test_a_workspace_used_again_changes_nothing(records: plain.Records, ranker: Ranker, texts: list[str]):
    used = Workspace(len(records))
    for query in texts:
        prepared = prepared_for(records, ranker, query)
        again = search(prepared, 5, by_id(len(records)), used, most_merged=0)
        fresh = search(prepared, 5, by_id(len(records)), Workspace(len(records)))
        assert again.record_ids.tolist() == fresh.record_ids.tolist()
        assert again.scores.tolist() == fresh.scores.tolist()
    for left in (used.total, used.column, used.strongest, used.bits, used.seen, used.seen_in_total):
        assert not left.any()


@given(records=records_strategy, ranker=rankers(), query=queries())
def test_marks_are_on_letters_of_the_record(records: plain.Records, ranker: Ranker, query: str):
    prepared = prepared_for(records, ranker, query)
    for record in matching_records(prepared, Workspace(len(records))).record_ids.tolist():
        for field, stretches in marks(prepared, [record])[0].items():
            laid_out = " ".join(records[record][field])
            assert all(0 <= start < end <= len(laid_out) for start, end in stretches)
            assert all(a[1] < b[0] for a, b in itertools.pairwise(stretches))


def test_bm25_by_hand():
    chain = chain_of("words > lower")
    records: plain.Records = [{"text": ["fog fog bell"]}, {"text": ["fog"]}, {"text": ["rope"]}]
    ranker = Ranker(readings=(Reading(field="text", chain=chain, query_chain=chain, weight=2.0, k1=1.2, b=0.75),))
    found = search(prepared_for(records, ranker, "fog"), 10, by_id(3), Workspace(3))
    idf = log(1 + (3 - 2 + 0.5) / (2 + 0.5))
    average = 5 / 3
    first = 2 * idf * 2 * 2.2 / (2 + 1.2 * (0.25 + 0.75 * 3 / average))
    second = 2 * idf * 1 * 2.2 / (1 + 1.2 * (0.25 + 0.75 * 1 / average))
    assert dict(zip(found.record_ids.tolist(), found.scores.tolist(), strict=True)) == pytest.approx(
        {0: first, 1: second}
    )
    assert found.matched == 2


def test_a_word_said_twice_counts_twice():
    chain = chain_of("words")
    records: plain.Records = [{"text": ["fog"]}, {"text": ["bell"]}]
    ranker = Ranker(readings=(Reading(field="text", chain=chain, query_chain=chain),))
    once, twice = (
        search(prepared_for(records, ranker, query), 1, by_id(2), Workspace(2)).scores[0]
        for query in ("fog", "fog fog")
    )
    assert twice == 2 * once


def test_a_reading_of_weight_0_takes_no_part():
    chain = chain_of("words")
    records: plain.Records = [{"title": ["fog"], "text": ["bell"]}]
    ranker = Ranker(
        readings=(
            Reading(field="title", chain=chain, query_chain=chain, weight=0.0),
            Reading(field="text", chain=chain, query_chain=chain),
        )
    )
    prepared = prepared_for(records, ranker, "fog")
    assert search(prepared, 10, by_id(1), Workspace(1)).matched == 0
    assert [(reading.reading.field, reading.number) for reading in prepared.readings] == [("text", 1)]
    assert [part.number for part in why(prepared, 0).readings] == [1]


def test_equal_scores_go_by_fields_then_by_key():
    asked = [5.0, None, 9.0, 5.0]
    assert np.argsort(order_of_equals([(asked, True)], 4)).tolist() == [2, 0, 3, 1]
    assert np.argsort(order_of_equals([(asked, False)], 4)).tolist() == [0, 3, 2, 1]
    assert np.argsort(order_of_equals([(["b", "a", 3.0, None], False), (asked, True)], 4)).tolist() == [2, 1, 0, 3]
    assert order_of_equals([], 3).tolist() == [0, 1, 2]


def test_a_query_without_words_finds_nothing():
    chain = chain_of("words > stopwords(en)")
    records: plain.Records = [{"text": ["fog"]}]
    ranker = Ranker(readings=(Reading(field="text", chain=chain, query_chain=chain),))
    for query in ("", "  ", "the of", "—"):
        found = search(prepared_for(records, ranker, query), 10, by_id(1), Workspace(1))
        assert (found.matched, found.record_ids.tolist()) == (0, [])
