"""How long an edit takes until every judged query is measured again, over HTTP; and what other searches wait then."""

import json
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from http.client import HTTPConnection
from statistics import median, quantiles
from threading import Event
from time import perf_counter, time
from typing import Any, Final
from urllib.parse import urlsplit

from benchmarks.figures import Figures
from pale_harbor.settings import settings
from pale_harbor.work.serving import running_address

_TIMES: Final = 9
_SEARCHES: Final = 200
_PLACES: Final = 17
# Chains that no earlier run on the same server has indexed.
_FRESH: Final = 1_000 + int(time()) % 100_000


def judged_edit_figures(collection: str, judged_set: str, ranker: str, query: str) -> Figures:
    """In milliseconds, of a server that runs: the waterline after an edit of each part that the ranker has, all weight
    curves, and the 95th percentile of searches at rest and while curves are drawn."""
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
        readings[0] |= {"chain": f"nfkc > words > lower > limit({_FRESH + turn})", "query_chain": None}
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

    edits: dict[str, Callable[[int], dict[str, Any]]] = {"weight_ms": weighing, "words_needed_ms": needing}
    edits |= _edits_of_parts(document)
    figures: Figures = {"ranker": ranker}
    for name, edit in edits.items():
        # The first one makes the sheets that the others are weighed from.
        measured(edit(0))
        figures[name] = round(median(measured(edit(turn)) for turn in range(1, _TIMES)), 1)
    figures |= {
        "chain_ms": round(median(measured(chained(turn)) for turn in range(3)), 1),
        "all_weight_curves_ms": round(median(curves(turn) for turn in range(3)), 1),
        "curves": len(asked),
    }
    return figures | _searches_meanwhile(searched, curves)


def _searches_meanwhile(searched: Callable[[], float], curves: Callable[[int], float]) -> Figures:
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
    return {
        "search_p95_at_rest_ms": round(at_rest, 1),
        "search_p95_meanwhile_ms": round(meanwhile, 1),
        "meanwhile_to_rest": round(meanwhile / at_rest, 2),
    }


def _edits_of_parts(document: dict[str, Any]) -> dict[str, Callable[[int], dict[str, Any]]]:
    """By name an edit of each part that a ranker has, another one for each turn."""
    edits: dict[str, Callable[[int], dict[str, Any]]] = {}
    if signals := document.get("signals"):
        edits["signal_ms"] = lambda turn: {
            **document,
            "signals": [{**signals[0], "weight": (turn + 1) / 10}, *signals[1:]],
        }
    if spaces := document.get("spaces"):
        blend, space = document.get("blend", {}), spaces[0]["space"]
        edits["blend_ms"] = lambda turn: {**document, "blend": {**blend, "meaning": (turn + 1) / 10}}
        edits["formula_ms"] = lambda turn: {
            **document,
            "blend": {**blend, "how": "formula", "formula": f"words + {turn / 10} * space.{space}"},
            "kinds": [],
        }
        edits["second_stage_ms"] = lambda turn: {
            **document,
            "second_stage": {"space": space, "first": 20, "weight": (turn + 1) / 10},
        }
    return edits


def _slowest(taken: list[float]) -> float:
    """The 95th percentile."""
    return quantiles(taken, n=20)[-1]
