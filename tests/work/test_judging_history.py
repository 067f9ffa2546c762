"""Whatever is said, taken back, settled, ruled, added and dropped, in any order: the grades that count follow from it,
and every revision can be read again as it was."""

from collections.abc import Generator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from itertools import count
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pale_harbor.core.judging import GivenGrade, Settling, settled_grade
from pale_harbor.errors import HarborError
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery, grades_of, queries_of, set_named
from pale_harbor.work.judging.set_files import export, put_judged_set
from pale_harbor.work.judging.sets import change_rules, drop_query, make_judged_set, put_query
from pale_harbor.work.judging.standing import settle
from pale_harbor.work.judging.tasks import Said, engineer_says
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

START = datetime(2031, 5, 17, 9, 30, tzinfo=UTC)
QUERIES, RECORDS, JUDGES = ("q1", "q2"), ("r1", "r2"), ("Ada", "Bo", "Cy")
_numbers = count(1)


@dataclass
class Truth:
    """What a set should hold, kept the plain way. said: by query, record and judge: when, and the grade or nothing."""

    queries: set[str] = field(default_factory=set[str])
    said: dict[tuple[str, str, str], tuple[int, int | None]] = field(default_factory=dict[Any, Any])
    by_hand: dict[tuple[str, str], int] = field(default_factory=dict[Any, Any])
    rule: Settling = Settling.MEDIAN

    def grades(self) -> dict[str, dict[str, int]]:
        found: dict[str, dict[str, int]] = {}
        for pair in sorted({*self.by_hand, *((query, record) for query, record, _ in self.said)}):
            given_grades = [
                GivenGrade(judge, grade, at)
                for (query, record, judge), (at, grade) in self.said.items()
                if (query, record) == pair and grade is not None
            ]
            grade = self.by_hand.get(pair, settled_grade(given_grades, self.rule))
            if grade is not None:
                found.setdefault(pair[0], {})[pair[1]] = grade
        return found


@dataclass(frozen=True)
class Say:
    query: str
    record: str
    judge: str
    at: int
    grade: int | None
    back: bool

    def __call__(self, bench: Workbench, name: str, truth: Truth) -> None:
        said = Said(
            query_id=self.query,
            record_key=self.record,
            grade=self.grade,
            note="",
            at=START + timedelta(seconds=self.at),
            taken_back=self.back,
        )
        if self.query not in truth.queries:
            with pytest.raises(HarborError, match="has no query"):
                engineer_says(bench, "coast", name, self.judge, [said])
            return
        engineer_says(bench, "coast", name, self.judge, [said])
        key = (self.query, self.record, self.judge)
        if key not in truth.said or truth.said[key][0] < self.at:
            truth.said[key] = (self.at, None if self.back else self.grade)


@dataclass(frozen=True)
class Settle:
    query: str
    record: str
    grade: int | None

    def __call__(self, bench: Workbench, name: str, truth: Truth) -> None:
        if self.query not in truth.queries:
            with pytest.raises(HarborError, match="has no query"):
                settle(bench, "coast", name, self.query, self.record, self.grade, "")
            return
        settle(bench, "coast", name, self.query, self.record, self.grade, "")
        truth.by_hand.pop((self.query, self.record), None)
        if self.grade is not None:
            truth.by_hand[self.query, self.record] = self.grade


@dataclass(frozen=True)
class Rule:
    rule: Settling

    def __call__(self, bench: Workbench, name: str, truth: Truth) -> None:
        change_rules(bench, "coast", name, self.rule, 0.0, [])
        truth.rule = self.rule


@dataclass(frozen=True)
class Put:
    query: str
    text: str

    def __call__(self, bench: Workbench, name: str, truth: Truth) -> None:
        put_query(bench, "coast", name, SetQuery(query_id=self.query, query=self.text))
        truth.queries.add(self.query)


@dataclass(frozen=True)
class Drop:
    query: str

    def __call__(self, bench: Workbench, name: str, truth: Truth) -> None:
        if self.query not in truth.queries:
            with pytest.raises(HarborError, match="has no query"):
                drop_query(bench, "coast", name, self.query)
            return
        drop_query(bench, "coast", name, self.query)
        truth.queries.remove(self.query)
        truth.said = {key: value for key, value in truth.said.items() if key[0] != self.query}
        truth.by_hand = {pair: grade for pair, grade in truth.by_hand.items() if pair[0] != self.query}


queries, records = st.sampled_from(QUERIES), st.sampled_from(RECORDS)
grades = st.none() | st.integers(0, 3)
steps = st.lists(
    st.one_of(
        st.builds(Say, queries, records, st.sampled_from(JUDGES), st.integers(0, 20), grades, st.booleans()),
        st.builds(Settle, queries, records, grades),
        st.builds(Rule, st.sampled_from(Settling)),
        st.builds(Put, queries, st.sampled_from(["fog bell", "harpoon"])),
        st.builds(Drop, queries),
    ),
    max_size=14,
)


@pytest.fixture(scope="module")
def bench(cluster: Any, tmp_path_factory: pytest.TempPathFactory) -> Generator[Workbench]:
    make_database(cluster, "judging_history")
    folder = tmp_path_factory.mktemp("judging history")
    with open_pool(cluster.address("judging_history")) as pool:
        load_rows(pool, folder, [{"id": key, "title": f"Lamp {key}"} for key in RECORDS])
        yield Workbench(pool, folder / "indexes")


def state(
    bench: Workbench, name: str, revision: int | None = None
) -> tuple[JudgedSet, dict[str, dict[str, int]], list[SetQuery]]:
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, "coast").id, name)
        return kept, grades_of(connection, kept.id, revision), queries_of(connection, kept.id, revision)


@settings(max_examples=60)
@given(steps=steps)
def test_the_grades_that_count_follow_from_what_was_said_and_each_revision_stays_as_it_was(
    bench: Workbench, steps: list[Any]
):
    name, truth = f"set{next(_numbers)}", Truth()
    make_judged_set(bench, "coast", name, 0.0)
    for query in QUERIES:
        Put(query, "fog bell")(bench, name, truth)
    seen: dict[int, tuple[dict[str, dict[str, int]], list[SetQuery]]] = {}
    for step in steps:
        step(bench, name, truth)
        kept, found, listed = state(bench, name)
        assert found == truth.grades(), step
        assert {one.query_id for one in listed} == truth.queries
        # What differs has another revision, so that a measurement can name it.
        assert seen.setdefault(kept.revision, (found, listed)) == (found, listed), step
    for revision, (found, listed) in seen.items():
        assert state(bench, name, revision)[1:] == (found, listed)
    # Its files make the same set.
    again, files = f"{name}-again", export(bench, "coast", name, "csv")
    put_judged_set(bench, "coast", again, queries_in(files[0], "queries"), judgments_in(files[1], "judgments"))
    change_rules(bench, "coast", again, truth.rule, 0.0, [])
    assert state(bench, again)[1:] == state(bench, name)[1:]
    assert export(bench, "coast", again, "csv") == files
