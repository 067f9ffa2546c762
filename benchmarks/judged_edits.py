"""How long an edit takes until every judged query is measured again, over HTTP; and what other searches wait then."""

import json
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from http.client import HTTPConnection
from re import findall
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
# The page asks for the curves of so many knobs at once.
_AT_ONCE: Final = 5
# Chains that no earlier run on the same server has indexed.
_FRESH: Final = 1_000 + int(time()) % 100_000


def judged_edit_figures(collection: str, judged_set: str, ranker: str, query: str) -> Figures:
    """In milliseconds, of a server that runs: the waterline after an edit of each part that the ranker has, curves of
    all weights and of all usual numbers, and the 95th percentile of searches at rest and while curves are drawn."""
    address = running_address(settings())
    if address is None:
        return {"edits": "not measured: start the application first with ./paleharbor up"}
    own = _Edited(address, collection, judged_set, ranker)
    figures: Figures = {"ranker": ranker}
    for name, edit in own.edits().items():
        # The first one makes the sheets that the others are weighed from.
        own.measured(edit(0))
        figures[name] = round(median(own.measured(edit(turn)) for turn in range(1, _TIMES)), 1)
    figures |= {
        "chain_ms": round(median(own.measured(own.chained(turn)) for turn in range(3)), 1),
        "all_weight_curves_ms": round(median(own.curves(own.weights, turn) for turn in range(3)), 1),
        "weight_curves": len(own.weights),
        "all_curves_ms": round(median(own.curves(own.numbers, turn) for turn in range(4)), 1),
        "curves": len(own.numbers),
    }
    return figures | _searches_meanwhile(lambda: own.searched(query), lambda turn: own.curves(own.weights, turn))


class _Edited:
    """A ranker that is edited over HTTP, on a judged set. numbers: places of usual knobs with their values, of which
    weights are those of readings."""

    def __init__(self, address: str, collection: str, judged_set: str, ranker: str) -> None:
        self._host, self._collection = urlsplit(address), collection
        self._judged_set, self._ranker = judged_set, ranker
        told = self._asked("GET", f"rankers/{ranker}")
        self.document, self._filled_in = told["document"], told["filled_in"]
        self.numbers = _numbers_in(self._asked("POST", "tuning-knobs", {"name": ranker}))
        self.weights = [
            (path, [0.5, 9.0]) for path, _ in self.numbers if path[0] == "readings" and path[-1] == "weight"
        ]

    def edits(self) -> dict[str, Callable[[int], dict[str, Any]]]:
        """By name an edit of each part that the ranker has, another one for each turn."""
        needs: list[Any] = ["any", "all", 2]
        edits: dict[str, Callable[[int], dict[str, Any]]] = {
            "weight_ms": lambda turn: self._with_first(weight=1 + turn / 7),
            "words_needed_ms": lambda turn: {**self.document, "need": needs[turn % 3]},
        }
        return edits | _edits_of_parts(self.document)

    def chained(self, turn: int) -> dict[str, Any]:
        """Another chain in the first reading."""
        return self._with_first(chain=f"nfkc > words > lower > limit({_FRESH + turn})", query_chain=None)

    def measured(self, document: dict[str, Any]) -> float:
        """Until every judged query is measured again."""
        began = perf_counter()
        body = {"ranker": {"name": self._ranker, "document": document}, "measures": ["ndcg@10"]}
        self._asked("POST", f"judged/{self._judged_set}/measure", body)
        return (perf_counter() - began) * 1_000

    def curves(self, knobs: Sequence[tuple[list[str | int], list[float]]], turn: int) -> float:
        """The curves of some knobs of a draft that nobody had before."""
        readings = [dict(one) for one in self._filled_in["readings"]]
        readings[0]["weight"] = 1 + turn / 7
        draft = {"name": self._ranker, "document": {**self._filled_in, "readings": readings}}
        began = perf_counter()
        for first in range(0, len(knobs), _AT_ONCE):
            turns = [
                {"path": place, "value": min(values) + (max(values) - min(values)) * at / (_PLACES - 1)}
                for place, values in knobs[first : first + _AT_ONCE]
                for at in range(_PLACES)
            ]
            body = {"ranker": draft, "measure": "ndcg@10", "how": {"bands": True}, "turns": turns}
            self._asked("POST", f"judged/{self._judged_set}/turns", body)
        return (perf_counter() - began) * 1_000

    def searched(self, query: str) -> float:
        """One search."""
        began = perf_counter()
        self._asked("POST", "search", {"query": query, "ranker": {"name": self._ranker}, "top": 10})
        return (perf_counter() - began) * 1_000

    def _with_first(self, **changes: Any) -> dict[str, Any]:
        first, *others = self.document["readings"]
        return {**self.document, "readings": [{**first, **changes}, *others]}

    def _asked(self, method: str, path: str, body: Any = None) -> Any:
        connection = HTTPConnection(self._host.hostname or "", self._host.port)
        headers = {"content-type": "application/json"}
        connection.request(method, f"/api/collections/{self._collection}/{path}", json.dumps(body), headers)
        answer = connection.getresponse()
        told = json.loads(answer.read())
        connection.close()
        assert answer.status == 200, told
        return told


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


def _numbers_in(offered: list[dict[str, Any]]) -> list[tuple[list[str | int], list[float]]]:
    """The places of usual knobs that are numbers, with their values."""
    found: list[tuple[list[str | int], list[float]]] = []
    for one in offered:
        steps = [int(step) if step.isdecimal() else step for step in findall(r"[^.\[\]]+", one["place"])]
        with suppress(ValueError):
            values = [float(value) for value in one["values"].split(", ")]
            if one["is_usual"]:
                found.append((steps, values))
    return found


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
