"""Records that come, change and go one by one are ranked as if they had been indexed in one go."""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.fields import column_of
from pale_harbor.core.index import ReadingIndex, appended_index, build_index, merged_index
from pale_harbor.core.index.slab_sizes import first_to_join
from pale_harbor.core.query import parse_query
from pale_harbor.core.ranking import (
    FieldValue,
    Ranker,
    SlabView,
    Workspace,
    join,
    order_of_equals,
    place_of_value,
    plan_of,
    prepare_slabs,
    search,
    statistics_of,
    why,
)
from pale_harbor.core.text import Chain, chain_of, record_chain_of
from tests.strategies import chains, queries, rankers, values, word_texts

ARRAYS = ("posting_firsts", "record_ids", "frequencies", "posting_lengths", "occurrence_firsts", "positions")


@dataclass(frozen=True)
class Made:
    """A record of the tests."""

    title: str
    text: str
    asked: FieldValue


@dataclass
class Slab:
    """Records in order of key, and which of them live."""

    records: dict[str, Made]
    alive: list[bool] = field(default_factory=list[bool])

    def __post_init__(self) -> None:
        self.records = dict(sorted(self.records.items()))
        self.alive = self.alive or [True] * len(self.records)

    def bury(self, keys: set[str]) -> None:
        self.alive = [lives and key not in keys for key, lives in zip(self.records, self.alive, strict=True)]


made = st.builds(Made, word_texts(), word_texts(), st.sampled_from([None, 1, 2, 2.5, "a", "b"]))
changes = st.lists(st.dictionaries(st.sampled_from("abcdefgh"), st.none() | made, min_size=1, max_size=5), max_size=6)


def slabs_after(steps: list[dict[str, Made | None]]) -> tuple[list[Slab], dict[str, Made]]:
    slabs: list[Slab] = []
    truth: dict[str, Made] = {}
    for step in steps:
        for slab in slabs:
            slab.bury(set(step))
        added = {key: record for key, record in step.items() if record is not None}
        slabs.append(Slab(added))
        truth = {key: record for key, record in truth.items() if key not in step} | added
    return slabs, truth


def ranked(slabs: list[Slab], ranker: Ranker, query: str, top: int) -> tuple[list[tuple[str, float]], int]:
    plan = plan_of(parse_query(query, ["title", "text"]), ranker)
    views: list[SlabView] = []
    for slab in slabs:
        records = list(slab.records.values())
        indexes = [index_of(records, r.field, record_chain_of(r.chain, None)) for r in plan.readings]
        alive = None if all(slab.alive) else np.array(slab.alive, bool)
        columns = {name: column_of([getattr(one, name) or None for one in records]) for name in ("title", "text")}
        views.append(SlabView(indexes, alive, len(records), columns.__getitem__))
    statistics = [
        statistics_of([(view.indexes[number], view.alive) for view in views]) for number in range(len(plan.readings))
    ]
    prepared = prepare_slabs(plan, statistics, views)
    lists = [
        search(own, top, order_of(slab, ranker), Workspace(len(slab.records)))
        for own, slab in zip(prepared, slabs, strict=True)
    ]

    def place(slab: int, record_id: int) -> tuple[object, ...]:
        key, record = list(slabs[slab].records.items())[record_id]
        return (*(place_of_value(record.asked, by.descending) for by in ranker.equals_by), key)

    found = join(lists, top, place)
    for row in found.rows:
        assert why(prepared[row.slab], row.record_id).score == row.score
    return [(list(slabs[row.slab].records)[row.record_id], row.score) for row in found.rows], found.matched


def index_of(records: list[Made], name: str, chain: Chain) -> ReadingIndex:
    return build_index([[text] if (text := getattr(record, name)) else [] for record in records], chain)


def order_of(slab: Slab, ranker: Ranker) -> np.ndarray:
    columns = [([record.asked for record in slab.records.values()], by.descending) for by in ranker.equals_by]
    return order_of_equals(columns, len(slab.records))


@given(steps=changes, ranker=rankers(), query=queries(), top=st.integers(1, 10))
def test_slabs_rank_as_one_build_ranks_to_the_last_digit(
    steps: list[dict[str, Made | None]], ranker: Ranker, query: str, top: int
):
    slabs, truth = slabs_after(steps)
    if not slabs:
        return
    assert ranked(slabs, ranker, query, top) == ranked([Slab(truth)], ranker, query, top)


@given(steps=changes, chain=chains(), name=st.sampled_from(["title", "text"]))
def test_joined_slabs_are_the_index_of_one_build(steps: list[dict[str, Made | None]], chain: Chain, name: str):
    slabs, truth = slabs_after(steps)
    place = {key: number for number, key in enumerate(sorted(truth))}
    parts = []
    for slab in slabs:
        ids = [place[key] if lives else -1 for key, lives in zip(slab.records, slab.alive, strict=True)]
        parts.append((index_of(list(slab.records.values()), name, chain), np.array(ids, np.int32)))
    found = merged_index(parts, len(truth))
    expected = index_of([truth[key] for key in sorted(truth)], name, chain)
    assert list(found.vocabulary) == list(expected.vocabulary)
    for array in (*ARRAYS, "starts", "ends", "spans", "lengths"):
        assert getattr(found, array).tolist() == getattr(expected, array).tolist(), array


@given(values=values(), chain=chains(), share=st.floats(0, 1))
def test_indexes_of_two_parts_one_behind_the_other_are_that_of_one_build(
    values: list[list[str]], chain: Chain, share: float
):
    cut = round(share * len(values))
    found = appended_index(build_index(values[:cut], chain), build_index(values[cut:], chain))
    expected = build_index(values, chain)
    assert list(found.vocabulary) == list(expected.vocabulary)
    for array in (*ARRAYS, "starts", "ends", "spans", "lengths"):
        assert getattr(found, array).tolist() == getattr(expected, array).tolist(), array
        assert getattr(found, array).dtype == getattr(expected, array).dtype, array


def test_a_span_in_one_part_alone_is_kept_beside_those_of_one_position():
    chain = chain_of("words > word_grams(2, 2)")
    found = appended_index(build_index([["fog"]], chain), build_index([["salt pan"], []], chain))
    assert [found.vocabulary.term(number) for number in range(4)] == ["fog", "pan", "salt", "salt pan"]
    assert (found.spans.tolist(), found.record_ids.tolist()) == ([1, 1, 1, 2], [0, 1, 1, 1])
    assert found.lengths.tolist() == [1, 3, 0]


@given(values=values(), chain=chains())
def test_an_index_joined_with_nothing_is_itself(values: list[list[str]], chain: Chain):
    index = build_index(values, chain)
    again = merged_index([(index, np.arange(len(values), dtype=np.int32))], len(values))
    assert again.occurrence_count == index.occurrence_count
    assert again.positions.tolist() == index.positions.tolist()


@given(sizes=st.lists(st.integers(1, 2_000), min_size=1, max_size=400))
def test_however_records_come_there_are_few_slabs(sizes: list[int]):
    slabs: list[int] = []
    written = 0
    for size in sizes:
        slabs.append(size)
        first = first_to_join(slabs, [0] * len(slabs))
        written += sum(slabs[first:]) if first < len(slabs) else size
        slabs = [*slabs[:first], sum(slabs[first:])] if first < len(slabs) else slabs
        assert all(before > 4 * after for before, after in pairwise(slabs))
    assert len(slabs) <= 12
    assert written <= sum(sizes) * 40


def test_a_slab_of_many_dead_is_written_anew():
    assert first_to_join([1_000, 100], [200, 0]) == 2
    assert first_to_join([1_000, 100], [300, 0]) == 0
    assert first_to_join([1_000, 100], [0, 30]) == 1
    assert first_to_join([0], [5]) == 0
