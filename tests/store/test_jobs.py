"""Jobs: one at a time does the work, progress is kept and told, rejected rows are counted as they are."""

import psycopg
import pytest

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import (
    collection_named,
    drop_collection,
    make_collection,
    rename_collection,
)
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.imports import (
    RejectedRow,
    add_import,
    add_rejected,
    all_rejected,
    drop_rejected,
    import_with_id,
    imports_of,
    note_collection,
    note_reading,
    note_storing,
    refresh_rejected,
    rejected_in_collection,
    rejected_rows,
    unfinished_imports,
)
from pale_harbor.store.imports.read_marks import read_mark, set_read_mark
from pale_harbor.store.running.holding import hold
from pale_harbor.store.running.jobs import (
    add_job,
    end_job,
    forget_finished,
    holding_job,
    is_held,
    job_with_id,
    note_progress,
    unfinished_jobs,
    want_cancel,
)
from pale_harbor.store.running.notices import notices


def row(number: int, reason: str = "no", raw: str = "x") -> RejectedRow:
    return RejectedRow(number, number + 1, reason, raw)


def an_import(pool: Pool) -> int:
    with pool.connection() as connection:
        make_collection(connection, "coast")
        return add_import(connection, "coast", {"name": "a.csv"}, {}, by_server=True)


def test_a_job_goes_from_waiting_to_done(pool: Pool):
    with pool.connection() as connection:
        make_collection(connection, "coast")
        coast = collection_named(connection, "coast")
        job_id = add_job(connection, "reading", coast.id, by_server=True, in_all=20, details={"field": "title"})
        job = job_with_id(connection, job_id)
        assert (job.kind, job.state, job.in_all, job.details) == ("reading", "waiting", 20, {"field": "title"})
        assert note_progress(connection, job_id, "reading", 10, 20)
        job = job_with_id(connection, job_id)
        assert (job.state, job.phase, job.done, job.in_all) == ("running", "reading", 10, 20)
        assert [one.id for one in unfinished_jobs(connection)] == [job_id]
        assert end_job(connection, job_id, "done", report={"read": 10})
        assert unfinished_jobs(connection) == []
        # What ended stays as it ended, whoever comes late.
        assert not end_job(connection, job_id, "failed", problem="late")
        assert not note_progress(connection, job_id, "reading", 11, 20)
        job = job_with_id(connection, job_id)
        assert (job.state, job.done, job.problem, job.report) == ("done", 10, None, {"read": 10})
        with pytest.raises(NotFound, match="There is no job 999"):
            job_with_id(connection, 999)


def test_what_ended_is_forgotten_and_nothing_else(pool: Pool):
    job_id = an_import(pool)
    with pool.connection() as connection:
        coast = collection_named(connection, "coast").id
        ended, waiting = (add_job(connection, "reading", coast, by_server=True) for _ in range(2))
        end_job(connection, ended, "done")
        end_job(connection, job_id, "done")
        forget_finished(connection, "reading", coast)
        assert job_with_id(connection, waiting).state == "waiting"
        assert job_with_id(connection, job_id).state == "done"
        with pytest.raises(NotFound):
            job_with_id(connection, ended)


def test_an_import_tells_how_far_reading_is(pool: Pool):
    job_id = an_import(pool)
    with pool.connection() as connection:
        assert note_reading(connection, job_id, 10, 2, 100, 1_000)
        one = import_with_id(connection, job_id)
        assert (one.state, one.phase, one.rows_read, one.rows_rejected, one.bytes_read, one.bytes_in_all) == (
            "running",
            "reading",
            10,
            2,
            100,
            1_000,
        )
        note_storing(connection, job_id)
        assert import_with_id(connection, job_id).phase == "storing"
        assert [one.id for one in unfinished_imports(connection)] == [job_id]
        assert [one.id for one in imports_of(connection, "coast")] == [job_id]
        assert imports_of(connection, "inland") == []
        with pytest.raises(NotFound, match="There is no import 999"):
            import_with_id(connection, 999)


def test_an_import_goes_by_its_collections_id(pool: Pool):
    job_id = an_import(pool)
    with pool.connection() as connection:
        rename_collection(connection, collection_named(connection, "coast"), "shore")
        assert import_with_id(connection, job_id).collection == "shore"
        assert [one.id for one in imports_of(connection, "shore")] == [job_id]
        drop_collection(connection, collection_named(connection, "shore"))
        with pytest.raises(NotFound):
            import_with_id(connection, job_id)


def test_an_import_of_a_collection_that_is_still_to_be_made_goes_by_its_name(pool: Pool):
    with pool.connection() as connection:
        job_id = add_import(connection, "new", {}, {}, by_server=True)
        assert import_with_id(connection, job_id).collection == "new"
        make_collection(connection, "new")
        # Somebody else made it: until the import takes it for its own, it goes by the name.
        assert [one.id for one in imports_of(connection, "new")] == [job_id]
        note_collection(connection, job_id, collection_named(connection, "new").id)
        rename_collection(connection, collection_named(connection, "new"), "newer")
        assert import_with_id(connection, job_id).collection == "newer"


def test_whoever_notes_progress_is_told_to_stop(pool: Pool):
    job_id = an_import(pool)
    with pool.connection() as connection:
        want_cancel(connection, job_id)
        assert not note_reading(connection, job_id, 1, 0, 0, 0)
        assert not note_progress(connection, 999, "reading", 1, 0)


def test_what_jobs_come_to_is_told_to_those_who_listen(pool: Pool):
    told = notices(str(pool.conninfo), 5)
    assert next(told) is None
    job_id = an_import(pool)
    with pool.connection() as connection:
        note_progress(connection, job_id, "reading", 1, 2)
        connection.commit()
        want_cancel(connection, job_id)
        connection.commit()
        end_job(connection, job_id, "cancelled")
    heard = [notice for notice in (next(told) for _ in range(4)) if notice is not None]
    assert [(one["kind"], one["id"], one["state"], one["cancel"]) for one in heard] == [
        ("import", job_id, "waiting", False),
        ("import", job_id, "running", False),
        ("import", job_id, "running", True),
        ("import", job_id, "cancelled", True),
    ]
    told.close()


def test_a_job_is_held_by_one_and_free_once_that_one_is_gone(pool: Pool):
    job_id = an_import(pool)
    first = psycopg.connect(str(pool.conninfo))
    with holding_job(first, job_id) as held, psycopg.connect(str(pool.conninfo)) as other:
        assert held
        assert is_held(other, job_id)
        with holding_job(other, job_id) as also_held:
            assert not also_held
        assert not is_held(other, job_id + 1)
    first.close()
    with psycopg.connect(str(pool.conninfo)) as other:
        assert not is_held(other, job_id)
        with holding_job(other, job_id) as held_again:
            assert held_again


def test_rejected_rows_are_kept_in_order_and_counted(pool: Pool):
    job_id = an_import(pool)
    with pool.connection() as connection:
        coast = collection_named(connection, "coast").id
        add_rejected(connection, job_id, [row(5), row(2), row(9)])
        add_rejected(connection, job_id, [row(5, "another reason", "y")])
        assert [(one.row_number, one.reason) for one in rejected_rows(connection, job_id)] == [
            (2, "no"),
            (5, "another reason"),
            (9, "no"),
        ]
        assert [one.row_number for one in rejected_rows(connection, job_id, first=1, count=1)] == [5]
        assert rejected_in_collection(connection, coast) == 3
        drop_rejected(connection, job_id, [2, 9])
        refresh_rejected(connection, job_id)
        assert import_with_id(connection, job_id).rows_rejected == 1
        assert [one.raw for one in all_rejected(connection, job_id)] == ["y"]
        drop_rejected(connection, job_id)
        assert rejected_in_collection(connection, coast) == 0


def test_a_mark_says_how_far_a_source_was_read(pool: Pool):
    with pool.connection() as connection:
        make_collection(connection, "coast")
        coast = collection_named(connection, "coast")
        assert read_mark(connection, coast.id, "archive") is None
        for seen in ("2020", "2021"):
            set_read_mark(connection, coast.id, "archive", seen)
        assert read_mark(connection, coast.id, "archive") == "2021"
        assert read_mark(connection, coast.id, "another") is None


def test_what_broke_the_work_is_told_where_its_connection_broke_too(pool: Pool):
    with pool.connection() as own, psycopg.connect(str(pool.conninfo), autocommit=True) as other:

        def work() -> None:
            with hold(own, 1, 2) as held:
                assert held
                other.execute("select pg_terminate_backend(%s)", [own.info.backend_pid])
                raise ValueError("the disk is full")

        with pytest.raises(ValueError, match="the disk is full"):
            work()
        # The lock went with the connection.
        with hold(other, 1, 2) as taken:
            assert taken
