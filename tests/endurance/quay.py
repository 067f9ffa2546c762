"""A large collection at the search endpoint, and an engineer who has all that is long going beside it."""

import json
import threading
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from typing import Any

import httpx
import numpy as np
import orjson

from benchmarks.synthetic import synthetic
from tests.endurance.harbor import until
from tests.endurance.search_box import Searched, searched
from tests.endurance.traffic import queries_of_visitors

HOME = "/api/collections/quay"
SET = f"{HOME}/judged/asked"
_KINDS = ("letter", "object", "picture", "map")
_RANKER = {
    "readings": [
        {"field": "title", "chain": "words > lower", "weight": 3},
        {"field": "text", "chain": "words > lower > stem(en)"},
    ]
}
_UNFINISHED = ("waiting", "running")
_SECONDS_TO_END = 1_800


class Quay:
    """address: of the server that changes what is changed."""

    def __init__(self, address: str, record_count: int, query_count: int = 2_000) -> None:
        self.address, self._made = address, synthetic(record_count, query_count)
        self._key = ""
        self._chains = self._visits = 0
        self._ended = threading.Event()
        self.wrong: list[str] = []

    def begin(self) -> None:
        """Has the collection there, with a judged set and a space, its ranker live, and a key for visitors."""
        with httpx.Client(base_url=self.address, timeout=600) as client:
            lines = "".join(json.dumps(_record(number, text)) + "\n" for number, text in enumerate(self._made.records))
            upload = _well(client.post("/api/uploads", params={"name": "quay.jsonl"}, content=lines))["upload"]
            body = {"source": {"upload": upload}, "plan": {"key": "id"}}
            self._done(client, f"/api/imports/{_well(client.post(f'{HOME}/imports', json=body))['id']}")
            _well(client.put(f"{HOME}/rankers/quay", json={"document": _RANKER}))
            asked = self._made.queries[:20]
            queries = "".join(f"{number}\t{query}\n" for number, query in enumerate(asked))
            grades = "".join(f"{number} 0 r{record} {record % 4}\n" for number in range(20) for record in range(30))
            _well(client.put(f"{SET}/files", json={"queries": queries, "judgments": grades}))
            space = {"document": {"source": {"kind": "packaged"}, "fields": ["title"]}}
            _well(client.put(f"{HOME}/spaces/titles", json=space))
            _well(client.post(f"{HOME}/delivery/live", json={"ranker": "quay"}))
            terms = {"per_minute": 10_000_000, "per_minute_each": 10_000_000}
            made = _well(client.post(f"{HOME}/delivery/keys/visitors", json={"label": "all", "terms": terms}))
            self._key = made["shown"]

    def visited(self, servers: list[str], rate: float, seconds: float) -> Searched:
        """So many searches a second with facets and filters, spread over servers that answer visitors; every fourth one
        nobody asked before."""
        self._visits += 1
        queries = queries_of_visitors(self._made.queries, int(rate * seconds) + len(servers), self._visits)
        bodies = [orjson.dumps(_asked(number, query)) for number, query in enumerate(queries)]
        signed = {"Authorization": f"Bearer {self._key}"}
        # Who measures is a process of their own, which nothing else holds up.
        with ProcessPoolExecutor(len(servers), mp_context=get_context("spawn")) as boxes:
            going = [
                boxes.submit(
                    searched,
                    server,
                    "/v1/quay/search",
                    signed,
                    # Each of them both what is known and what is new.
                    bodies[number * len(bodies) // len(servers) : (number + 1) * len(bodies) // len(servers)],
                    rate / len(servers),
                    seconds,
                )
                for number, server in enumerate(servers)
            ]
            found = [one.result() for one in going]
        whole = Searched(
            passed_over=sum(one.passed_over for one in found),
            kept_s=max(one.kept_s for one in found),
            excused_s=max(one.excused_s for one in found),
        )
        for one in found:
            whole.seconds.extend(one.seconds)
            whole.others.extend(one.others)
            whole.wrong.extend(one.wrong)
        return whole

    def kept(self) -> int:
        """How many of the lists that visitors asked for are kept."""
        with httpx.Client(base_url=self.address, timeout=600) as client:
            told = _well(client.get(f"{HOME}/delivery/past", params={"days": 1, "count": 1}))
        return sum(int(day["asked"]) for day in told["days"])

    def work(self) -> list[threading.Thread]:
        """Begins to build, fill and tune, each over and over, until `rest`."""
        self._ended.clear()
        threads = [
            threading.Thread(target=self._on_and_on, args=(way,), daemon=True)
            for way in (self._rebuild, self._fill, self._tune)
        ]
        for one in threads:
            one.start()
        return threads

    def rest(self, threads: list[threading.Thread]) -> None:
        """Ends it."""
        self._ended.set()
        for one in threads:
            one.join(_SECONDS_TO_END)

    def _on_and_on(self, way: Any) -> None:
        with httpx.Client(base_url=self.address, timeout=600) as client:
            while not self._ended.is_set():
                try:
                    way(client)
                except (AssertionError, httpx.HTTPError) as error:
                    self.wrong.append(repr(error))
                    return

    def _rebuild(self, client: httpx.Client) -> None:
        """Has the texts read through a chain that nobody had before."""
        self._chains += 1
        chain = f"words > lower > length(1, {40 + self._chains}) > stem(en)"
        ranker = {"document": {"readings": [{"field": "text", "chain": chain}]}}
        _well(client.post(f"{HOME}/search", json={"query": self._made.queries[0], "ranker": ranker}))

    def _fill(self, client: httpx.Client) -> None:
        told = client.post(f"{HOME}/spaces/titles/fill", json={"anew": True})
        assert told.status_code in (200, 422), told.text
        self._done(client, f"{HOME}/spaces/titles")

    def _tune(self, client: httpx.Client) -> None:
        plan = {
            "ranker": "quay",
            "version": 1,
            "knobs": ["readings.title.weight=0.5..6/0.5", "readings.text.b=0..1/0.1"],
        }
        made = _well(client.post(f"{SET}/tunings", json=plan))["id"]
        self._done(client, f"{HOME}/tunings/{made}")

    def _done(self, client: httpx.Client, path: str) -> None:
        """Waits until a job has ended, or until nothing of it is wanted any more."""
        seen: list[Any] = [None]

        def has_ended() -> bool:
            seen[0] = _well(client.get(path))
            return self._ended.is_set() or seen[0]["state"] not in _UNFINISHED

        until(has_ended, _SECONDS_TO_END, lambda: f"{path} is stuck: {seen[0]}")
        assert self._ended.is_set() or seen[0]["state"] == "done", seen[0]


def percentile(found: Searched, share: float, *, with_others: bool = False) -> float:
    """Of the searches' times, in ms."""
    return 1000 * float(np.percentile(found.seconds + (found.others if with_others else []), share))


def _record(number: int, text: str) -> dict[str, Any]:
    words = text.split()
    return {
        "id": f"r{number}",
        "title": " ".join(words[:5]),
        "text": text,
        "kind": _KINDS[number % len(_KINDS)],
        "place": f"place {number % 23}",
        "year": 1700 + number % 250,
    }


def _asked(number: int, query: str) -> dict[str, Any]:
    """Every fifth one is narrowed by a value, as visitors do who clicked it."""
    facets = [{"field": "kind"}, {"field": "place"}]
    filters = [{"field": "kind", "one_of": [_KINDS[number // 5 % len(_KINDS)]]}] if number % 5 == 0 else []
    return {"query": query, "facets": facets, "filters": filters, "session": f"visitor-{number:06d}"}


def _well(answer: httpx.Response) -> Any:
    assert answer.status_code == 200, f"{answer.request.method} {answer.request.url}: {answer.text[:2_000]}"
    return answer.json()
