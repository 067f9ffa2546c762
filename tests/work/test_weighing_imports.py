"""An import says what it would do before it does it, asks where much would go, fills in, and can be undone."""

from dataclasses import replace
from pathlib import Path
from threading import Event
from typing import Any

import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.records import FieldPlan, ImportPlan, Source
from pale_harbor.store.collections.collections import collection_named, fields_of, put_fields
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.imports import import_with_id, imports_of
from pale_harbor.store.imports.incoming import Outlook
from pale_harbor.store.records.records import all_records, deletions
from pale_harbor.store.running.jobs import Job
from pale_harbor.work.imports.importing import (
    ImportReport,
    begin_import,
    go_on_with,
    import_now,
    imports_done,
    leave_import,
    run_import,
)
from pale_harbor.work.imports.mending import mend_rows
from pale_harbor.work.imports.sources import FileSource, database_source
from pale_harbor.work.imports.undoing import Undone, undo_import
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.records.changes import put_records, remove_records, restore_deleted
from pale_harbor.work.running.worker import JobRunner, Progress, Undecided
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import Rows, file_of, load_path, load_rows


def contents(pool: Pool) -> dict[str, dict[str, Any]]:
    with pool.connection() as connection:
        return {one.key: one.field_values for one in all_records(connection, collection_named(connection, "coast").id)}


def fingerprint(pool: Pool) -> str:
    with pool.connection() as connection:
        return collection_named(connection, "coast").fingerprint


def kinds(pool: Pool) -> dict[str, str]:
    with pool.connection() as connection:
        return {one.name: one.kind for one in fields_of(connection, collection_named(connection, "coast").id)}


def source(folder: Path, rows: Rows) -> FileSource:
    return FileSource(Source(file_of(folder, rows, "more.jsonl")))


def weighed(
    pool: Pool, folder: Path, rows: Rows, *, replacing: bool = False, fill_in: bool = False, asks: bool = False
) -> tuple[int, ImportReport | Outlook]:
    plan = ImportPlan(key="id", replace=replacing, fill_in=fill_in)
    of = source(folder, rows)
    job = begin_import(pool, "coast", of, plan, by_server=False, asks=asks)
    return job, run_import(pool, job, of)


def bells(count: int) -> Rows:
    return [{"id": f"b{i:02d}", "title": f"Fog bell {i}", "maker": "Orla"} for i in range(count)]


def test_what_an_import_would_do_is_counted_before_anything_is_touched(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(20))
    before = contents(pool)
    rows: Rows = [
        {"id": "b00", "title": "Fog bell 0", "maker": "Orla"},
        {"id": "b01", "title": "Fog bell, cracked", "maker": ""},
        {"id": "b02", "title": None},
        {"id": "new", "title": "Lamp"},
    ]
    job, outlook = weighed(pool, tmp_path, rows, replacing=True, asks=True)
    # Of b01 the maker goes, of b02 title and maker.
    assert outlook == Outlook(20, 1, 2, 1, 17, {"maker": 2, "title": 1})
    assert contents(pool) == before
    with pool.connection() as connection:
        kept = import_with_id(connection, job)
    assert (kept.state, kept.outlook) == ("undecided", {**kept.outlook} if kept.outlook else None)
    go_on_with(pool, job, 17)
    done = run_import(pool, job)
    assert isinstance(done, ImportReport)
    assert (done.read, done.added, done.updated, done.unchanged, done.deleted) == (4, 1, 2, 1, 17)
    assert set(contents(pool)) == {"b00", "b01", "b02", "new"}


@pytest.mark.parametrize(("left", "asked"), [(18, False), (17, True)])
def test_more_than_a_tenth_is_deleted_only_when_somebody_agreed(pool: Pool, tmp_path: Path, left: int, asked: bool):
    load_rows(pool, tmp_path, bells(20))
    _, came_to = weighed(pool, tmp_path, bells(left), replacing=True)
    assert isinstance(came_to, Outlook) == asked
    assert len(contents(pool)) == (20 if asked else left)


def test_an_agreement_holds_for_as_many_as_were_told(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(20))
    job, came_to = weighed(pool, tmp_path, bells(15), replacing=True)
    assert isinstance(came_to, Outlook)
    with pytest.raises(BadInput, match="would delete 5 records; you agreed to 4"):
        go_on_with(pool, job, 4)
    go_on_with(pool, job, 5)
    # Meanwhile there is one record more that would go.
    put_records(pool, "coast", [{"id": "later", "title": "Lamp"}])
    again = run_import(pool, job)
    assert isinstance(again, Outlook)
    assert again.deleted == 6
    assert len(contents(pool)) == 21
    go_on_with(pool, job, 6)
    assert isinstance(run_import(pool, job), ImportReport)
    assert len(contents(pool)) == 15
    with pytest.raises(BadInput, match="does not wait"):
        go_on_with(pool, job, 6)


def test_an_import_that_is_left_leaves_nothing(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(20))
    before = contents(pool)
    job, _ = weighed(pool, tmp_path, [*bells(1), {"title": "no key"}], replacing=True)
    leave_import(pool, job)
    assert contents(pool) == before
    with pool.connection() as connection:
        kept = import_with_id(connection, job)
        assert connection.execute("select count(*) from incoming_rows").fetchone() == (0,)
        assert connection.execute("select count(*) from rejected_rows").fetchone() == (0,)
    assert (kept.state, kept.rows_rejected) == ("cancelled", 0)
    with pytest.raises(BadInput, match="does not wait"):
        leave_import(pool, job)
    with pytest.raises(NotFound):
        leave_import(pool, job + 1)


def test_whoever_decides_is_asked_where_records_are_met_and_only_there(pool: Pool, tmp_path: Path):
    asked: list[Outlook] = []

    def decide(outlook: Outlook) -> bool:
        asked.append(outlook)
        return outlook.updated == 0

    def take(rows: Rows) -> ImportReport:
        return import_now(pool, "coast", source(tmp_path, rows), ImportPlan(key="id"), decides=decide)

    take(bells(3))
    assert asked == []
    take(bells(4))
    assert asked == [Outlook(3, 1, 0, 3, 0, {})]
    with pytest.raises(Cancelled):
        take([{"id": "b00", "title": "another"}])
    assert contents(pool)["b00"]["title"] == "Fog bell 0"


def test_an_import_that_is_begun_again_is_weighed_again(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(20))
    of, plan = source(tmp_path, bells(5)), ImportPlan(key="id", replace=True)
    job = begin_import(pool, "coast", of, plan, by_server=False)
    run_import(pool, job, of)
    remove_records(pool, "coast", ["b19"])
    assert begin_import(pool, "coast", of, plan, by_server=False) == job
    outlook = run_import(pool, job, of)
    assert isinstance(outlook, Outlook)
    assert outlook.deleted == 14


def test_once_all_rows_are_read_the_source_is_needed_no_more(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(20))
    rows: Rows = [{"id": "b00", "title": "x", "year": 1846}, {"id": "b00", "title": "twice"}, {"title": "none"}]
    job, _ = weighed(pool, tmp_path, rows, replacing=True)
    (tmp_path / "more.jsonl").unlink()
    go_on_with(pool, job, 19)
    report = run_import(pool, job)
    assert isinstance(report, ImportReport)
    assert (report.read, report.rejected) == (3, 2)
    assert [one.raw for one in report.rejects] == ['{"id":"b00","title":"twice"}', '{"title":"none"}']
    assert kinds(pool)["year"] == "number"


def test_a_row_fills_in_only_what_it_tells(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "title": "Bell", "maker": "Orla", "tags": ["x"]}, {"id": "b", "title": "B"}])
    rows: Rows = [
        {"id": "a", "title": "", "maker": "Tamsin", "tags": [], "year": 1846},
        {"id": "b", "title": "B"},
        {"id": "c", "maker": "Niall"},
    ]
    _, outlook = weighed(pool, tmp_path, rows, fill_in=True, asks=True)
    assert outlook == Outlook(2, 1, 1, 1, 0, {})
    import_now(pool, "coast", source(tmp_path, rows), ImportPlan(key="id", fill_in=True))
    assert contents(pool) == {
        "a": {"id": "a", "title": "Bell", "maker": "Tamsin", "tags": ["x"], "year": 1846},
        "b": {"id": "b", "title": "B"},
        "c": {"id": "c", "maker": "Niall"},
    }
    # The same once more changes nothing: hashes are those of the whole records.
    report = import_now(pool, "coast", source(tmp_path, rows), ImportPlan(key="id", fill_in=True))
    assert (report.added, report.updated, report.unchanged) == (0, 0, 3)


def test_a_mended_row_fills_in_too(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "title": "Bell", "year": 1846}])
    number = [FieldPlan(name="year", kind="number")]
    plan = ImportPlan(key="id", fill_in=True, fields=number)
    report = import_now(pool, "coast", source(tmp_path, [{"id": "a", "year": "about 1850"}]), plan)
    assert report.rejected == 1
    mend_rows(pool, report.job, [(1, '{"id": "a", "year": 1850}')])
    assert contents(pool) == {"a": {"id": "a", "title": "Bell", "year": 1850}}


ROWS = st.dictionaries(
    st.sampled_from(["a", "b", "c", "d", "e"]),
    st.fixed_dictionaries(
        {}, optional={"title": st.sampled_from(["Bell", "Lamp"]), "year": st.sampled_from([1846, 1850])}
    ),
)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(first=ROWS, second=ROWS, replacing=st.booleans(), fill_in=st.booleans())
def test_an_outlook_is_what_comes_and_undoing_is_what_was(
    pool: Pool, tmp_path: Path, first: dict[str, Any], second: dict[str, Any], replacing: bool, fill_in: bool
):
    def rows(of: dict[str, Any]) -> Rows:
        return [{"id": key, **values} for key, values in of.items()]

    with pool.connection() as connection:
        connection.execute("delete from collections")
    load_rows(pool, tmp_path, rows(first))
    before, marked, known = contents(pool), fingerprint(pool), kinds(pool)
    told: list[Outlook] = []

    def decide(outlook: Outlook) -> bool:
        told.append(outlook)
        return True

    plan = ImportPlan(key="id", replace=replacing, fill_in=fill_in)
    report = import_now(pool, "coast", source(tmp_path, rows(second)), plan, decides=decide)
    if first:
        (outlook,) = told
        counted = (outlook.added, outlook.updated, outlook.unchanged, outlook.deleted)
        assert counted == (report.added, report.updated, report.unchanged, report.deleted)
    if report.added + report.updated + report.deleted == 0:
        with pytest.raises(BadInput, match="nothing that could be undone"):
            undo_import(pool, report.job)
        return
    undone = undo_import(pool, report.job)
    assert undone == Undone(restored=report.updated + report.deleted, removed=report.added, kept=0)
    assert (contents(pool), fingerprint(pool), kinds(pool)) == (before, marked, known)


def test_undoing_leaves_what_others_touched_since(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(4))
    rows: Rows = [{"id": f"b{i:02d}", "title": "new"} for i in range(3)] + [
        {"id": "x", "title": "X"},
        {"id": "y", "title": "Y"},
    ]
    report = import_now(pool, "coast", source(tmp_path, rows), ImportPlan(key="id", replace=True))
    put_records(
        pool, "coast", [{"id": "b00", "title": "since"}, {"id": "x", "title": "since"}, {"id": "b03", "title": "since"}]
    )
    remove_records(pool, "coast", ["b01"])
    # b02 comes back and y goes; b00, b01 (changed), b03 (deleted) and x (added) were touched since.
    assert undo_import(pool, report.job) == Undone(restored=1, removed=1, kept=4)
    titles = {key: values["title"] for key, values in contents(pool).items()}
    assert titles == {"b00": "since", "b02": "Fog bell 2", "b03": "since", "x": "since"}
    with pytest.raises(BadInput, match="undone already"):
        undo_import(pool, report.job)


def test_two_imports_can_be_undone_one_after_the_other_whichever_way_round(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(5))
    before = contents(pool)
    first: Rows = [{"id": "b00", "title": "one"}, {"id": "b01", "title": "one"}, {"id": "x", "title": "one"}]
    second: Rows = [{"id": "b01", "title": "two"}, {"id": "x", "title": "two"}, {"id": "b02", "title": "two"}]
    plan = ImportPlan(key="id", replace=True)
    one = import_now(pool, "coast", source(tmp_path, first), plan)
    between = contents(pool)
    two = import_now(pool, "coast", source(tmp_path, second), plan)
    assert undo_import(pool, two.job) == Undone(restored=3, removed=1, kept=0)
    assert contents(pool) == between
    # What the later one brought back is as the earlier one left it.
    assert undo_import(pool, one.job) == Undone(restored=5, removed=1, kept=0)
    assert contents(pool) == before

    one = import_now(pool, "coast", source(tmp_path, first), plan)
    import_now(pool, "coast", source(tmp_path, second), plan)
    # b00 was deleted since, b01, b02 and x changed: only b03 and b04 are as the earlier one left them.
    assert undo_import(pool, one.job) == Undone(restored=2, removed=0, kept=4)


def test_rows_that_were_mended_are_undone_with_their_import(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "title": "Bell"}])
    path = file_of(tmp_path, [{"id": "a", "title": "new"}, {"title": "no key"}], "more.jsonl")
    report = load_path(pool, path)
    mend_rows(pool, report.job, [(2, '{"id": "a", "title": "mended"}')])
    assert undo_import(pool, report.job) == Undone(restored=2, removed=0, kept=0)
    assert contents(pool) == {"a": {"id": "a", "title": "Bell"}}


def test_fields_go_back_with_an_import_unless_somebody_changed_them_since(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "year": 1846}])
    rows: Rows = [{"id": "b", "year": "about 1850", "place": "Saltmere", "shelf": "S 1"}]
    report = import_now(pool, "coast", source(tmp_path, rows), ImportPlan(key="id"))
    assert (
        kinds(pool) == {"id": "exact", "year": "exact", "place": "exact", "shelf": "exact"}
        or kinds(pool)["year"] == "text"
    )
    with pool.connection() as connection:
        collection = collection_named(connection, "coast")
        fields = fields_of(connection, collection.id)
        changed = [
            one if one.name != "shelf" else type(one)(name="shelf", kind="exact", role="title") for one in fields
        ]
        put_fields(connection, collection.id, changed)
    undo_import(pool, report.job)
    assert kinds(pool) == {"id": "exact", "year": "number", "shelf": "exact"}


def test_a_collection_whose_first_import_is_undone_can_be_searched_and_filled(bench: Workbench, tmp_path: Path):
    report = load_rows(bench.pool, tmp_path, bells(3))
    undo_import(bench.pool, report.job)
    assert contents(bench.pool) == {}
    found = bench.with_collection(
        "coast",
        lambda opened: find(opened, bench.choose(opened.collection, RankerChoice()).ranker, Question("bell"), 10),
    )
    assert found.results == []
    load_path(bench.pool, file_of(tmp_path, [{"nr": "1", "name": "Bell"}], "other.jsonl"), plan=ImportPlan(key="nr"))
    assert contents(bench.pool) == {"1": {"nr": "1", "name": "Bell"}}


def test_deleted_records_come_back_many_at_a_time(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{**row, "year": 1846} for row in bells(6)])
    before = contents(pool)
    remove_records(pool, "coast", ["b00", "b01"])
    remove_records(pool, "coast", ["b02", "b03"])
    with pool.connection() as connection:
        found = deletions(connection, collection_named(connection, "coast").id)
    assert [(one.revision, one.records) for one in found] == [(3, 2), (2, 2)]
    assert restore_deleted(pool, "coast", ended_revision=3).added == 2
    assert set(contents(pool)) == {"b02", "b03", "b04", "b05"}
    # b02 is there, nobody was never there.
    back = restore_deleted(pool, "coast", keys=["b00", "b02", "nobody"])
    assert (back.added, back.revision) == (1, 5)
    assert restore_deleted(pool, "coast").added == 1
    assert contents(pool) == before
    assert restore_deleted(pool, "coast") == type(back)(added=0, updated=0, unchanged=0, deleted=0, revision=6)


def test_what_an_undone_first_import_brought_comes_back_with_its_key(pool: Pool, tmp_path: Path):
    rows: Rows = [{"nr": "b0", "title": "b0", "year": 1846}, {"nr": "b1", "title": "Bell", "year": 1850}]
    report = load_path(pool, file_of(tmp_path, rows), plan=ImportPlan(key="nr"))
    undo_import(pool, report.job)
    assert kinds(pool) == {}
    assert restore_deleted(pool, "coast", keys=["b0", "b1"]).added == 2
    with pool.connection() as connection:
        fields = fields_of(connection, collection_named(connection, "coast").id)
    assert [one.name for one in fields if one.is_key] == ["nr"]
    assert put_records(pool, "coast", [{"nr": "b1", "title": "Lamp"}]).updated == 1


def test_what_comes_back_widens_a_field_that_was_narrowed_meanwhile(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "year": "about 1850"}, {"id": "b", "year": "1846"}])
    remove_records(pool, "coast", ["a"])
    with pool.connection() as connection:
        collection = collection_named(connection, "coast")
        fields = fields_of(connection, collection.id)
        narrowed = [replace(one, kind="number") if one.name == "year" else one for one in fields]
        put_fields(connection, collection.id, narrowed)
    restore_deleted(pool, "coast", keys=["a"])
    assert kinds(pool)["year"] == "text"


def test_a_query_on_another_database_that_was_read_goes_on_without_its_password(
    pool: Pool, tmp_path: Path, empty_database: Any, cluster: Any
):
    address = cluster.address(empty_database())
    with psycopg.connect(address) as connection:
        connection.execute("create table things (nr text, title text)")
        connection.execute("insert into things values ('b00', 'from there')")
    load_rows(pool, tmp_path, bells(20))
    of = database_source(pool, "coast", address, "select nr as id, title from things", None)
    job = begin_import(pool, "coast", of, ImportPlan(key="id", replace=True), by_server=True)
    assert isinstance(run_import(pool, job, of), Outlook)
    go_on_with(pool, job, 19)
    assert isinstance(run_import(pool, job), ImportReport)
    assert contents(pool) == {"b00": {"id": "b00", "title": "from there"}}


def test_the_latest_import_stands_first_with_what_it_would_do(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(2))
    weighed(pool, tmp_path, bells(1), replacing=True)
    with pool.connection() as connection:
        latest, first = imports_of(connection, "coast")
    assert (latest.state, first.state) == ("undecided", "done")
    assert latest.outlook is not None
    assert latest.outlook["deleted"] == 1


def test_a_word_that_is_given_before_the_job_is_let_go_of_is_heard(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, bells(20))
    of = source(tmp_path, bells(5))
    job = begin_import(pool, "coast", of, ImportPlan(key="id", replace=True), by_server=True)
    done = imports_done(pool, {})
    times: list[int] = []
    twice = Event()

    def doing(one: Job, progress: Progress) -> dict[str, Any] | None:
        times.append(one.id)
        if len(times) == 2:
            twice.set()
        try:
            return done(one, progress)
        except Undecided:
            # Whoever decides is quicker than the worker.
            go_on_with(pool, job, 15)
            raise

    runner = JobRunner(pool, {"import": doing})
    runner.take(job, "import")
    assert twice.wait(30)
    runner.finish()
    assert times == [job, job]
    assert len(contents(pool)) == 5


def test_a_list_that_becomes_empty_is_a_value_that_goes(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a", "tags": ["x"], "more": []}])
    _, outlook = weighed(pool, tmp_path, [{"id": "a", "tags": [], "more": []}], asks=True)
    assert outlook == Outlook(1, 0, 1, 0, 0, {"tags": 1})
