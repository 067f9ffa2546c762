"""Engineers and judges at work, and a search box that everybody uses: what goes wrong, and how long it takes."""

import asyncio
import random
import time
from collections.abc import Awaitable, Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, datetime
from multiprocessing import get_context
from typing import Any

import httpx
import numpy as np
import orjson

from tests.endurance.search_box import searched
from tests.endurance.settling import settled
from tests.endurance.traffic import queries_of_visitors

HOME = "/api/collections/saltmere"
SET = f"{HOME}/judged/visitors"
_ENGINEERS, _JUDGES = 14, 6
# In the middle: nobody turns a knob before they looked what the last turn did, or judges what they did not read.
_BETWEEN_EDITS_S, _BETWEEN_JUDGMENTS_S = 10.0, 5.0


@dataclass
class Load:
    """What came of it. seconds: of the searches of the box; others: of those that say nothing, since the machine was
    kept from its processors; passed_over: how many were not sent then; kept: how long it was kept from them, and for
    how long that excused; wrong: answers that should not be."""

    seconds: list[float] = field(default_factory=list)
    others: list[float] = field(default_factory=list)
    passed_over: int = 0
    kept: tuple[float, float] = (0.0, 0.0)
    wrong: list[str] = field(default_factory=list)
    asked: int = 0

    def percentile(self, share: float, *, with_others: bool = False) -> float:
        """Of the searches' times, in ms."""
        return 1000 * float(np.percentile(self.seconds + (self.others if with_others else []), share))


class Harbour:
    """address: of a server that holds the demo, box: of the one that the search box asks. rate: searches a second."""

    def __init__(self, address: str, box: str, rate: float, seed: int = 7) -> None:
        self.address, self.box, self.rate = address, box, rate
        self._random = random.Random(seed)
        self._queries: list[str] = []
        self._document: dict[str, Any] = {}
        self._keys: dict[str, str] = {}
        self._links: list[str] = []
        self._shown = ""
        self._turns = 0
        self._chains = 0

    def begin(self) -> None:
        """Has people there, looks what there is to ask, and has a judging task for whoever judges."""
        engineers: dict[str, str | None] = {f"engineer{number}": "engineer" for number in range(_ENGINEERS)}
        self._keys = settled(self.address, engineers)
        with httpx.Client(base_url=self.address, timeout=120, headers=_signed(self._keys["keeper"])) as client:
            self._queries = [one["query"] for one in client.get(SET).json()["queries"]]
            self._document = client.get(f"{HOME}/rankers/first").json()["document"]
            judges = [f"Judge {number}" for number in range(_JUDGES)]
            task = {"name": "all at once", "judges": judges, "sides": [{"ranker": {"name": "first"}}], "depth": 5}
            made = client.post(f"{SET}/tasks", json=task).json()[0]
            published = {"ranker": "first", "version": 1, "note": "for the search box"}
            assert client.post(f"{HOME}/delivery/live", json=published).status_code == 200
            # Who asks is one address, which asks as often as all visitors together.
            terms = {"per_minute": 1_000_000, "per_minute_each": 1_000_000}
            key = client.post(f"{HOME}/delivery/keys/visitors", json={"label": "the box", "terms": terms})
            self._shown = key.json()["shown"]
            self._links = [f"/api{one['path']}" for one in made["judges"]]

    async def go_on(self, seconds: float, *, only_searches: bool = False) -> Load:
        """Goes on for so long. only_searches: at rest, but for the box."""
        load, until = Load(), time.monotonic() + seconds
        # The box is a process of its own: what engineers have answered here must not hold up what it measures.
        box = ProcessPoolExecutor(1, mp_context=get_context("spawn"))
        async with httpx.AsyncClient(base_url=self.address, timeout=120) as client:
            at_work: list[Awaitable[None]] = [self._box(box, load, seconds)]
            if not only_searches:
                at_work += [
                    self._on_and_on(
                        lambda c, w, key=key: self._engineer(c, w, key), client, load, until, _BETWEEN_EDITS_S
                    )
                    for name, key in self._keys.items()
                    if name.startswith("engineer")
                ]
                at_work += [
                    self._on_and_on(
                        lambda c, w, link=link: self._judge(c, w, link), client, load, until, _BETWEEN_JUDGMENTS_S
                    )
                    for link in self._links
                ]
                at_work.append(self._on_and_on(self._rebuild, client, load, until, min(60.0, seconds / 4)))
            await asyncio.gather(*at_work)
        box.shutdown()
        return load

    async def _box(self, box: ProcessPoolExecutor, load: Load, seconds: float) -> None:
        """As a visitor's page does it."""
        self._turns += 1
        queries = queries_of_visitors(self._queries, int(self.rate * seconds) + 1, self._turns)
        bodies = [orjson.dumps({"query": query}) for query in queries]
        going = asyncio.get_running_loop().run_in_executor(
            box, searched, self.box, "/v1/saltmere/search", _signed(self._shown), bodies, self.rate, seconds
        )
        found = await going
        load.seconds, load.others, load.passed_over = found.seconds, found.others, found.passed_over
        load.kept = found.kept_s, found.excused_s
        load.wrong += found.wrong
        load.asked += len(found.seconds) + len(found.others)

    async def _engineer(self, client: httpx.AsyncClient, load: Load, key: str) -> None:
        """Turns a knob, looks what it does to a query, to all judged queries, and why."""
        # Each with a place of their own in the line.
        own = _signed(key)
        readings = [dict(one) for one in self._document["readings"]]
        readings[0]["weight"] = self._random.randint(1, 40) / 4
        ranker = {"document": {**self._document, "readings": readings}}
        query = self._random.choice(self._queries)
        found = await self._ask(client, load, "POST", f"{HOME}/search", {"query": query, "ranker": ranker}, own)
        measured = {"ranker": ranker, "measures": ["ndcg@10"]}
        await self._ask(client, load, "POST", f"{SET}/measure", measured, own, is_read=False)
        if found is not None and found["results"]:
            record = self._random.choice(found["results"])["key"]
            await self._ask(client, load, "POST", f"{HOME}/why", {"query": query, "key": record, "ranker": ranker}, own)
            await self._ask(client, load, "GET", f"{HOME}/record?key={record}", None, own)

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
        own = _signed(self._keys["keeper"])
        await self._ask(client, load, "POST", f"{HOME}/search", {"query": "fog bell", "ranker": ranker}, own)

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
        headers: dict[str, str] | None = None,
        *,
        is_read: bool = True,
    ) -> Any:
        load.asked += 1
        try:
            answer = await client.request(method, path, json=body, headers=headers)
        except httpx.HTTPError as error:
            load.wrong.append(f"{method} {path}: {error!r}")
            return None
        if answer.status_code != 200:
            load.wrong.append(f"{method} {path}: {answer.status_code} {answer.text[:300]}")
            return None
        # What takes turns with the server for the machine: nothing is read that is not needed.
        return orjson.loads(answer.content) if is_read else None


def _signed(key: str) -> dict[str, str]:
    return {"Authorization": f"Bearer {key}"}
