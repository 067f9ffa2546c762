"""Jobs: one at a time does the work, progress is kept, rejected rows are counted as they are."""

import psycopg
import pytest

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import collection_named, make_collection
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.read_marks import read_mark, set_read_mark
from pale_harbor.store.running.jobs import (
    RejectedRow,
    add_job,
    add_rejected,
    all_rejected,
    drop_rejected,
    finish_job,
    holding_job,
    is_held,
    job_with_id,
    jobs_of,
    note_phase,
    note_progress,
    refresh_rejected,
    rejected_in_collection,
    rejected_rows,
    unfinished_jobs,
    want_cancel,
)


def row(number: int, reason: str = "no", raw: str = "x") -> RejectedRow:
    return RejectedRow(number, number + 1, reason, raw)


def test_a_job_goes_from_waiting_to_done(pool: Pool):
    with pool.connection() as connection:
        job_id = add_job(connection, "coast", {"name": "a.csv"}, {}, by_server=True)
        assert job_with_id(connection, job_id).state == "waiting"
        assert note_progress(connection, job_id, 10, 2, 100, 1_000)
        job = job_with_id(connection, job_id)
        assert (job.state, job.phase, job.rows_read, job.bytes_read, job.bytes_in_all) == (
            "running",
            "reading",
            10,
            100,
            1_000,
        )
        note_phase(connection, job_id, "storing")
        assert [one.id for one in unfinished_jobs(connection)] == [job_id]
        finish_job(connection, job_id, "done", report={"read": 10})
        job = job_with_id(connection, job_id)
        assert (job.state, job.phase, job.report) == ("done", "storing", {"read": 10})
        assert unfinished_jobs(connection) == []
        assert [one.id for one in jobs_of(connection, "coast")] == [job_id]
        assert jobs_of(connection, "inland") == []
        with pytest.raises(NotFound, match="There is no import 999"):
            job_with_id(connection, 999)


def test_whoever_notes_progress_is_told_to_stop(pool: Pool):
    with pool.connection() as connection:
        job_id = add_job(connection, "coast", {}, {}, by_server=True)
        want_cancel(connection, job_id)
        assert not note_progress(connection, job_id, 1, 0, 0, 0)
        assert not note_progress(connection, 999, 1, 0, 0, 0)


def test_a_job_is_held_by_one_and_free_once_that_one_is_gone(pool: Pool):
    with pool.connection() as connection:
        job_id = add_job(connection, "coast", {}, {}, by_server=True)
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
    with pool.connection() as connection:
        job_id = add_job(connection, "coast", {}, {}, by_server=True)
        add_rejected(connection, job_id, [row(5), row(2), row(9)])
        add_rejected(connection, job_id, [row(5, "another reason", "y")])
        assert [(one.row_number, one.reason) for one in rejected_rows(connection, job_id)] == [
            (2, "no"),
            (5, "another reason"),
            (9, "no"),
        ]
        assert [one.row_number for one in rejected_rows(connection, job_id, first=1, count=1)] == [5]
        assert rejected_in_collection(connection, "coast") == 3
        drop_rejected(connection, job_id, [2, 9])
        refresh_rejected(connection, job_id)
        assert job_with_id(connection, job_id).rows_rejected == 1
        assert [one.raw for one in all_rejected(connection, job_id)] == ["y"]
        drop_rejected(connection, job_id)
        assert rejected_in_collection(connection, "coast") == 0


def test_a_mark_says_how_far_a_source_was_read(pool: Pool):
    with pool.connection() as connection:
        make_collection(connection, "coast")
        coast = collection_named(connection, "coast")
        assert read_mark(connection, coast.id, "archive") is None
        for seen in ("2020", "2021"):
            set_read_mark(connection, coast.id, "archive", seen)
        assert read_mark(connection, coast.id, "archive") == "2021"
        assert read_mark(connection, coast.id, "another") is None
