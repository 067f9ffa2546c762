"""The one stream of events, over a real server and a real connection."""

import json
import threading
from collections.abc import Generator
from datetime import UTC, datetime

import httpx
import pytest
import uvicorn

from pale_harbor.api.app import make_app
from pale_harbor.store.collections.collections import collection_named, make_collection
from pale_harbor.store.judging.judged_sets import make_set
from pale_harbor.store.judging.judgments import Judgment, put_judgments
from pale_harbor.store.running.jobs import add_job, note_progress
from pale_harbor.work.workbench import Workbench


@pytest.fixture
def address(bench: Workbench) -> Generator[str]:
    server = uvicorn.Server(uvicorn.Config(make_app(bench), port=0, log_config=None, access_log=False))
    ready = threading.Event()
    begin = server.startup

    async def startup(sockets: object = None) -> None:
        await begin()
        ready.set()

    server.startup = startup
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    assert ready.wait(60)
    port = server.servers[0].sockets[0].getsockname()[1]
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    server.force_exit = True
    thread.join(20)


def test_whoever_listens_hears_of_jobs_and_of_new_revisions(address: str, bench: Workbench):
    with httpx.stream("GET", f"{address}/api/events", timeout=30) as stream:
        lines = (line.removeprefix("data: ") for line in stream.iter_lines() if line.startswith("data: "))
        # Whatever was missed before is looked at by whoever hears this.
        assert json.loads(next(lines)) == {"subject": "again"}
        with bench.pool.connection() as connection:
            make_collection(connection, "coast")
            coast = collection_named(connection, "coast")
            job_id = add_job(connection, "reading", coast.id, by_server=False)
            note_progress(connection, job_id, "reading", 1, 2)
        of_job = {"subject": "jobs", "kind": "reading", "id": job_id, "collection": coast.id, "cancel": False}
        # Of what came twice in a moment only the later is told; it may have been two moments.
        told = json.loads(next(lines))
        if told["state"] == "waiting":
            assert told == of_job | {"state": "waiting"}
            told = json.loads(next(lines))
        assert told == of_job | {"state": "running"}
        with bench.pool.connection() as connection:
            connection.execute("update collections set revision = revision + 1 where id = %s", [coast.id])
        assert json.loads(next(lines)) == {
            "subject": "records",
            "id": coast.id,
            "collection": coast.id,
            "revision": coast.revision + 1,
        }


def test_whoever_listens_hears_of_what_judges_say_whatever_it_counts_for(address: str, bench: Workbench):
    with httpx.stream("GET", f"{address}/api/events", timeout=30) as stream:
        lines = (line.removeprefix("data: ") for line in stream.iter_lines() if line.startswith("data: "))
        assert json.loads(next(lines)) == {"subject": "again"}
        with bench.pool.connection() as connection:
            make_collection(connection, "coast")
            coast = collection_named(connection, "coast")
            kept = make_set(connection, coast.id, "visitors")
            passed = Judgment(
                query_id="q1",
                record_key="a",
                judge="Ada",
                grade=None,
                note="",
                judged_at=datetime(1907, 3, 1, tzinfo=UTC),
            )
            put_judgments(connection, coast.id, kept.id, [passed])
        assert json.loads(next(lines)) == {"subject": "said", "id": kept.id, "collection": coast.id}
        later = Judgment(
            query_id="q1",
            record_key="a",
            judge="Ada",
            grade=None,
            note="a note",
            judged_at=datetime(1907, 3, 2, tzinfo=UTC),
        )
        with bench.pool.connection() as connection:
            put_judgments(connection, coast.id, kept.id, [later])
        assert json.loads(next(lines)) == {"subject": "said", "id": kept.id, "collection": coast.id}
