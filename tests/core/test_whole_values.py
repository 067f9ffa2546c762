"""`=value`: what a field's value says as a whole, however it is written."""

import numpy as np
import pytest

from pale_harbor.core.index import build_index
from pale_harbor.core.query import parse_query
from pale_harbor.core.query.words import value_chain
from pale_harbor.core.ranking import (
    PreparedQuery,
    Ranker,
    Reading,
    SlabView,
    Workspace,
    plan_of,
    prepare_slabs,
    search,
    statistics_of,
    why,
)
from pale_harbor.core.ranking.preparing import no_columns
from pale_harbor.core.text import chain_of

TITLES = [["Fog bell"], ["Fog"], ["FÓG ", "bell"], ["fog, bell"], ["The fog bell"], [" fog  "], []]
CHAIN = chain_of("words > lower > stopwords(en) > stem(en)")
RANKER = Ranker(readings=(Reading(field="title", chain=CHAIN, query_chain=CHAIN, weight=2.0),))


def asked(query: str) -> PreparedQuery:
    plan = plan_of(parse_query(query, ["title"]), RANKER)
    indexes = [build_index(TITLES, reading.chain) for reading in plan.readings]
    statistics = [statistics_of([(index, None)]) for index in indexes]
    (prepared,) = prepare_slabs(plan, statistics, [SlabView(indexes, None, len(TITLES), no_columns)])
    return prepared


def found(query: str) -> list[int]:
    order = np.arange(len(TITLES), dtype=np.int32)
    return sorted(search(asked(query), 10, order, Workspace(len(TITLES))).record_ids.tolist())


@pytest.mark.parametrize(
    ("query", "records"),
    [
        ("=fog", [1, 2, 5]),
        ("=FÓG", [1, 2, 5]),
        ('="fog bell"', [0]),
        ('="fog, bell"', [3]),
        ("=bell", [2]),
        ('title:="Fog bell"', [0]),
        ('="the fog bell"', [4]),
        ("=bells", []),
        ("=fo", []),
        ("fog -=fog", [0, 3, 4]),
        ("=fog OR =bell", [1, 2, 5]),
        ('"fog bell" -="fog bell"', [3, 4]),
    ],
)
def test_a_whole_value_is_met_whatever_its_case_accents_and_outer_blanks(query: str, records: list[int]):
    assert found(query) == records


def test_whole_values_are_read_by_a_reading_of_their_own_as_heavy_as_the_fields():
    plan = plan_of(parse_query('=fog "fog bell"'), RANKER)
    assert [reading.chain for reading in plan.readings[1:]] == [value_chain(), plan.readings[2].chain]
    assert [reading.weight for reading in plan.readings] == [2.0, 2.0, 2.0]


def test_why_says_which_whole_value_was_asked_for():
    told = why(asked("=fog"), 1)
    assert [(word.word, word.held) for word in told.words] == [("=“fog”", True)]
