"""What a search takes alone, beside nineteen other people who search, and while a whole collection is read as well."""

import json
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from http.client import HTTPConnection
from itertools import count
from statistics import quantiles
from threading import Event
from time import monotonic, perf_counter, sleep, time
from typing import Any, Final
from urllib.parse import urlsplit

from benchmarks.figures import Figures
from pale_harbor.settings import settings
from pale_harbor.work.serving import running_address

PEOPLE: Final = 20
_SECONDS: Final = 15.0
# Chains that no earlier run on the same server has read by.
_FRESH: Final = 1_000 + int(time()) % 100_000


def company_figures(collection: str, judged_set: str, field: str, seconds: float = _SECONDS) -> list[Figures]:
    """Of a server that runs, in milliseconds: searches for queries of a judged set, each by somebody who asks the next
    one as soon as they have an answer. field: what is read through chain after chain meanwhile, the first text where it
    is empty."""
    address = running_address(settings())
    if address is None:
        return [{"company": "not measured: start the application first with ./paleharbor up"}]
    home = f"/api/collections/{collection}"
    keeper = _Person(address, 1)
    fields = keeper.asked("GET", home)["fields"]
    field = field or next((one["name"] for one in fields if one["kind"] == "text"), "")
    if not field:
        return [{"company": f'not measured: "{collection}" has no field of text'}]
    readings = 0
    queries = [one["query"] for one in keeper.asked("GET", f"{home}/judged/{judged_set}")["queries"]]
    for query in queries:
        keeper.asked("POST", f"{home}/search", {"query": query})

    def read(ended: Event) -> None:
        """Reads the whole field through a chain that nobody had, again and again."""
        nonlocal readings
        reader = _Person(address, PEOPLE + 2)
        for number in count(_FRESH):
            chain = f"words > lower > stem(en) > limit({number})"
            ask = {"field": field, "record_chain": chain, "query_chain": chain}
            told = reader.asked("POST", f"{home}/consequences", ask)["reckoning"]
            while told["state"] == "running" and not ended.is_set():
                sleep(0.05)
                told = reader.asked("GET", f"/api/reckonings/{told['id']}")
            if ended.is_set():
                return
            readings += told["state"] == "done"

    def searched(people: int, beside: Callable[[Event], None] | None = None) -> Figures:
        until, ended = monotonic() + seconds, Event()

        def go_on(number: int) -> list[float]:
            person, taken = _Person(address, number + 2), list[float]()
            while monotonic() < until:
                began = perf_counter()
                query = queries[(number * 7 + len(taken)) % len(queries)]
                person.asked("POST", f"{home}/search", {"query": query, "top": 20})
                taken.append((perf_counter() - began) * 1_000)
            return taken

        with ThreadPoolExecutor(people + 1) as pool:
            other = None if beside is None else pool.submit(beside, ended)
            taken = [one for each in list(pool.map(go_on, range(people))) for one in each]
            ended.set()
            if other is not None:
                other.result()
        parts = quantiles(taken, n=20)
        return {
            "people": people,
            "searches_a_second": round(len(taken) / seconds, 1),
            "p50_ms": round(parts[9], 1),
            "p95_ms": round(parts[18], 1),
        }

    alone, together = searched(1), searched(PEOPLE)
    beside = searched(PEOPLE, read)
    return [
        {"who": "alone", **alone},
        {"who": f"{PEOPLE} people", **together},
        {"who": f"{PEOPLE} people, beside the reading of a whole collection", **beside, "readings": readings},
    ]


class _Person:
    """Somebody with an address of their own, by which people are told apart where nobody signs in."""

    def __init__(self, address: str, number: int) -> None:
        where = urlsplit(address)
        self._server = HTTPConnection(str(where.hostname), where.port, source_address=(f"127.0.0.{number}", 0))

    def asked(self, method: str, path: str, body: Any = None) -> Any:
        headers = {} if body is None else {"Content-Type": "application/json"}
        self._server.request(method, path, None if body is None else json.dumps(body), headers)
        answer = self._server.getresponse()
        told = json.loads(answer.read())
        assert answer.status == 200, told
        return told
