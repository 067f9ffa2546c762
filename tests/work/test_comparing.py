"""Measuring and comparing on a real database: frozen runs, locked queries, looks, expectations, what to judge next."""

from collections.abc import Generator
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest

from pale_harbor import __version__
from pale_harbor.core.comparing import ALPHA, holm
from pale_harbor.core.judging import expectation
from pale_harbor.core.measures import Measure, MeasureRules, Unjudged, WithoutRelevant, measure
from pale_harbor.errors import NotFound, Unavailable
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.owner_page import OwnerFacts, owner_page
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.store.judging.judged_sets import SetQuery, set_named
from pale_harbor.store.measuring.diary import diary_of, looks_at, write_entry
from pale_harbor.store.measuring.runs import runs_of
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.judging.expecting import expect, expect_no_more
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.judging.sets import put_query
from pale_harbor.work.judging.tasks import Said, engineer_says
from pale_harbor.work.measuring.compared import RankerSide
from pale_harbor.work.measuring.comparing import FEW, TELLING, HeadToHead, QueryRow, head_to_head, overview, says_little
from pale_harbor.work.measuring.judged import Part
from pale_harbor.work.measuring.measuring import Figures, How, figures_of, measure_ranker, measure_run
from pale_harbor.work.measuring.outside import bring_run
from pale_harbor.work.measuring.owner_facts import owner_facts, points
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows
from tests.work.test_judging import RECORDS, TODAY

NDCG, JUDGED = measure("ndcg@10"), measure("judged@10")
QUERIES = """{"query_id": "q1", "query": "fog bell", "tags": ["two words"], "asked": 90}
{"query_id": "q2", "query": "quay", "tags": ["one word"], "asked": 10}
{"query_id": "q3", "query": "bells", "tags": ["one word"]}
{"query_id": "q4", "query": "lamp", "locked": true}
{"query_id": "q5", "query": "fog", "filters": [{"field": "title", "one_of": ["Fog signal"]}]}
{"query_id": "q6", "query": "penguin", "nothing_to_find": true}
"""
GRADES = "q1 0 r0 3\nq1 0 r1 1\nq2 0 r5 2\nq3 0 r3 3\nq3 0 r1 1\nq4 0 r2 3\nq5 0 r6 1\n"
FIRST, SECOND = RankerSide(RankerChoice("titles", 1)), RankerSide(RankerChoice("all", 1))


@pytest.fixture(scope="module")
def bench(cluster: Any, tmp_path_factory: pytest.TempPathFactory) -> Generator[Workbench]:
    """One collection and two rankers for the tests of this file; each has a judged set of its own."""
    make_database(cluster, "comparing")
    folder = tmp_path_factory.mktemp("comparing")
    with open_pool(cluster.address("comparing")) as pool:
        own = Workbench(pool, folder / "indexes")
        load_rows(pool, folder, RECORDS)
        title, text = ({"field": field, "chain": "words > lower > stem(en)"} for field in ("title", "text"))
        own.put_ranker("coast", "titles", ranker_document({"readings": [title]}))
        own.put_ranker("coast", "all", ranker_document({"readings": [title, text]}))
        yield own


@pytest.fixture
def judged(bench: Workbench, request: pytest.FixtureRequest) -> str:
    name = f"s{abs(hash(request.node.name)) % 10**9}"
    put_judged_set(bench, "coast", name, queries_in(QUERIES, "queries"), judgments_in(GRADES, "grades"))
    return name


def counted_looks(bench: Workbench, name: str) -> int:
    with bench.pool.connection() as connection:
        return looks_at(connection, set_named(connection, collection_named(connection, "coast").id, name).id)


def compared(bench: Workbench, name: str, how: How | None = None) -> HeadToHead:
    return head_to_head(bench, "coast", name, FIRST, SECOND, NDCG, how or How(bands=True))


def test_locked_queries_are_measured_only_when_they_are_asked_for(bench: Workbench, judged: str):
    values = {
        part: set(
            measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG], How(part=part)).measured.per_query
        )
        for part in Part
    }
    assert values[Part.LOCKED] == {"q4"}
    assert values[Part.OPEN] == {"q1", "q2", "q3", "q5", "q6"}
    assert values[Part.ALL] == values[Part.OPEN] | values[Part.LOCKED]


def test_each_opening_of_the_locked_queries_is_in_the_diary_and_forgets_no_look_at_the_open_ones(
    bench: Workbench, judged: str
):
    for ranker in ("all", "titles", "all"):
        measure_ranker(bench, "coast", RankerChoice(ranker), judged, [NDCG])
    assert counted_looks(bench, judged) == 2
    draft = ranker_document({"readings": [{"field": "title", "chain": "words", "weight": 3}]})
    measure_ranker(bench, "coast", RankerChoice(document=draft), judged, [NDCG])
    assert compared(bench, judged).looks == 3
    opened = compared(bench, judged, How(part=Part.LOCKED))
    assert (opened.comparison.queries, opened.looks) == (1, 3)
    # What they said is part of every verdict over the same two from now on, and of the diary.
    assert opened.verdict.locked is not None
    assert (opened.verdict.locked.queries, opened.verdict.locked.tries) == (1, 1)
    with bench.pool.connection() as connection:
        entries = diary_of(connection, collection_named(connection, "coast").id)
    mine = [one for one in entries if one.details.get("set") == judged]
    assert [(one.kind, one.title) for one in mine] == [
        ("locked look", f"The locked queries of {judged} were opened for titles:1 and all:1.")
    ]
    assert counted_looks(bench, judged) == 3
    (entry,) = mine
    assert entry.body.startswith("ndcg@10: The difference is within luck. 5 open queries: ")
    assert "1 locked query: " in entry.body
    again = compared(bench, judged)
    assert again.looks == 3
    assert again.verdict == opened.verdict
    assert again.headline == opened.headline
    today = datetime.now(UTC).date().isoformat()
    assert f"1 locked query, opened {today}: " in again.reasons[1]
    # By another measure, or of the two the other way round, they were not opened.
    by_another = head_to_head(bench, "coast", judged, FIRST, SECOND, measure("rr@10"), How())
    assert by_another.verdict.locked is None
    assert by_another.reasons[1] == "1 locked query was opened for these two by another measure or other rules."
    assert "not looked at" not in " ".join(owner_facts(bench, "coast", judged, by_another).sentences)
    turned_round = head_to_head(bench, "coast", judged, SECOND, FIRST, NDCG, How())
    assert turned_round.verdict.locked is None
    assert turned_round.reasons[1] == "1 locked query was not opened for these two."


def test_each_pair_that_the_locked_queries_were_opened_for_is_a_try_of_theirs(bench: Workbench, judged: str):
    def tries(first: RankerSide, second: RankerSide) -> int:
        found = head_to_head(bench, "coast", judged, first, second, NDCG, How(part=Part.LOCKED))
        assert found.verdict.locked is not None
        return found.verdict.locked.tries

    draft = RankerSide(
        RankerChoice("all", document=ranker_document({"readings": [{"field": "title", "chain": "words"}]}))
    )
    assert tries(FIRST, SECOND) == 1
    # To look once more is no further try.
    assert tries(FIRST, SECOND) == 1
    assert tries(FIRST, draft) == 2
    # Measured alone they are looked at too.
    measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG], How(part=Part.LOCKED))
    assert tries(SECOND, draft) == 4
    # What was said first was said when it was the first.
    known = compared(bench, judged).verdict.locked
    assert known is not None
    assert known.tries == 1


def test_what_was_opened_before_it_was_kept_what_was_said_was_opened_all_the_same(bench: Workbench, judged: str):
    def opened_as(*rankers: str) -> bool:
        details = {"set": judged, "rankers": list(rankers)}
        with bench.pool.connection() as connection:
            collection = collection_named(connection, "coast").id
            write_entry(connection, collection, "locked look", "Opened.", "", details)
        return compared(bench, judged).locked_opened

    assert not compared(bench, judged).locked_opened
    assert not opened_as("all:1", "titles:1")
    assert opened_as("titles:1", "all:1")
    found = compared(bench, judged)
    assert found.verdict.locked is None
    assert "was opened for these two by another measure or other rules" in found.reasons[1]


def test_one_from_outside_is_no_ranker_that_was_tried(bench: Workbench, judged: str):
    bring_run(bench, "coast", "old", judged, "q1 Q0 r1 1 2.5 x\n", "old.txt")
    outside = RankerSide(outside="old")

    def tries() -> int:
        found = head_to_head(bench, "coast", judged, outside, SECOND, NDCG, How()).verdict.open
        assert found is not None
        return found.tries

    assert tries() == 1
    measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG])
    assert tries() == 2


def test_the_first_ranker_is_no_try_of_its_own(bench: Workbench, judged: str):
    found = compared(bench, judged)
    assert found.looks == 2
    assert found.verdict.open is not None
    assert (found.verdict.open.tries, found.verdict.open.by_luck) == (1, found.comparison.randomisation)
    draft = ranker_document({"readings": [{"field": "title", "chain": "words", "weight": 3}]})
    measure_ranker(bench, "coast", RankerChoice(document=draft), judged, [NDCG])
    again = compared(bench, judged)
    assert again.verdict.open is not None
    assert again.verdict.open.tries == 2
    assert "2 rankers were tried on them" in again.reasons[0]


def test_without_a_locked_query_nothing_is_opened_and_no_entry_is_due(bench: Workbench):
    put_judged_set(bench, "coast", "unlocked", queries_in("q1\tfog bell\n", "queries"), None)
    for part in Part:
        measure_ranker(bench, "coast", RankerChoice("titles"), "unlocked", [NDCG], How(part=part))
    with bench.pool.connection() as connection:
        entries = diary_of(connection, collection_named(connection, "coast").id)
    assert [one.title for one in entries if one.details.get("set") == "unlocked"] == []


def test_a_run_of_another_program_version_is_not_used_again(bench: Workbench, judged: str):
    def versions() -> list[str]:
        with bench.pool.connection() as connection:
            rows = connection.execute(
                """
                select program_version from runs join judged_sets on judged_sets.id = set_id
                where judged_sets.name = %s order by runs.id
                """,
                [judged],
            )
            return [version for (version,) in rows]

    for _ in range(2):
        measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG])
    assert versions() == [__version__]
    with bench.pool.connection() as connection:
        connection.execute("update runs set program_version = '0.0.9' where program_version = %s", [__version__])
    measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG])
    assert versions() == ["0.0.9", __version__]


def test_two_drafts_of_one_name_are_two_looks(bench: Workbench, judged: str):
    drafts = [
        RankerSide(RankerChoice("all", document=ranker_document({"readings": [{"field": "title", "chain": chain}]})))
        for chain in ("words > lower", "words")
    ]
    overview(bench, "coast", judged, drafts, [NDCG], How())
    assert counted_looks(bench, judged) == 2


def test_one_document_that_reads_a_newer_word_list_is_another_look(bench: Workbench, judged: str):
    document = ranker_document({"readings": [{"field": "title", "chain": "words > lower > synonyms(@sea)"}]})
    for version, text in enumerate(["gong", "horn"], start=1):
        put_list(bench, "coast", "sea", f"words,means,way\nbell,{text},both\n", None)
        bench.put_ranker("coast", "synonyms", document)
        for _ in range(2):
            measure_ranker(bench, "coast", RankerChoice("synonyms", version), judged, [NDCG])
        assert counted_looks(bench, judged) == version
    with bench.pool.connection() as connection:
        collection = collection_named(connection, "coast").id
        runs = runs_of(connection, set_named(connection, collection, judged).id)
    # Its frozen run is the same ranker, in the versions that it reads.
    for run in runs:
        measure_run(bench, "coast", judged, run.id, [NDCG])
    assert (len(runs), counted_looks(bench, judged)) == (2, 2)


def test_a_frozen_run_that_is_measured_again_is_a_look_like_any_other(bench: Workbench, judged: str):
    measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG])
    with bench.pool.connection() as connection:
        collection = collection_named(connection, "coast").id
        run = runs_of(connection, set_named(connection, collection, judged).id)[0]
    figures, _ = measure_run(bench, "coast", judged, run.id, [NDCG], how=How(part=Part.LOCKED))
    assert set(figures.measured.per_query) == {"q4"}
    with bench.pool.connection() as connection:
        newest = diary_of(connection, collection)[0]
    assert newest.title == f"The locked queries of {judged} were opened for all:1."
    # Who asks for nothing but the locked ones looks at no open one.
    assert counted_looks(bench, judged) == 1
    measure_run(bench, "coast", judged, run.id, [NDCG])
    assert counted_looks(bench, judged) == 1


def test_a_querys_filters_hold_when_it_is_measured(bench: Workbench, judged: str):
    measured = measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG])
    assert measured.figures.matched["q5"] == 1
    assert measured.measured.per_query["q5"]["ndcg@10"] == 1


def test_a_filter_on_a_field_that_is_gone_is_told(bench: Workbench, judged: str):
    put_query(
        bench, "coast", judged, SetQuery(query_id="q2", query="quay", filters=[{"field": "gone", "one_of": ["x"]}])
    )
    found = measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG])
    assert found.figures.matched["q2"] == 0
    assert found.notes == ['A judged query is filtered by a field that there is not, so that nothing is found: "gone".']


def test_a_query_may_count_as_often_as_it_is_asked_and_nothing_to_find_as_the_rule_says(bench: Workbench, judged: str):
    plain = measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG]).measured
    weighted = measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG], How(weighted=True)).measured
    weights = {"q1": 90, "q2": 10, "q3": 1, "q5": 1, "q6": 1}
    values = {query: own["ndcg@10"] for query, own in plain.per_query.items()}
    assert values["q6"] == 0
    assert plain.means["ndcg@10"] == pytest.approx(sum(values.values()) / 5)
    assert weighted.means["ndcg@10"] == pytest.approx(
        sum(weights[query] * value for query, value in values.items()) / 103
    )
    empty = How(rules=MeasureRules(without_relevant=WithoutRelevant.EMPTY_IS_RIGHT))
    right = measure_ranker(bench, "coast", RankerChoice("titles"), judged, [NDCG], empty).measured
    assert right.per_query["q6"]["ndcg@10"] == 1


def test_how_much_is_unjudged_stands_beside_every_figure_with_its_band(bench: Workbench, judged: str):
    figures = measure_ranker(
        bench, "coast", RankerChoice("all"), judged, [NDCG, measure("precision@1")], How(bands=True)
    ).figures
    assert 0 < figures.unjudged["precision@1"] < figures.unjudged["ndcg@10"] < 1
    for name, band in figures.bands.items():
        assert band.worst <= figures.measured.means[name] <= band.best
    left_out = How(rules=MeasureRules(unjudged=Unjudged.LEFT_OUT), bands=True)
    without = measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG], left_out).figures
    assert without.measured.means["ndcg@10"] >= figures.measured.means["ndcg@10"]
    assert without.bands == {}


def test_a_frozen_run_measured_in_its_revision_gives_the_same_digits_after_everything_changed(
    bench: Workbench, judged: str
):
    before = measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG, JUDGED])
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, "coast").id, judged)
        run = runs_of(connection, kept.id)[0]
    assert (run.ranker, run.version, run.queries_revision) == ("all", 1, kept.queries_revision)
    engineer_says(
        bench,
        "coast",
        judged,
        "Ada",
        [Said(query_id="q1", record_key="r6", grade=3, note="", at=TODAY, taken_back=False)],
    )
    put_query(bench, "coast", judged, SetQuery(query_id="q7", query="sextant"))
    again, revision = measure_run(bench, "coast", judged, run.id, [NDCG, JUDGED], before.made_of.judged_revision)
    assert (again.measured, revision) == (before.measured, before.made_of.judged_revision)
    now, newest = measure_run(bench, "coast", judged, run.id, [NDCG])
    assert now.measured.means["ndcg@10"] != before.measured.means["ndcg@10"]
    assert newest == before.made_of.judged_revision + 2
    with pytest.raises(NotFound, match=f"Its newest is {newest}"):
        measure_run(bench, "coast", judged, run.id, [NDCG], newest + 1)
    with pytest.raises(NotFound, match="There is no run 999999"):
        measure_run(bench, "coast", judged, 999_999, [NDCG])


def test_a_grade_more_uses_the_frozen_lists_and_a_query_more_makes_new_ones(bench: Workbench, judged: str):
    def runs() -> int:
        measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG])
        with bench.pool.connection() as connection:
            return len(runs_of(connection, set_named(connection, collection_named(connection, "coast").id, judged).id))

    assert runs() == 1
    engineer_says(
        bench, "coast", judged, "", [Said(query_id="q2", record_key="r2", grade=1, note="", at=TODAY, taken_back=False)]
    )
    assert runs() == 1
    put_query(bench, "coast", judged, SetQuery(query_id="q7", query="sextant"))
    assert runs() == 2


def test_broken_expectations_are_listed_with_every_measurement(bench: Workbench, judged: str):
    expect(bench, "coast", judged, "q1", expectation("among_first", "r0", 1, ""))
    expect(bench, "coast", judged, "q2", expectation("among_first", "r7", 3, "a visitor said so"))
    expect(bench, "coast", judged, "q1", expectation("never", "r6", None, ""))
    expect(bench, "coast", judged, "q3", expectation("more_than", None, 99, ""))
    expect(bench, "coast", judged, "q6", expectation("nothing", None, None, ""))
    last = expect(bench, "coast", judged, "q2", expectation("nothing", None, None, ""))
    figures = measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG]).figures
    assert [(one.expectation.kind, one.instead) for one in figures.broken] == [
        ("among_first", "it is not among the first 2 found"),
        ("never", "it stands at 3"),
        ("more_than", "3 are found"),
        ("nothing", "2 are found"),
    ]
    expect_no_more(bench, "coast", judged, last)
    assert len(measure_ranker(bench, "coast", RankerChoice("all"), judged, [NDCG]).figures.broken) == 3


def test_several_rankers_are_compared_with_the_first(bench: Workbench, judged: str):
    bring_run(bench, "coast", "old", judged, "q1 Q0 r0 1 2.0 old\nq3 Q0 r1 1 1.0 old\nq9 Q0 r1 1 1.0 old\n", "old.txt")
    found = overview(bench, "coast", judged, [FIRST, SECOND, RankerSide(outside="old")], [NDCG, JUDGED], How())
    assert [row.name for row in found.rows] == ["titles:1", "all:1", "old"]
    assert (found.queries, found.locked) == (5, 1)
    assert found.rows[0].against_first == {}
    for row in found.rows:
        mean = row.figures.measured.means["ndcg@10"]
        assert row.intervals["ndcg@10"].low <= mean <= row.intervals["ndcg@10"].high
    gain, p_value, corrected = found.rows[1].against_first["ndcg@10"]
    means = [row.figures.measured.means["ndcg@10"] for row in found.rows]
    assert gain == pytest.approx(means[1] - means[0])
    assert corrected >= p_value
    assert found.rows[2].notes == ["old has no list for 3 queries: they count as empty lists."]
    with pytest.raises(NotFound, match=r"There is no outside ranker \"new\"\. There are: old\."):
        overview(bench, "coast", judged, [RankerSide(outside="new")], [NDCG], How())
    put_judged_set(bench, "coast", f"{judged}-b", queries_in(QUERIES, "queries"), [])
    with pytest.raises(Unavailable, match='"old" has no lists for'):
        overview(bench, "coast", f"{judged}-b", [RankerSide(outside="old")], [NDCG], How())


def test_a_frozen_run_is_measured_once_in_a_revision_and_a_draft_at_every_look(
    bench: Workbench, judged: str, monkeypatch: pytest.MonkeyPatch
):
    measured: list[int] = []

    def counted(*given: Any) -> Figures:
        measured.append(len(given))
        return figures_of(*given)

    monkeypatch.setattr("pale_harbor.work.measuring.compared.figures_of", counted)
    plain = ranker_document({"readings": [{"field": "text", "chain": "words"}]})
    draft = RankerSide(RankerChoice("titles", 1, plain))

    def looked(how: How, *measures: Measure) -> list[float]:
        measured.clear()
        rows = overview(bench, "coast", judged, [FIRST, SECOND, draft], measures, how).rows
        return [row.figures.measured.means["ndcg@10"] for row in rows]

    first = looked(How(), NDCG)
    assert len(measured) == 3
    assert looked(How(), NDCG) == first
    assert len(measured) == 1
    # Other measures, other rules and another revision are measured.
    looked(How(), NDCG, JUDGED)
    assert len(measured) == 3
    looked(How(weighted=True), NDCG)
    assert len(measured) == 3
    engineer_says(
        bench,
        "coast",
        judged,
        "Ada",
        [
            Said(query_id="q3", record_key="r1", grade=0, note="", at=TODAY, taken_back=False),
            Said(query_id="q3", record_key="r0", grade=3, note="", at=TODAY, taken_back=False),
        ],
    )
    assert looked(How(), NDCG) != first
    assert len(measured) == 3


@pytest.mark.parametrize(
    ("queries", "detectable", "corrected", "little"),
    [
        (FEW - 1, 0.01, 0.001, True),
        (FEW, 0.01, 0.001, False),
        (FEW, TELLING, 0.5, False),
        (FEW, TELLING + 0.001, 0.5, True),
        (FEW, TELLING + 0.001, ALPHA, True),
        (FEW, TELLING + 0.001, ALPHA - 0.001, False),
        (FEW, None, 0.5, True),
    ],
)
def test_a_slice_says_little_of_few_queries_or_where_it_is_blunt(
    queries: int, detectable: float | None, corrected: float, little: bool
):
    assert (FEW, TELLING, ALPHA) == (10, 0.1, 0.05)
    assert says_little(queries, detectable, corrected) == little


def test_head_to_head_tells_gains_slices_differences_and_what_to_judge_next(bench: Workbench, judged: str):
    found = compared(bench, judged)
    assert found.names == ("titles:1", "all:1")
    assert found.comparison.gain == pytest.approx(
        found.figures[1].measured.means["ndcg@10"] - found.figures[0].measured.means["ndcg@10"]
    )
    assert {row.query_id: row.second > row.first for row in found.queries}["q2"]
    assert {one.tag: one.comparison.queries for one in found.slices} == {"one word": 2, "two words": 1}
    assert all(one.says_little for one in found.slices)
    assert [one.corrected for one in found.slices] == holm([one.comparison.randomisation for one in found.slices])
    assert {one.tag: one.unjudged for one in found.slices} == {
        tag: sum(row.unjudged for row in found.queries if tag in row.tags) for tag in ("one word", "two words")
    }
    assert sum(row.unjudged for row in found.queries) == found.open_in_all
    assert [one.words for one in found.differences] == ["new reading text, weight 1: words > lower > stem(en)"]
    assert 0 <= found.enough <= found.open_in_all == len(found.open) > 0
    assert {one.record for one in found.open} <= set(found.titles)
    # What would matter most is judged: then it is open no more, and the gain is what was said it would be.
    first = found.open[0]
    engineer_says(
        bench,
        "coast",
        judged,
        "",
        [Said(query_id=first.query, record_key=first.record, grade=3, note="", at=TODAY, taken_back=False)],
    )
    after = compared(bench, judged)
    assert after.comparison.gain - found.comparison.gain == pytest.approx(first.swing, abs=1e-9)
    assert first.record not in [one.record for one in after.open if one.query == first.query]


def test_the_owners_page_says_it_in_plain_words_and_markup_in_data_stays_text(bench: Workbench, judged: str):
    put_query(
        bench, "coast", judged, SetQuery(query_id="q2", query="quay | *loud* <b>", need="A | need", tags=["one word"])
    )
    expect(bench, "coast", judged, "q1", expectation("never", "r2", None, ""))
    found = compared(bench, judged)
    with bench.pool.connection() as connection:
        collection = collection_named(connection, "coast")
        rankers = list(found.names)
        write_entry(connection, collection.id, "decision", "Keep it.", "Texts help.", {"rankers": rankers})
    page = owner_page(owner_facts(bench, "coast", judged, found))
    assert page.startswith(
        "# Is the proposed search better than today's?\n\n**It cannot be told: the difference is within luck.**\n"
    )
    # Whoever reads it knows no ranker and no measure: these stand at the end, for those who do.
    plain, _, for_engineers = page.partition("## For whoever works on it")
    for word in ("titles:1", "all:1", "ndcg", "reading"):
        assert word not in plain
        assert word in for_engineers
    for piece in (
        "1 more search is kept back and was not looked at for this page.",
        "quay \\| \\*loud\\* \\<b\\>",
        "fog bell: never “Oil lamp”; it stands at 5 (today it holds)",
        "Keep it. Texts help.",
        "new reading text",
    ):
        assert piece in page, page
    assert "<b>" not in page.replace("\\<b\\>", "")


def test_the_owner_reads_of_the_greatest_losses_first_and_of_none_that_nobody_would_notice(
    bench: Workbench, judged: str
):
    def row(name: str, first: float, second: float) -> QueryRow:
        return QueryRow(query_id=name, query=name, tags=[], first=first, second=second, unjudged=0)

    # By how much was lost, whatever is left: low is the smallest and loses least; by 0.05 is counted only.
    rows = [row("low", 0.2, 0.1), row("least", 0.55, 0.5), row("most", 1.0, 0.4), row("some", 0.9, 0.6)]
    found = compared(bench, judged)

    def facts(queries: list[QueryRow]) -> OwnerFacts:
        return owner_facts(bench, "coast", judged, replace(found, queries=queries))

    told = facts(rows)
    assert [(one.query, one.before, one.after) for one in told.got_worse] == [
        ("most", "100", "40"),
        ("some", "90", "60"),
        ("low", "20", "10"),
    ]
    assert told.more_worse == "and 1 by 5 points or less"
    # None is dropped in silence; what shows as no difference is none.
    still = [row("still", 0.5, 0.4996), row("even", 0.5, 0.5), row("up", 0.1, 0.9)]
    assert (facts(still).got_worse, facts(still).more_worse) == ([], "")
    assert "No search." in owner_page(facts(still))
    slight = [*still, row("slight", 0.5, 0.4995)]
    assert (facts(slight).got_worse, facts(slight).more_worse) == ([], "1 by 5 points or less")
    assert "No search." not in owner_page(facts(slight))
    many = facts([row(f"q{number}", 0.9, 0.1) for number in range(11)] + slight)
    assert (len(many.got_worse), many.more_worse) == (8, "and 3 more, and 1 by 5 points or less")


def test_the_owner_reads_who_rated_and_what_the_kept_back_searches_said(bench: Workbench, judged: str):
    def sentences() -> list[str]:
        return owner_facts(bench, "coast", judged, compared(bench, judged)).sentences

    assert "results were rated; by whom is not known." in " ".join(sentences())
    for judge in ("Maud Ferrin", "Jonas Aakre"):
        grade = Said(query_id="q1", record_key="r1", grade=3, note="", at=TODAY, taken_back=False)
        engineer_says(bench, "coast", judged, judge, [grade])
    assert any(one.startswith("2 people rated results, ") and "it is not known who did" in one for one in sentences())
    kept_back = compared(bench, judged, How(part=Part.LOCKED))
    of_these = " ".join(owner_facts(bench, "coast", judged, kept_back).sentences)
    assert of_these.count("kept back") == 1
    assert "Over 1 search that had been kept back, today's search reaches " in of_these
    assert "Over the 5 searches for everyday looking they reach " in of_these
    told = " ".join(sentences())
    assert "1 search had been kept back for this question and was opened" in told
    assert "not looked at" not in told


@pytest.mark.parametrize(
    ("first", "second", "shown"),
    [
        (0.503, 0.597, ("50", "60")),
        (0.5, 0.5, ("50", "50")),
        (0.5031, 0.5047, ("50.3", "50.5")),
        (0.50311, 0.50342, ("50.31", "50.34")),
        (0.500001, 0.500002, ("50.00", "50.00")),
    ],
)
def test_points_have_as_many_digits_as_it_takes_to_tell_them_apart(first: float, second: float, shown: tuple[str, str]):
    assert points(first, second) == shown
