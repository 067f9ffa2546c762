"""A full disk is told of in words, by the server, its jobs and commands; nothing that was kept is lost by it."""

import errno
import os
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient

from pale_harbor.api.app import make_app
from pale_harbor.cli import rooms
from pale_harbor.errors import HarborError
from pale_harbor.store.running.jobs import add_job, job_with_id
from pale_harbor.work.collections import building
from pale_harbor.work.running import room
from pale_harbor.work.running.room import LEAST_FREE_BYTES, NO_ROOM, is_for_want_of_room, too_little_room
from pale_harbor.work.running.worker import do_job
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows


def full(*_: object, **__: object) -> None:
    raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


@pytest.mark.parametrize(
    ("error", "is_one"),
    [
        (OSError(errno.ENOSPC, "full"), True),
        (OSError(errno.EDQUOT, "quota"), True),
        (psycopg.errors.DiskFull("could not extend file"), True),
        (psycopg.OperationalError("gone"), False),
        (OSError(errno.EIO, "broken"), False),
        (ValueError("No space left on device"), False),
    ],
)
def test_want_of_room_is_told_from_other_trouble(error: Exception, is_one: bool):
    assert is_for_want_of_room(error) == is_one


@pytest.mark.parametrize(("free", "is_short"), [(LEAST_FREE_BYTES - 1, True), (LEAST_FREE_BYTES, False)])
def test_a_server_says_that_it_is_not_ready_before_the_last_byte_is_gone(
    bench: Workbench, monkeypatch: pytest.MonkeyPatch, free: int, is_short: bool
):
    def usage(_folder: str) -> Any:
        return SimpleNamespace(free=free)

    monkeypatch.setattr(room.psutil, "disk_usage", usage)
    with TestClient(make_app(bench, Path("/nonexistent")), base_url="http://127.0.0.1:7340") as client:
        health = client.get("/api/health").json()
        assert (health["started"], health["ready"]) == (True, not is_short)
        assert health["detail"] == (
            "Only 49 MB are left on the disk where the data is: hardly anything more can be kept. Make room; what was "
            "kept before is all there."
            if is_short
            else "the database answers"
        )
        told = next(line for line in client.get("/metrics").text.splitlines() if line.startswith("paleharbor_free_"))
        assert float(told.split()[1]) == free


def test_room_is_looked_for_where_the_folder_will_be(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    asked: list[str] = []

    def usage(folder: str) -> Any:
        asked.append(folder)
        return SimpleNamespace(free=LEAST_FREE_BYTES)

    monkeypatch.setattr(room.psutil, "disk_usage", usage)
    assert too_little_room(tmp_path / "not" / "there") is None
    assert asked == [str(tmp_path)]


def test_an_index_that_cannot_be_written_is_told_of_and_built_once_there_is_room(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
    app = make_app(bench, Path("/nonexistent"))
    client = TestClient(app, base_url="http://127.0.0.1:7340", raise_server_exceptions=False)
    ranker = {"document": {"readings": [{"field": "title", "chain": "words > lower"}]}}
    asked = {"query": "fog", "ranker": ranker}
    monkeypatch.setattr(building, "write_index", full)
    refused = client.post("/api/collections/coast/search", json=asked)
    assert (refused.status_code, refused.json()["detail"]) == (503, NO_ROOM)
    monkeypatch.undo()
    assert client.post("/api/collections/coast/search", json=asked).json()["matched"] == 1


def test_other_trouble_with_files_is_not_taken_for_it(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    def broken(*_: object) -> None:
        raise OSError(errno.EIO, "Input/output error")

    client = TestClient(
        make_app(bench, Path("/nonexistent")), base_url="http://127.0.0.1:7340", raise_server_exceptions=False
    )
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
    monkeypatch.setattr(building, "write_index", broken)
    assert client.post("/api/collections/coast/search", json={"query": "fog"}).status_code == 500


@pytest.mark.parametrize(
    ("error", "says"),
    [
        (OSError(errno.ENOSPC, "full"), NO_ROOM),
        (psycopg.errors.DiskFull("could not extend file"), NO_ROOM),
        (OSError(errno.EIO, "broken"), "A mistake of the program's ended this; its log says more."),
    ],
)
def test_a_job_that_lacks_room_fails_and_says_so(bench: Workbench, error: Exception, says: str):
    with bench.pool.connection() as connection:
        job = add_job(connection, "import", None, by_server=True, new_collection="pier")

    def doing(*_: object) -> None:
        raise error

    with pytest.raises(type(error)):
        do_job(bench.pool, job, doing)  # pyright: ignore[reportArgumentType]
    with bench.pool.connection() as connection:
        ended = job_with_id(connection, job)
    assert (ended.state, ended.problem) == ("failed", says)


@pytest.mark.parametrize(
    ("error", "says"),
    [
        (
            OSError(errno.ENOSPC, "full", "/ships/log.csv"),
            "There is no room left on the disk, and /ships/log.csv could not be written. Make room, and do it again.",
        ),
        (psycopg.errors.DiskFull("could not extend file"), NO_ROOM),
        (HarborError("There is no collection."), "There is no collection."),
    ],
)
def test_a_command_says_so_too(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], error: Exception, says: str
):
    def app_for(_command: str | None) -> Any:
        def app(**_: object) -> None:
            raise error

        return app

    monkeypatch.setattr(rooms, "app_for", app_for)
    assert rooms.run(["list"]) == 1
    assert capsys.readouterr().err == f"paleharbor: {says}\n"
