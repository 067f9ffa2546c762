"""Whoever is killed at whatever moment, the server, the follower, our database or theirs: afterwards a collection that
follows a live database is what its query gives, and no record ever went back.

`ENDURED_KILLS=40` in the environment tries it so often in each way.
"""

import json
import os
import random
import signal
import threading
from collections.abc import Generator
from contextlib import contextmanager
from typing import Any

import httpx
import psutil
import psycopg
import pytest

from pale_harbor.store.cluster import Cluster
from tests.conftest import make_data_folder
from tests.endurance.harbor import Harbor, harbor, scaled, until
from tests.following.conftest import DECODES, newsroom_of
from tests.following.newsroom import (
    PASSWORD,
    QUERY,
    TABLES,
    Newsroom,
    change_something,
    connection_document,
)

HOME = "/api/collections/articles"
SEED = 20_260_717
VICTIMS = ("server", "follower", "database", "source")
_SECONDS_TO_COME_IN_STEP = 120


@contextmanager
def source_cluster() -> Generator[Cluster]:
    cluster = Cluster(make_data_folder() / "database", DECODES)
    cluster.start()
    try:
        yield cluster
    finally:
        cluster.stop(at_once=True)


class Writers:
    """Whoever works in the newsroom: they come back when it does."""

    def __init__(self, newsroom: Newsroom, count: int = 2) -> None:
        self._ended = threading.Event()
        self._threads = [
            threading.Thread(target=self._write, args=[newsroom, random.Random(SEED + number)], daemon=True)
            for number in range(count)
        ]
        self.changes = 0

    def _write(self, newsroom: Newsroom, rng: random.Random) -> None:
        while not self._ended.is_set():
            try:
                with newsroom.connect() as connection:
                    while not self._ended.is_set():
                        change_something(connection, rng)
                        self.changes += 1
                        self._ended.wait(rng.uniform(0, 0.02))
            except psycopg.Error:
                self._ended.wait(0.1)

    def __enter__(self) -> "Writers":
        for one in self._threads:
            one.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        for one in self._threads:
            one.join(60)


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_after_every_kill_it_comes_to_what_the_query_gives(way: str):
    kills = scaled(4, "ENDURED_KILLS")
    moments = random.Random(SEED)
    with source_cluster() as source, newsroom_of(source, 60) as newsroom, harbor() as here:
        begin_to_follow(here, newsroom, way)
        come_in_step(here, newsroom)
        for number in range(kills):
            with Writers(newsroom) as writers:
                # The moment itself is what is tried.
                threading.Event().wait(moments.uniform(0.3, 2.0))
                kill(here, source, VICTIMS[number % len(VICTIMS)])
                threading.Event().wait(moments.uniform(0.0, 0.5))
            assert writers.changes > 0
            come_in_step(here, newsroom)
        never_went_back(here)


def begin_to_follow(here: Harbor, newsroom: Newsroom, way: str) -> None:
    with httpx.Client(base_url=here.address, timeout=60) as client:
        client.post("/api/collections", json={"name": "articles"})
        connection = f"{HOME}/connections/newsroom"
        well(client.put(connection, json={"document": connection_document(newsroom), "password": PASSWORD}))
        looked = well(client.post(f"{connection}/look", json={"query": QUERY, "key": "id", "tables": TABLES}))
        newsroom.run_script(next(one["script"] for one in looked["ways"] if one["way"] == way))
        document = {"connection": "newsroom", "query": QUERY, "key": "id", "tables": TABLES, "way": way}
        well(client.put(f"{HOME}/following", json={"document": document}))


def kill(here: Harbor, source: Cluster, victim: str) -> None:
    """Kills one of them, and has it begun again as whoever keeps it would."""
    match victim:
        case "server":
            here.kill()
            here.start()
        case "follower":
            os.kill(follower_of(here), signal.SIGKILL)
        case "database":
            here.kill_database()
            here.cluster.start()
            here.wait_until_ready()
        case _:
            family = psutil.Process(int((source.files / "postmaster.pid").read_text().split()[0]))
            dead = [family, *family.children(recursive=True)]
            for one in dead:
                one.kill()
            psutil.wait_procs(dead, timeout=60)
            source.start()


def follower_of(here: Harbor) -> int:
    """The process of the server's that follows."""
    assert here.process is not None
    server = psutil.Process(here.process.pid)
    found: list[int] = []

    def is_there() -> bool:
        found[:] = [
            one.pid
            for one in server.children(recursive=True)
            if "spawn_main" in " ".join(one.cmdline()) and "resource_tracker" not in " ".join(one.cmdline())
        ]
        return bool(found)

    until(is_there, 60, lambda: "Nobody follows.")
    return found[0]


def come_in_step(here: Harbor, newsroom: Newsroom, seconds: float = _SECONDS_TO_COME_IN_STEP) -> None:
    wanted = newsroom.records()
    seen: dict[str, Any] = {}

    def are_equal() -> bool:
        try:
            answer = httpx.get(f"{here.address}{HOME}/export", params={"format": "jsonl"}, timeout=60)
        except httpx.HTTPError:
            return False
        if answer.status_code != 200:
            return False
        rows = [line for line in answer.text.splitlines() if line]
        records = [json.loads(line) for line in rows]
        seen.clear()
        seen.update({str(one["id"]): one for one in records})
        assert len(seen) == len(records), "A record is there twice."
        return seen == wanted

    def complaint() -> str:
        told = httpx.get(f"{here.address}{HOME}/following", timeout=60).text
        differing = [key for key in wanted.keys() | seen.keys() if wanted.get(key) != seen.get(key)]
        return f"{len(differing)} records differ, such as {differing[:3]}: {told[:2_000]}\n{here.log[-3_000:]}"

    until(are_equal, seconds, complaint)


def never_went_back(here: Harbor) -> None:
    """Of every record, what it was once is older than what it was later."""
    with httpx.Client(base_url=here.address, timeout=60) as client:
        looked_at = 0
        for key in range(1, 40):
            earlier = client.get(f"{HOME}/record/earlier", params={"key": str(key)})
            if earlier.status_code != 200:
                continue
            moments = [one["field_values"]["changed"] for one in well(earlier)][::-1]
            assert moments == sorted(moments), key
            looked_at += len(moments)
        assert looked_at > 0


def well(answer: httpx.Response) -> Any:
    assert answer.is_success, f"{answer.request.url}: {answer.text[:2_000]}"
    return answer.json() if answer.content else None
