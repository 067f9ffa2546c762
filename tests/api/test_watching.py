"""What a watcher reads, and the number that an answer and the log have in common."""

import re
from collections.abc import Callable, Generator
from pathlib import Path
from typing import Any

import pytest
import structlog
from fastapi.testclient import TestClient
from prometheus_client.openmetrics.parser import text_string_to_metric_families
from structlog.testing import LogCapture

from pale_harbor.api.app import make_app
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.running.jobs import add_job
from pale_harbor.work.workbench import Workbench
from tests.api import people
from tests.api.people import ADDRESS, LOCAL_KEY, Town
from tests.loading import load_rows


@pytest.fixture
def client(bench: Workbench) -> Generator[TestClient]:
    with TestClient(make_app(bench, Path("/nonexistent")), base_url=ADDRESS, raise_server_exceptions=False) as opened:
        yield opened


def told(client: TestClient, **headers: str) -> dict[tuple[str, tuple[tuple[str, str], ...]], float]:
    answer = client.get("/metrics", headers=headers)
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"].startswith("application/openmetrics-text")
    return {
        (sample.name, tuple(sorted(sample.labels.items()))): sample.value
        for family in text_string_to_metric_families(answer.text)
        for sample in family.samples
    }


def test_requests_are_counted_and_timed_by_endpoint_and_status(client: TestClient):
    client.get("/api/collections")
    client.get("/api/collections")
    client.get("/api/collections/the-lamp-room")
    found = told(client)
    assert found["paleharbor_requests_total", (("endpoint", "collections"), ("status", "200"))] == 2
    assert found["paleharbor_requests_total", (("endpoint", "collection"), ("status", "404"))] == 1
    assert found["paleharbor_request_seconds_count", (("endpoint", "collections"),)] == 2
    # What was asked for is nobody's business who watches.
    assert "lamp" not in client.get("/metrics").text


def test_memory_jobs_and_the_database_are_told_as_they_are_now(client: TestClient, bench: Workbench):
    before = told(client)
    assert before["paleharbor_database_answers", ()] == 1
    assert before["paleharbor_resident_bytes", ()] > 10_000_000
    assert before["paleharbor_open_files", ()] > 0
    caches = {dict(labels)["cache"] for name, labels in before if name == "paleharbor_cache_bytes"}
    assert caches == {one.name for one in bench.memory.state()}
    with bench.pool.connection() as connection:
        add_job(connection, "import", None, by_server=False, new_collection="pier")
    assert told(client)["paleharbor_jobs", (("kind", "import"), ("state", "waiting"))] == 1


def test_searches_are_timed_part_by_part_and_so_is_what_is_built(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}, {"id": "b", "title": "Lamp"}])
    asked = {"query": "lamp", "facets": [{"field": "title"}]}
    for _ in range(2):
        assert client.post("/api/collections/coast/search", json=asked).status_code == 200
    found = told(client)
    parts = {
        dict(labels)["part"]: value
        for (name, labels), value in found.items()
        if name == "paleharbor_search_part_seconds_count"
    }
    assert parts.pop("fetching records") >= 2
    assert parts == dict.fromkeys(["getting ready", "reading the query", "ranking", "facets", "marking"], 2)
    # One for each field that the ranker reads, and once.
    assert found["paleharbor_build_seconds_count", (("what", "index"),)] == 2
    other = {"readings": [{"field": "title", "chain": "whole"}]}
    client.post("/api/collections/coast/search", json=asked | {"ranker": {"document": other}})
    assert told(client)["paleharbor_build_seconds_count", (("what", "index"),)] == 3


def test_spaces_that_are_behind_and_past_queries_are_told(bench: Workbench, tmp_path: Path):
    # Without a server that fills again what changed.
    client = TestClient(make_app(bench, Path("/nonexistent")), base_url=ADDRESS, raise_server_exceptions=False)
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
    home = "/api/collections/coast"
    past = {"source": "asked.txt", "text": "fog\nbell\nfog\n"}
    assert client.put(f"{home}/past-queries", json=past).status_code == 200
    space = {"document": {"source": {"kind": "packaged"}, "fields": ["title"]}}
    assert client.put(f"{home}/spaces/titles", json=space).status_code == 200
    # Never filled yet, it is not behind.
    assert told(client)["paleharbor_spaces_behind", ()] == 0
    with bench.pool.connection() as connection:
        connection.execute("update spaces set records_revision = (select revision from collections)")
    found = told(client)
    assert (found["paleharbor_past_queries", ()], found["paleharbor_spaces_behind", ()]) == (2, 0)
    client.post(f"{home}/records", json={"records": [{"id": "b", "title": "Lamp"}]})
    assert told(client)["paleharbor_spaces_behind", ()] == 1


def test_it_is_for_keepers_alone(
    cluster: Cluster, empty_database: Callable[[], str], tmp_path_factory: pytest.TempPathFactory
):
    with people.town(cluster, empty_database, tmp_path_factory.mktemp("town")) as town:
        self_key = {"authorization": f"Bearer {LOCAL_KEY}"}
        assert told(town.browser(), **self_key)["paleharbor_database_answers", ()] == 1
        assert _status(town, "nobody") == 401
        assert _status(town, "owner") == 403


def _status(town: Town, who: str) -> int:
    return town.browsers[who].get("/metrics").status_code


def test_every_answer_has_a_number_of_its_own_and_so_has_what_was_logged(
    client: TestClient, bench: Workbench, monkeypatch: pytest.MonkeyPatch
):
    first, second = (client.get("/api/collections").headers["x-request-id"] for _ in range(2))
    assert first != second
    assert re.fullmatch("[0-9a-f]{16}", first)

    def fails(*_: Any) -> None:
        raise RuntimeError("the lamp went out")

    monkeypatch.setattr("pale_harbor.api.collections.routes.collections_told", fails)
    captured = LogCapture()
    structlog.configure(processors=[structlog.contextvars.merge_contextvars, captured])
    try:
        failed = client.get("/api/collections")
    finally:
        structlog.reset_defaults()
    number = failed.headers["x-request-id"]
    assert failed.status_code == 500
    assert f"under the request {number}" in failed.json()["detail"]
    assert [one["request"] for one in captured.entries if one["event"] == "unforeseen error"] == [number]
