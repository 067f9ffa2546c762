"""Engineers and judges at work, and a search box that everybody uses: what goes wrong, and how long it takes."""

import asyncio
import random
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

import httpx
import numpy as np

HOME = "/api/collections/saltmere"
SET = f"{HOME}/judged/visitors"
_ENGINEERS, _JUDGES = 14, 6


@dataclass
class Load:
    """What came of it. seconds: of the searches of the box; wrong: answers that should not be."""

    seconds: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    asked: int = 0

    def percentile(self, share: float) -> float:
        """Of the searches' times, in ms."""
        return 1000 * float(np.percentile(self.seconds, share))


class Harbour:
    """address: of a server that holds the demo. rate: searches a second."""

    def __init__(self, address: str, rate: float, seed: int = 7) -> None:
        self.address, self.rate = address, rate
        self._random = random.Random(seed)
        self._queries: list[str] = []
        self._document: dict[str, Any] = {}
        self._links: list[str] = []
        self._chains = 0

    def begin(self) -> None:
        """Looks what there is to ask, and has a judging task for whoever judges."""
        with httpx.Client(base_url=self.address, timeout=120) as client:
            self._queries = [one["query"] for one in client.get(SET).json()["queries"]]
            self._document = client.get(f"{HOME}/rankers/first").json()["document"]
            judges = [f"Judge {number}" for number in range(_JUDGES)]
            task = {"name": "all at once", "judges": judges, "sides": [{"ranker": {"name": "first"}}], "depth": 5}
            made = client.post(f"{SET}/tasks", json=task).json()[0]
            self._links = [f"/api{one['path']}" for one in made["judges"]]

    async def go_on(self, seconds: float, *, only_searches: bool = False) -> Load:
        """Goes on for so long. only_searches: at rest, but for the box."""
        load, until = Load(), time.monotonic() + seconds
        limits = httpx.Limits(max_connections=200, max_keepalive_connections=200)
        async with httpx.AsyncClient(base_url=self.address, timeout=120, limits=limits) as client:
            at_work: list[Awaitable[None]] = [self._box(client, load, until)]
            if not only_searches:
                at_work += [self._on_and_on(self._engineer, client, load, until, 1.0) for _ in range(_ENGINEERS)]
                at_work += [
                    self._on_and_on(lambda c, w, link=link: self._judge(c, w, link), client, load, until, 2.0)
                    for link in self._links
                ]
                at_work.append(self._on_and_on(self._rebuild, client, load, until, min(60.0, seconds / 4)))
            await asyncio.gather(*at_work)
        return load

    async def _box(self, client: httpx.AsyncClient, load: Load, until: float) -> None:
        """Searches at a rate, whether or not the ones before were answered."""
        under_way: set[asyncio.Task[None]] = set()
        following = time.monotonic()
        while time.monotonic() < until:
            await asyncio.sleep(max(0.0, following - time.monotonic()))
            task = asyncio.create_task(self._search(client, load))
            under_way.add(task)
            task.add_done_callback(under_way.discard)
            following += 1 / self.rate
        await asyncio.gather(*under_way)

    async def _search(self, client: httpx.AsyncClient, load: Load) -> None:
        started = time.perf_counter()
        query = self._random.choice(self._queries)
        asked = {"query": query, "ranker": {"name": "first"}}
        # What takes turns with the server for the machine measures itself: nothing is read that is not needed.
        await self._ask(client, load, "POST", f"{HOME}/search", asked, is_read=False)
        load.seconds.append(time.perf_counter() - started)

    async def _engineer(self, client: httpx.AsyncClient, load: Load) -> None:
        """Turns a knob, looks what it does to a query, to all judged queries, and why."""
        readings = [dict(one) for one in self._document["readings"]]
        readings[0]["weight"] = self._random.randint(1, 40) / 4
        ranker = {"document": {**self._document, "readings": readings}}
        query = self._random.choice(self._queries)
        found = await self._ask(client, load, "POST", f"{HOME}/search", {"query": query, "ranker": ranker})
        await self._ask(client, load, "POST", f"{SET}/measure", {"ranker": ranker, "measures": ["ndcg@10"]})
        if found is not None and found["results"]:
            key = self._random.choice(found["results"])["key"]
            await self._ask(client, load, "POST", f"{HOME}/why", {"query": query, "key": key, "ranker": ranker})
            await self._ask(client, load, "GET", f"{HOME}/record?key={key}")

    async def _judge(self, client: httpx.AsyncClient, load: Load, link: str) -> None:
        desk = await self._ask(client, load, "GET", link)
        if desk is None:
            return
        query = self._random.choice(desk["queries"])
        await self._ask(client, load, "GET", f"{link}/queries/{query['query_id']}")
        said = {
            "query_id": query["query_id"],
            "record_key": self._random.choice(query["record_keys"]),
            "grade": self._random.randint(0, 3),
            "at": datetime.now(UTC).isoformat(),
        }
        await self._ask(client, load, "POST", f"{link}/said", {"said": [said]})

    async def _rebuild(self, client: httpx.AsyncClient, load: Load) -> None:
        """Has a field read through a chain that nobody had before."""
        self._chains += 1
        chain = f"words > lower > length(1, {40 + self._chains}) > stem(en)"
        ranker = {"document": {"readings": [{"field": "description", "chain": chain}]}}
        await self._ask(client, load, "POST", f"{HOME}/search", {"query": "fog bell", "ranker": ranker})

    async def _on_and_on(
        self,
        act: Callable[[httpx.AsyncClient, Load], Awaitable[None]],
        client: httpx.AsyncClient,
        load: Load,
        until: float,
        pause_s: float,
    ) -> None:
        await asyncio.sleep(self._random.uniform(0, pause_s))
        while time.monotonic() < until:
            await act(client, load)
            await asyncio.sleep(self._random.uniform(0.5, 1.5) * pause_s)

    async def _ask(
        self,
        client: httpx.AsyncClient,
        load: Load,
        method: str,
        path: str,
        body: dict[str, Any] | None = None,
        *,
        is_read: bool = True,
    ) -> Any:
        load.asked += 1
        try:
            answer = await client.request(method, path, json=body)
        except httpx.HTTPError as error:
            load.wrong.append(f"{method} {path}: {error!r}")
            return None
        if answer.status_code != 200:
            load.wrong.append(f"{method} {path}: {answer.status_code} {answer.text[:300]}")
            return None
        return answer.json() if is_read else None
