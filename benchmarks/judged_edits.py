"""How long an edit takes until every judged query is measured again, over HTTP; and what other searches wait then."""

import json
from concurrent.futures import ThreadPoolExecutor
from http.client import HTTPConnection
from statistics import median, quantiles
from threading import Event
from time import perf_counter
from typing import Any, Final
from urllib.parse import urlsplit

from benchmarks.figures import Figures
from pale_harbor.settings import settings
from pale_harbor.work.serving import running_address

_TIMES: Final = 9
_SEARCHES: Final = 200
_PLACES: Final = 17


def judged_edit_figures(collection: str, judged_set: str, ranker: str, query: str) -> Figures:
    """In milliseconds, of a server that runs: the waterline after an edit of a weight, of words needed and of a chain,
    all weight curves, and the 95th percentile of searches at rest and while curves are drawn."""
    address = running_address(settings())
    if address is None:
        return {"edits": "not measured: start the application first with ./paleharbor up"}
    host = urlsplit(address)

    def post(path: str, body: Any) -> Any:
        connection = HTTPConnection(host.hostname or "", host.port)
        headers = {"content-type": "application/json"}
        connection.request("POST", f"/api/collections/{collection}/{path}", json.dumps(body), headers)
        answer = connection.getresponse()
        told = json.loads(answer.read())
        connection.close()
        assert answer.status == 200, told
        return told

    connection = HTTPConnection(host.hostname or "", host.port)
    connection.request("GET", f"/api/collections/{collection}/rankers/{ranker}")
    document = json.loads(connection.getresponse().read())["document"]
    connection.close()
    asked = [number for number, one in enumerate(document["readings"]) if one.get("weight", 1) > 0]

    def measured(changed: dict[str, Any]) -> float:
        began = perf_counter()
        body = {"ranker": {"name": ranker, "document": changed}, "measures": ["ndcg@10"]}
        post(f"judged/{judged_set}/measure", body)
        return (perf_counter() - began) * 1_000

    def weighing(turn: int) -> dict[str, Any]:
        readings = [dict(one) for one in document["readings"]]
        readings[0]["weight"] = 1 + turn / 7
        return {**document, "readings": readings}

    def chained(turn: int) -> dict[str, Any]:
        readings = [dict(one) for one in document["readings"]]
        readings[0] |= {"chain": f"nfkc > words > lower > limit({30 + turn})", "query_chain": None}
        return {**document, "readings": readings}

    def curves(turn: int) -> float:
        began = perf_counter()
        for number in asked:
            turns = [
                {"path": ["readings", number, "weight"], "value": (place + 1 + turn / 100) / 2}
                for place in range(_PLACES)
            ]
            body = {"ranker": {"name": ranker, "document": weighing(turn)}, "measure": "ndcg@10", "turns": turns}
            post(f"judged/{judged_set}/turns", body)
        return (perf_counter() - began) * 1_000

    def searched() -> float:
        began = perf_counter()
        post("search", {"query": query, "ranker": {"name": ranker}, "top": 10})
        return (perf_counter() - began) * 1_000

    def needing(turn: int) -> dict[str, Any]:
        return {**document, "need": ["any", "all", 2][turn % 3]}

    for warm in (weighing(0), needing(1)):
        measured(warm)
    figures: Figures = {
        "ranker": ranker,
        "weight_ms": round(median(measured(weighing(turn)) for turn in range(1, _TIMES)), 1),
        "words_needed_ms": round(median(measured(needing(turn)) for turn in range(1, _TIMES)), 1),
        "chain_ms": round(median(measured(chained(turn)) for turn in range(3)), 1),
        "all_weight_curves_ms": round(median(curves(turn) for turn in range(3)), 1),
        "curves": len(asked),
    }
    at_rest = _slowest([searched() for _ in range(_SEARCHES)])
    ended = Event()

    def busy() -> None:
        turn = 10
        while not ended.is_set():
            curves(turn)
            turn += 1

    with ThreadPoolExecutor(1) as others:
        others.submit(busy)
        meanwhile = _slowest([searched() for _ in range(_SEARCHES)])
        ended.set()
    figures |= {
        "search_p95_at_rest_ms": round(at_rest, 1),
        "search_p95_meanwhile_ms": round(meanwhile, 1),
        "meanwhile_to_rest": round(meanwhile / at_rest, 2),
    }
    return figures


def _slowest(taken: list[float]) -> float:
    """The 95th percentile."""
    return quantiles(taken, n=20)[-1]
