"""Judging on a real database: what judges say is kept, settled, told apart and never lost or doubled."""

import random
from collections.abc import Generator
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.judging import PoolItem, Settling, expectation, krippendorff_alpha, weighted_kappa
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery, grades_of, queries_of, set_named
from pale_harbor.work.judging.complaining import Complaint, complain
from pale_harbor.work.judging.expecting import expect, expect_no_more, expectations_by_query
from pale_harbor.work.judging.judges_page import judge_records
from pale_harbor.work.judging.set_files import export, put_judged_set
from pale_harbor.work.judging.sets import (
    add_listed,
    change_rules,
    drop_query,
    lock_away,
    make_judged_set,
    new_query,
    put_query,
)
from pale_harbor.work.judging.standing import confirm, settle, standing_of
from pale_harbor.work.judging.tasks import (
    Said,
    TaskWanted,
    change_task,
    engineer_says,
    judge_says,
    new_task,
    tasks,
    work_of_judge,
)
from pale_harbor.work.measuring.compared import RankerSide
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

TODAY = datetime(2031, 5, 17, 9, 30, tzinfo=UTC)
RECORDS = [
    {"id": f"r{i}", "title": title, "text": text}
    for i, (title, text) in enumerate(
        [
            ("Fog bell", "A bell for thick weather."),
            ("Fog horn", "Horns and bells."),
            ("Oil lamp", "It lit the quay, no fog."),
            ("Ship's bell", "Cast for a ferry."),
            ("Harpoon", "Thrown by hand."),
            ("Tide table", "High water at the quay."),
            ("Fog signal", "Fired every ten minutes in fog."),
            ("Sextant", "For the height of the sun."),
        ]
    )
]
QUERIES = "q1\tfog bell\nq2\tquay lamp\nq3\tharpoon\n"


@pytest.fixture(scope="module")
def bench(cluster: Any, tmp_path_factory: pytest.TempPathFactory) -> Generator[Workbench]:
    """One collection and one ranker for the tests of this file; each has a judged set of its own."""
    make_database(cluster, "judging")
    folder = tmp_path_factory.mktemp("judging")
    with open_pool(cluster.address("judging")) as pool:
        own = Workbench(pool, folder / "indexes")
        load_rows(pool, folder, RECORDS)
        readings = [{"field": field, "chain": "words > lower > stem(en)"} for field in ("title", "text")]
        own.put_ranker("coast", "first", ranker_document({"readings": readings}))
        yield own


@pytest.fixture
def judged(bench: Workbench, request: pytest.FixtureRequest) -> str:
    """The name of a set with three queries and no grade."""
    name = f"s{abs(hash(request.node.name)) % 10**9}"
    put_judged_set(bench, "coast", name, queries_in(QUERIES, "queries"), [])
    return name


def kept(bench: Workbench, name: str) -> tuple[JudgedSet, dict[str, dict[str, int]]]:
    with bench.pool.connection() as connection:
        found = set_named(connection, collection_named(connection, "coast").id, name)
        return found, grades_of(connection, found.id)


def task_of(bench: Workbench, name: str, **more: Any) -> dict[str, str]:
    """The judges' tokens of a new task over the ranker's first records."""
    wanted: dict[str, Any] = {"name": "a task", "judges": ("Ada", "Bo"), "sides": (RankerSide(RankerChoice("first")),)}
    # Of most tests every judge of a name is one person.
    wanted |= {"same": more.get("judges", wanted["judges"])} | more
    return {judge: link for (_, judge), link in new_task(bench, "coast", name, TaskWanted(**wanted)).items()}


def said(query: str, record: str, grade: int | None, seconds: int = 0, **more: Any) -> Said:
    return Said(
        query_id=query,
        record_key=record,
        grade=grade,
        note=more.get("note", ""),
        at=TODAY + timedelta(seconds=seconds),
        taken_back="back" in more,
        device=more.get("device"),
        order=more.get("order"),
    )


def test_a_task_gives_each_judge_a_part_of_the_pool_and_tells_no_ranks(bench: Workbench, judged: str):
    tokens = task_of(bench, judged, depth=5, twice=0.5)
    works = {judge: work_of_judge(bench, token) for judge, token in tokens.items()}
    items = [(query, key) for work in works.values() for query, keys in work.items.items() for key in keys]
    pool = set(items)
    assert {"q1", "q2", "q3"} == {query for query, _ in pool}
    assert len(items) == len(pool) + round(0.5 * len(pool))
    assert all(own.task.document["records"] == len(pool) for own in works.values())
    assert len(set(tokens.values())) == 2
    assert all(len(token) >= 20 for token in tokens.values())
    with pytest.raises(NotFound, match="This link leads to no judging task"):
        work_of_judge(bench, "guessed")


def test_a_judge_sees_records_with_the_querys_words_marked(bench: Workbench, judged: str):
    token = task_of(bench, judged, judges=("Ada",))["Ada"]
    shown = {one.key: one for one in judge_records(bench, token, "q1")}
    assert shown["r0"].field_values["title"] == "Fog bell"
    assert shown["r0"].marks["title"] == [(0, 3), (4, 8)]
    assert not any(one.gone for one in shown.values())
    with pytest.raises(NotFound, match="not among those that you are asked to judge"):
        judge_records(bench, token, "q9")


def test_what_a_judge_says_counts_at_once_and_can_be_taken_back(bench: Workbench, judged: str):
    token = task_of(bench, judged, judges=("Ada",))["Ada"]
    before = kept(bench, judged)[0].revision
    assert judge_says(bench, token, [said("q1", "r0", 3), said("q1", "r1", None), said("q3", "r4", 2)]) == 3
    after, grades = kept(bench, judged)
    assert grades == {"q1": {"r0": 3}, "q3": {"r4": 2}}
    assert after.revision == before + 1
    assert after.queries_revision <= before
    assert judge_says(bench, token, [said("q1", "r0", 0, 5, back=True)]) == 1
    assert kept(bench, judged)[1] == {"q3": {"r4": 2}}
    assert [one.judged for one in tasks(bench, "coast", judged)[0].judges] == [2]
    with pytest.raises(BadInput, match='"r7" is not among what you are asked to judge'):
        judge_says(bench, token, [said("q1", "r7", 1)])


def test_nothing_is_lost_or_doubled_when_answers_come_late_twice_and_in_any_order(bench: Workbench, judged: str):
    tokens = task_of(bench, judged, depth=5, twice=1.0)
    chance = random.Random(7)
    wanted: dict[tuple[str, str, str], int | None] = {}
    sendings: list[tuple[str, list[Said]]] = []
    for judge, token in tokens.items():
        for i, (query, keys) in enumerate(work_of_judge(bench, token).items.items()):
            for key in keys:
                for turn in range(3):
                    grade = chance.choice([0, 1, 2, 3, None])
                    wanted[judge, query, key] = grade
                    sendings.append((token, [said(query, key, grade, i, device="phone", order=turn)]))
    # Each is sent twice, everything mixed, by six at once: what counts is what the device said last.
    mixed = [*sendings, *sendings]
    chance.shuffle(mixed)
    with ThreadPoolExecutor(6) as several:
        list(several.map(judge_says, [bench] * len(mixed), *zip(*mixed, strict=True)))
    got = {
        (judge, one.query_id, one.record_key): one.grade
        for judge, token in tokens.items()
        for one in work_of_judge(bench, token).said
    }
    assert got == wanted
    found, grades = kept(bench, judged)
    by_record: dict[tuple[str, str], list[int]] = {}
    for (_, query, key), grade in wanted.items():
        if grade is not None:
            by_record.setdefault((query, key), []).append(grade)
    assert {(query, key): grade for query, own in grades.items() for key, grade in own.items()} == {
        pair: sorted(own)[(len(own) - 1) // 2] for pair, own in by_record.items()
    }
    assert found.settling is Settling.MEDIAN


def test_a_judge_is_told_when_they_last_said_something_taken_back_or_not(bench: Workbench, judged: str):
    token = task_of(bench, judged, judges=("Ada",))["Ada"]
    assert work_of_judge(bench, token).last_said is None
    before = datetime.now(UTC)
    judge_says(bench, token, [said("q1", "r0", 3, 60)])
    first = work_of_judge(bench, token).last_said
    judge_says(bench, token, [said("q1", "r0", 3, 90, back=True)])
    found = work_of_judge(bench, token)
    # By the server's clock, whatever the judge's says.
    assert found.said == []
    assert first is not None
    assert found.last_said is not None
    assert before - timedelta(minutes=1) < first < found.last_said < datetime.now(UTC) + timedelta(minutes=1)


def test_a_closed_task_takes_nothing_more_and_a_dropped_one_keeps_what_was_judged(bench: Workbench, judged: str):
    token = task_of(bench, judged, judges=("Ada",))["Ada"]
    judge_says(bench, token, [said("q1", "r0", 3)])
    number = tasks(bench, "coast", judged)[0].id
    change_task(bench, "coast", judged, number, closed=True)
    with pytest.raises(BadInput, match="This task is closed"):
        judge_says(bench, token, [said("q1", "r1", 3)])
    change_task(bench, "coast", judged, number, closed=None)
    assert tasks(bench, "coast", judged) == []
    assert kept(bench, judged)[1] == {"q1": {"r0": 3}}
    with pytest.raises(NotFound):
        change_task(bench, "coast", judged, number, closed=False)


def test_what_is_judged_already_is_left_out_of_a_pool(bench: Workbench, judged: str):
    first = task_of(bench, judged, judges=("Ada",))["Ada"]
    everything = work_of_judge(bench, first).items
    judge_says(bench, first, [said(query, key, 1) for query, keys in everything.items() for key in keys])
    with pytest.raises(BadInput, match="Nothing is left to judge"):
        task_of(bench, judged, judges=("Bo",))
    again = task_of(bench, judged, judges=("Bo",), leave_out_judged=False)["Bo"]
    assert {q: set(k) for q, k in work_of_judge(bench, again).items.items()} == {
        q: set(k) for q, k in everything.items()
    }
    chance = task_of(bench, judged, judges=("Cy",), sides=(), others=2)["Cy"]
    assert all(len(keys) <= 2 for keys in work_of_judge(bench, chance).items.values())
    with pytest.raises(BadInput, match="Choose at least one ranker"):
        task_of(bench, judged, sides=())
    with pytest.raises(BadInput, match="Name who judges"):
        task_of(bench, judged, judges=(" ",))


def test_a_task_may_be_of_records_that_are_named(bench: Workbench, judged: str):
    items = (PoolItem("q1", "r7"), PoolItem("q2", "r5"))
    token = task_of(bench, judged, judges=("Ada",), items=items)["Ada"]
    assert work_of_judge(bench, token).items == {"q1": ["r7"], "q2": ["r5"]}
    many = tuple(PoolItem("q1", f"r{i}") for i in range(8))
    orders = {
        tuple(work_of_judge(bench, task_of(bench, judged, judges=("Ada",), items=many)["Ada"]).items["q1"])
        for _ in range(5)
    }
    # Eight records in one order five times over would be one chance in 10 to the 18.
    assert len(orders) > 1
    with pytest.raises(BadInput, match='has no query "q9"'):
        task_of(bench, judged, items=(PoolItem("q9", "r7"),))


def give(bench: Workbench, name: str, judge: str, grades: dict[str, int | None], query: str = "q1") -> None:
    given = [said(query, key, grade, i) for i, (key, grade) in enumerate(grades.items())]
    engineer_says(bench, "coast", name, judge, given)


def test_agreement_conflicts_and_drift_are_told(bench: Workbench, judged: str):
    give(bench, judged, "Ada", {"r0": 3, "r1": 3, "r2": 2, "r3": None})
    give(bench, judged, "Bo", {"r0": 3, "r1": 1, "r2": 1, "r4": 0})
    found = standing_of(bench, "coast", judged)
    assert (found.measure, found.agreement) == ("weighted kappa", weighted_kappa([(3, 3), (3, 1), (2, 1)]))
    assert (found.judged, found.shared) == (4, 3)
    ada, bo = found.judges
    assert (ada.judge, ada.judged, ada.passed, ada.shared, ada.drift) == ("Ada", 3, 1, 3, pytest.approx(1))
    assert bo.drift == pytest.approx(-1)
    assert [(one.record_key, one.counts) for one in found.conflicts] == [("r1", 1)]
    assert (found.open_conflicts, found.conflicts_in_all, found.stale_in_all) == (1, 1, 0)
    assert found.titles == {"r1": "Fog horn"}
    give(bench, judged, "Cy", {"r0": 2, "r1": 1})
    found = standing_of(bench, "coast", judged)
    units = [[3, 3, 2], [3, 1, 1], [2, 1]]
    assert (found.measure, found.agreement) == ("Krippendorff's alpha", pytest.approx(krippendorff_alpha(units)))
    assert [(one.query_id, one.shared) for one in found.queries] == [("q1", 3)]


def test_a_conflict_is_settled_by_hand_whatever_the_judges_say_later(bench: Workbench, judged: str):
    give(bench, judged, "Ada", {"r0": 3})
    give(bench, judged, "Bo", {"r0": 0})
    assert kept(bench, judged)[1] == {"q1": {"r0": 0}}
    settle(bench, "coast", judged, "q1", "r0", 2, "both were half right")
    give(bench, judged, "Cy", {"r0": 3})
    assert kept(bench, judged)[1] == {"q1": {"r0": 2}}
    conflicts = standing_of(bench, "coast", judged).conflicts
    assert [(one.settled_by_hand, one.note) for one in conflicts] == [(True, "both were half right")]
    settle(bench, "coast", judged, "q1", "r0", None, "")
    assert kept(bench, judged)[1] == {"q1": {"r0": 3}}
    with pytest.raises(NotFound):
        settle(bench, "coast", judged, "q9", "r0", 2, "")


def test_the_sets_rule_says_which_grade_counts_and_a_change_of_it_settles_anew(bench: Workbench, judged: str):
    give(bench, judged, "Ada", {"r0": 0, "r1": 2})
    engineer_says(bench, "coast", judged, "Bo", [said("q1", "r0", 3, 50), said("q1", "r1", 2, 50)])
    counted = {}
    for rule in Settling:
        change_rules(bench, "coast", judged, rule, 0.0, ["", "", "", ""])
        counted[rule] = kept(bench, judged)[1]["q1"]
    assert counted == {
        Settling.MEDIAN: {"r0": 0, "r1": 2},
        Settling.LATEST: {"r0": 3, "r1": 2},
        Settling.BY_HAND: {"r1": 2},
    }
    assert [one.record_key for one in standing_of(bench, "coast", judged).conflicts] == ["r0"]


def test_what_is_said_later_counts_later_even_where_the_clock_was_set_back(bench: Workbench, judged: str):
    change_rules(bench, "coast", judged, Settling.LATEST, 0.0, ["", "", "", ""])
    give(bench, judged, "Ada", {"r0": 0, "r1": 2})
    with bench.pool.connection() as connection:
        # As a clock had it that was an hour ahead.
        connection.execute(
            "update judgments set judged_at = judged_at + interval '1 hour'"
            " where set_id = (select id from judged_sets where name = %s)",
            [judged],
        )
    give(bench, judged, "Bo", {"r0": 3, "r2": 1})
    assert kept(bench, judged)[1]["q1"] == {"r0": 3, "r1": 2, "r2": 1}
    # Who says it anew is the latest again; of a record that nobody else judged, the clock's time is kept.
    engineer_says(bench, "coast", judged, "Ada", [said("q1", "r0", 1, 60)])
    assert kept(bench, judged)[1]["q1"]["r0"] == 1
    with bench.pool.connection() as connection:
        row = connection.execute(
            "select max(judged_at) filter (where record_key = 'r0') > now() + interval '50 minutes',"
            " max(judged_at) filter (where record_key = 'r2') < now() + interval '1 minute'"
            " from judgments where set_id = (select id from judged_sets where name = %s)",
            [judged],
        ).fetchone()
    assert row == (True, True)


def test_a_judgment_goes_stale_when_its_record_changes_until_somebody_confirms_it(
    bench: Workbench, judged: str, tmp_path: Path
):
    give(bench, judged, "Ada", {"r5": 2, "r6": 1})
    assert standing_of(bench, "coast", judged).stale == []
    load_rows(bench.pool, tmp_path, [{"id": "r5", "title": "Tide table", "text": f"Changed for {judged}."}])
    stale = standing_of(bench, "coast", judged).stale
    assert [(one.query_id, one.record_key, one.gone) for one in stale] == [("q1", "r5", False)]
    confirm(bench, "coast", judged, "q1", "r5")
    assert standing_of(bench, "coast", judged).stale == []
    with pytest.raises(NotFound, match='Nothing was judged of "r7"'):
        confirm(bench, "coast", judged, "q1", "r7")


def test_a_set_goes_out_and_comes_in_again_exactly(bench: Workbench, judged: str):
    give(bench, judged, "Ada", {"r0": 3, "r1": None})
    engineer_says(bench, "coast", judged, "Bö", [said("q1", "r0", 1, note='He wrote, "almost".\nTwice.')])
    lock_away(bench, "coast", judged, 0.34)
    settle(bench, "coast", judged, "q1", "r0", 2, "both were half right")
    expect(bench, "coast", judged, "q3", expectation("among_first", "r4", 3, "as they say"))
    for form in ("csv", "jsonl"):
        before = export(bench, "coast", judged, form)
        for _ in range(2):
            report = put_judged_set(
                bench, "coast", f"{judged}-2", queries_in(before[0], "queries"), judgments_in(before[1], "judgments")
            )
            assert export(bench, "coast", f"{judged}-2", form) == before
            # Neither the second time nor in the other form does anything differ.
            assert report.revision == 1
        assert kept(bench, f"{judged}-2")[1] == kept(bench, judged)[1] == {"q1": {"r0": 2}}
    assert export(bench, "coast", judged, "columns") == (QUERIES, "q1 0 r0 2\n")


def test_files_that_say_nothing_of_expectations_and_times_leave_them(bench: Workbench, judged: str):
    wanted = expectation("never", "r1")
    expect(bench, "coast", judged, "q1", wanted)
    expect(bench, "coast", judged, "q2", expectation("nothing"))
    give(bench, judged, "", {"r0": 3, "r2": 1})
    before = export(bench, "coast", judged, "jsonl")[1].splitlines()
    put_judged_set(
        bench, "coast", judged, queries_in("q1\tfog bell\n", "queries"), judgments_in("q1 0 r0 3\n", "grades")
    )
    assert export(bench, "coast", judged, "jsonl")[1].splitlines() == before[:1]
    with bench.pool.connection() as connection:
        assert expectations_by_query(connection, kept(bench, judged)[0].id) == {"q1": [wanted]}
    row = '{"query_id": "q1", "query": "fog bell", "expectations": []}\n'
    put_judged_set(bench, "coast", judged, queries_in(row, "queries"), None)
    with bench.pool.connection() as connection:
        assert expectations_by_query(connection, kept(bench, judged)[0].id) == {}


def test_what_comes_in_again_unchanged_stays_stale(bench: Workbench, judged: str, tmp_path: Path):
    give(bench, judged, "Ada", {"r3": 2, "r7": 1})
    load_rows(bench.pool, tmp_path, [{"id": "r3", "title": "Ship's bell", "text": f"Changed for {judged}."}])
    queries, judgments = export(bench, "coast", judged, "csv")
    more = f"{judgments}q2,r3,1,Ada,,,\r\n"
    put_judged_set(bench, "coast", judged, queries_in(queries, "queries"), judgments_in(more, "judgments"))
    assert [(one.query_id, one.record_key) for one in standing_of(bench, "coast", judged).stale] == [("q1", "r3")]


def test_a_set_that_comes_in_again_without_a_difference_stays_in_its_revision(bench: Workbench, judged: str):
    queries, judgments = queries_in(QUERIES, "queries"), judgments_in("q1 0 r0 3\n", "grades")
    revisions = [
        put_judged_set(bench, "coast", judged, queries, own).revision for own in (judgments, judgments, judgments[:0])
    ]
    assert revisions == [2, 2, 3]
    with pytest.raises(BadInput, match="grades for queries that the queries file does not have: q7"):
        put_judged_set(bench, "coast", judged, queries, judgments_in("q7 0 r0 3\n", "grades"))


def test_past_queries_come_in_with_how_often_they_were_asked(bench: Workbench, judged: str):
    _, added = add_listed(bench, "coast", judged, "anchor\t3\nfog bell\t40\ntide\t7\nrope\t1\n", most=2)
    assert added == 2
    with bench.pool.connection() as connection:
        listed = [(one.query_id, one.query, one.asked) for one in queries_of(connection, kept(bench, judged)[0].id)]
    assert listed == [
        ("q1", "fog bell", 40),
        ("q2", "quay lamp", None),
        ("q3", "harpoon", None),
        ("q4", "tide", 7),
        ("q5", "anchor", 3),
    ]


def test_a_complaint_becomes_a_judged_query_with_a_grade_and_an_expectation(bench: Workbench, judged: str):
    complaint = Complaint(
        query="harpon",
        need="A harpoon.",
        complaint="She found nothing.",
        record_key="r4",
        grade=3,
        wanted=expectation("among_first", "r4", 3),
    )
    query_id = complain(bench, "coast", judged, complaint)
    assert query_id == "q4"
    assert kept(bench, judged)[1] == {"q4": {"r4": 3}}
    # The same words once more are the same query.
    assert complain(bench, "coast", judged, Complaint(query="harpon", record_key="r7", grade=0)) == "q4"
    assert kept(bench, judged)[1] == {"q4": {"r4": 3, "r7": 0}}
    with pytest.raises(BadInput, match='"coast" has no record "r99"'):
        complain(bench, "coast", judged, Complaint(query="harpon", record_key="r99", grade=0))
    assert "r99" not in kept(bench, judged)[1]["q4"]
    with pytest.raises(BadInput, match="say what was typed"):
        complain(bench, "coast", judged, Complaint(query="  "))


def locked_of(bench: Workbench, name: str) -> set[str]:
    with bench.pool.connection() as connection:
        return {one.query_id for one in queries_of(connection, kept(bench, name)[0].id) if one.locked}


def test_a_complaint_about_a_locked_query_opens_it_since_it_was_seen(bench: Workbench, judged: str):
    lock_away(bench, "coast", judged, 0.9)
    assert locked_of(bench, judged) == {"q1", "q2", "q3"}
    complain(bench, "coast", judged, Complaint(query="harpoon", record_key="r4", grade=3))
    complain(bench, "coast", judged, Complaint(query="a new one"))
    assert locked_of(bench, judged) == {"q1", "q2"}


def test_of_queries_made_by_hand_a_share_is_locked_away_by_chance_unless_somebody_says(bench: Workbench):
    make_judged_set(bench, "coast", "by-hand", 0.5)
    made = [new_query(bench, "coast", "by-hand", SetQuery(query_id="", query=f"query {i}")) for i in range(40)]
    assert 8 < len(locked_of(bench, "by-hand")) < 32
    new_query(bench, "coast", "by-hand", SetQuery(query_id="", query="open"), locked=False)
    new_query(bench, "coast", "by-hand", SetQuery(query_id="", query="away"), locked=True)
    assert {"q41", "q42"} & locked_of(bench, "by-hand") == {"q42"}
    # A change of something else leaves it as it is.
    before = locked_of(bench, "by-hand")
    for query_id in made:
        put_query(bench, "coast", "by-hand", SetQuery(query_id=query_id, query=f"another {query_id}"))
    assert locked_of(bench, "by-hand") == before
    put_query(bench, "coast", "by-hand", SetQuery(query_id="q42", query="away"), locked=False)
    assert locked_of(bench, "by-hand") == before - {"q42"}


def test_a_query_that_is_there_already_gets_what_it_lacks_and_the_others_stay(bench: Workbench):
    make_judged_set(bench, "coast", "added-to", 0)
    for text in ("bell", "rope", "salt"):
        new_query(bench, "coast", "added-to", SetQuery(query_id="", query=text, tags=["old"]))
    again = SetQuery(query_id="", query="rope", need="How rope was made.", tags=["new"])
    assert new_query(bench, "coast", "added-to", again) == "q2"
    with bench.pool.connection() as connection:
        listed = queries_of(connection, kept(bench, "added-to")[0].id)
    assert [(one.query_id, one.query, one.need, one.tags) for one in listed] == [
        ("q1", "bell", "", ["old"]),
        ("q2", "rope", "How rope was made.", ["old", "new"]),
        ("q3", "salt", "", ["old"]),
    ]


def test_an_expectation_is_about_a_query_that_is_there(bench: Workbench, judged: str):
    with pytest.raises(NotFound, match='has no query "q9"'):
        expect(bench, "coast", judged, "q9", expectation("nothing"))
    with pytest.raises(NotFound, match="has no expectation 0"):
        expect_no_more(bench, "coast", judged, 0)


def test_a_query_that_is_taken_out_takes_its_judgments_with_it(bench: Workbench, judged: str):
    give(bench, judged, "Ada", {"r0": 3})
    before = kept(bench, judged)[0].revision
    drop_query(bench, "coast", judged, "q1")
    assert kept(bench, judged)[1] == {}
    with bench.pool.connection() as connection:
        assert grades_of(connection, kept(bench, judged)[0].id, before) == {"q1": {"r0": 3}}
    with pytest.raises(NotFound, match='has no query "q1"'):
        drop_query(bench, "coast", judged, "q1")


def test_a_share_of_the_queries_is_locked_away_and_stays_so(bench: Workbench):
    make_judged_set(bench, "coast", "locked", 0.5)
    add_listed(bench, "coast", "locked", "\n".join(f"query {i}" for i in range(200)))

    first = locked_of(bench, "locked")
    assert 70 < len(first) < 130
    lock_away(bench, "coast", "locked", 0.8)
    assert first < locked_of(bench, "locked")
    assert len(locked_of(bench, "locked")) == 160
    with pytest.raises(BadInput, match='There is a judged set "locked" already'):
        make_judged_set(bench, "coast", "locked", 0.5)


def test_queries_that_come_in_alone_keep_what_was_judged_and_what_was_locked(bench: Workbench, judged: str):
    give(bench, judged, "Ada", {"r0": 3})
    give(bench, judged, "Ada", {"r2": 2}, "q2")
    lock_away(bench, "coast", judged, 0.34)
    with bench.pool.connection() as connection:
        before = {one.query_id: one.locked for one in queries_of(connection, kept(bench, judged)[0].id)}
    put_judged_set(bench, "coast", judged, queries_in("q1\tfog bells\nq3\tharpoon\nq4\trope\n", "queries"), None)
    assert kept(bench, judged)[1] == {"q1": {"r0": 3}}
    with bench.pool.connection() as connection:
        after = {one.query_id: one.locked for one in queries_of(connection, kept(bench, judged)[0].id)}
    assert after == {"q1": before["q1"], "q3": before["q3"], "q4": False}


def test_a_name_that_judged_before_is_the_same_person_only_if_somebody_says_so(bench: Workbench, judged: str):
    token = task_of(bench, judged, judges=("Ada",))["Ada"]
    # Asked is enough.
    with pytest.raises(BadInput, match=f'"Ada" has judged "{judged}" before, or was asked to'):
        task_of(bench, judged, judges=("Bo", "Ada"), same=())
    assert task_of(bench, judged, judges=("Bo", "Ada"), same=("Ada",)).keys() == {"Bo", "Ada"}
    judge_says(bench, token, [said("q1", "r0", 3)])
    for one in tasks(bench, "coast", judged):
        change_task(bench, "coast", judged, one.id, closed=None)
    # The tasks are gone, what was judged is not; and Bo said nothing.
    with pytest.raises(BadInput, match='"Ada" has judged'):
        task_of(bench, judged, judges=(" Ada ",), same=())
    assert task_of(bench, judged, judges=("Bo",), same=()).keys() == {"Bo"}
