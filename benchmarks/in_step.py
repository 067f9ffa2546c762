"""How soon a search finds what is written in a live database, and what following costs that database.

The database and whoever works in it have one processor, Pale Harbor another one, as if they were two machines.
"""

import os
import re
import subprocess
from collections.abc import Generator
from contextlib import contextmanager
from typing import Any, Final

import httpx
import psutil

from benchmarks.figures import Figures
from pale_harbor.store.cluster import Cluster, programs_there
from tests.conftest import make_data_folder
from tests.endurance.harbor import Harbor, harbor, until
from tests.endurance.in_step_load import written_to
from tests.endurance.test_kills_in_step import HOME, begin_to_follow, come_in_step, well
from tests.following.conftest import newsroom_of
from tests.following.newsroom import PASSWORD, READER, Newsroom, connection_document

_LOGICAL: Final = "-c wal_level=logical -c max_slot_wal_keep_size=2GB -c shared_buffers=256MB"
_SECONDS_TO_READ_EVERYTHING: Final = 600
_ROUNDS: Final = 3
_ACCOUNTS: Final = "select aid, bid, abalance, filler from pgbench_accounts"


def latency_figures(articles: int = 100_000, rate: float = 200.0, seconds: float = 60.0) -> list[Figures]:
    """From a commit in the database until a search finds it, while it is changed at a pace."""
    figures: list[Figures] = []
    for way in ("triggers", "decoding"):
        with _source() as source, newsroom_of(source, articles) as newsroom, harbor() as here:
            begin_to_follow(here, newsroom, way)
            come_in_step(here, newsroom, _SECONDS_TO_READ_EVERYTHING)
            load = written_to(newsroom, here, seconds, rate, articles, seed=20)
            come_in_step(here, newsroom, _SECONDS_TO_READ_EVERYTHING)
            figures.append(
                {
                    "way": way,
                    "records": articles,
                    "changes a second": round(load.changes / load.seconds),
                    "found after, median s": round(load.median_s, 2),
                    "slowest s": round(load.slowest_s, 2),
                    "not found": load.unfound,
                }
            )
    return figures


def load_figures(seconds: int = 15) -> list[Figures]:
    """pgbench's default script, alone and followed: the share of its throughput that following costs.

    other tables: those of a newsroom, in which nothing changes; its own: the accounts that the script changes.
    """
    figures: list[Figures] = []
    for way in ("triggers", "decoding"):
        for what in ("other tables", "its own"):
            with _source() as source, newsroom_of(source, 2_000) as newsroom, harbor() as here:
                _apart(source, here)
                _bench(newsroom, "-i", "-q", "-s", "1")
                newsroom.do(f"grant select on pgbench_accounts to {READER}")
                figures.append({"way": way, "follows": what, **_compared(here, newsroom, way, what, seconds)})
    return figures


def _compared(here: Harbor, newsroom: Newsroom, way: str, what: str, seconds: int) -> Figures:
    alone: list[float] = []
    followed: list[float] = []
    _rate(newsroom, 5)
    removal, session_s = "", 0.0
    for _ in range(_ROUNDS):
        # In turn, since a machine is not always as quick.
        alone.append(_rate(newsroom, seconds))
        if what == "its own":
            _follow_accounts(here, newsroom, way)
        else:
            begin_to_follow(here, newsroom, way)
        _wait_until_in_step(here)
        before = _session_s(newsroom)
        followed.append(_rate(newsroom, seconds))
        session_s += max(0.0, _session_s(newsroom) - before)
        _wait_until_in_step(here)
        with httpx.Client(base_url=here.address, timeout=60) as client:
            removal = well(client.delete(f"{HOME}/following"))["removal"]
        newsroom.run_script(removal)
        newsroom.do("vacuum analyze")
    best, own = sorted(alone)[len(alone) // 2], sorted(followed)[len(followed) // 2]
    return {
        "alone a second": round(best),
        "followed a second": round(own),
        "costs": f"{100 * (1 - own / best):.1f} %",
        # What throughput says within the machine's noise, this says without it, of all that is done in our session.
        "our session": f"{100 * session_s / (_ROUNDS * seconds):.1f} % of the processor",
        "all": " ".join(f"{one:.0f}/{other:.0f}" for one, other in zip(alone, followed, strict=True)),
    }


def _follow_accounts(here: Harbor, newsroom: Newsroom, way: str) -> None:
    tables = [{"name": "pgbench_accounts", "owners": "select {aid}"}]
    with httpx.Client(base_url=here.address, timeout=120) as client:
        client.post("/api/collections", json={"name": "articles"})
        connection = f"{HOME}/connections/newsroom"
        well(client.put(connection, json={"document": connection_document(newsroom), "password": PASSWORD}))
        said: dict[str, Any] = {"query": _ACCOUNTS, "key": "aid", "tables": tables}
        looked = well(client.post(f"{connection}/look", json=said))
        newsroom.run_script(next(one["script"] for one in looked["ways"] if one["way"] == way))
        well(client.put(f"{HOME}/following", json={"document": {"connection": "newsroom", "way": way, **said}}))


def _session_s(newsroom: Newsroom) -> float:
    """How long the database's processor worked for whoever follows, in seconds."""
    pids = [pid for (pid,) in newsroom.do(f"select pid from pg_stat_activity where usename = '{READER}'")]
    return sum(sum(psutil.Process(pid).cpu_times()[:2]) for pid in pids)


def _wait_until_in_step(here: Harbor) -> None:
    told: list[Any] = [None]

    def is_in_step() -> bool:
        told[0] = httpx.get(f"{here.address}{HOME}/following", timeout=60).json()
        return told[0]["standing"] == "in step"

    until(is_in_step, _SECONDS_TO_READ_EVERYTHING, lambda: f"It does not come in step: {told[0]}")


@contextmanager
def _source() -> Generator[Cluster]:
    """A cluster that keeps what it says it keeps."""
    cluster = Cluster(make_data_folder() / "database", _LOGICAL)
    cluster.start()
    try:
        yield cluster
    finally:
        cluster.stop(at_once=True)


def _apart(source: Cluster, here: Harbor) -> None:
    if (os.cpu_count() or 1) < 2 or here.process is None:
        return
    theirs = psutil.Process(int((source.files / "postmaster.pid").read_text().split()[0]))
    ours = [
        psutil.Process(here.process.pid),
        psutil.Process(int((here.cluster.files / "postmaster.pid").read_text().split()[0])),
    ]
    for one in (theirs, *theirs.children(recursive=True)):
        one.cpu_affinity([0])
    for one in [each for own in ours for each in (own, *own.children(recursive=True))]:
        one.cpu_affinity([1])


def _rate(newsroom: Newsroom, seconds: int) -> float:
    said = _bench(newsroom, "-c", "4", "-T", str(seconds))
    found = re.search(r"tps = ([0-9.]+)", said)
    assert found is not None, said
    return float(found[1])


def _bench(newsroom: Newsroom, *how: str) -> str:
    programs = programs_there()
    done = subprocess.run(
        ["taskset", "-c", "0", str(programs[max(programs)] / "pgbench"), *how, newsroom.address],
        check=True,
        capture_output=True,
        text=True,
    )
    return done.stdout + done.stderr
