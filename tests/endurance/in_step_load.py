"""A newsroom that goes on working at a pace, and how soon a search finds what it wrote."""

import random
import threading
import time
from dataclasses import dataclass, field

import httpx
import numpy as np

from tests.endurance.harbor import Harbor
from tests.following.newsroom import Newsroom, change_something

HOME = "/api/collections/articles"
_WRITERS = 2
_SECONDS_BETWEEN_PROBES = 0.7
_SECONDS_BETWEEN_LOOKS = 0.05
_LONGEST_S = 60.0


@dataclass
class InStepLoad:
    """What came of it. latencies: in seconds, from when a change was committed until a search found it; unfound: those
    that were not found at all; changes: that were made, in so many seconds."""

    latencies: list[float] = field(default_factory=list)
    unfound: int = 0
    changes: int = 0
    seconds: float = 0.0

    @property
    def median_s(self) -> float:
        return float(np.median(self.latencies))

    @property
    def slowest_s(self) -> float:
        return max(self.latencies)


def written_to(newsroom: Newsroom, here: Harbor, seconds: float, rate: float, articles: int, seed: int) -> InStepLoad:
    """Works in the newsroom for so many seconds, so many changes in each; asks for some until they are found."""
    load = InStepLoad()
    lock, ended = threading.Lock(), threading.Event()

    def write(number: int) -> None:
        rng = random.Random(seed + number)
        with newsroom.connect() as connection:
            due = time.monotonic()
            while not ended.is_set():
                change_something(connection, rng, range(1, articles + 1))
                with lock:
                    load.changes += 1
                due += _WRITERS / rate
                ended.wait(max(0.0, due - time.monotonic()))

    def probe(number: int, article: int) -> None:
        # One word that stands nowhere else.
        word = f"xq{seed}{number:05d}z"
        newsroom.do("update articles set title = %s, changed = clock_timestamp() where id = %s", word, article)
        committed = time.monotonic()
        with httpx.Client(base_url=here.address, timeout=30) as client:
            while time.monotonic() - committed < _LONGEST_S:
                answer = client.post(f"{HOME}/search", json={"query": word})
                if answer.status_code == 200 and [one["key"] for one in answer.json()["results"]] == [str(article)]:
                    with lock:
                        load.latencies.append(time.monotonic() - committed)
                    return
                time.sleep(_SECONDS_BETWEEN_LOOKS)
        with lock:
            load.unfound += 1

    threads = [threading.Thread(target=write, args=[number], daemon=True) for number in range(_WRITERS)]
    began = time.monotonic()
    for one in threads:
        one.start()
    # Of their own, which nobody else touches.
    rng = random.Random(seed)
    probes: list[threading.Thread] = []
    own = [
        int(newsroom.do("insert into articles (title, author_id) values ('still to be written', 1) returning id")[0][0])
        for _ in range(round(seconds / _SECONDS_BETWEEN_PROBES) + 1)
    ]
    while time.monotonic() - began < seconds:
        one = threading.Thread(target=probe, args=[len(probes), own[len(probes) % len(own)]], daemon=True)
        one.start()
        probes.append(one)
        time.sleep(_SECONDS_BETWEEN_PROBES * rng.uniform(0.8, 1.2))
    ended.set()
    load.seconds = time.monotonic() - began
    for one in [*threads, *probes]:
        one.join(_LONGEST_S + 10)
    return load
