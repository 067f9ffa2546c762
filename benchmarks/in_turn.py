"""Times several ways of doing things in turn, so that what else the machine does falls on all of them alike."""

from collections.abc import Callable, Mapping
from time import perf_counter


def best_of(ways: Mapping[str, Callable[[], object]], rounds: int) -> dict[str, float]:
    """The best time of each in milliseconds, over so many rounds of all."""
    best = dict.fromkeys(ways, float("inf"))
    for _ in range(rounds):
        for name, way in ways.items():
            started = perf_counter()
            way()
            best[name] = min(best[name], (perf_counter() - started) * 1000)
    return best
