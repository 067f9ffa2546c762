"""What completions take, by where in a suggestion typing may begin: memory and speed side by side."""

from dataclasses import dataclass, replace
from time import perf_counter
from typing import Final

import numpy as np

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.typing.completing import complete, completion_index, suggested
from pale_harbor.core.typing.recipe import BeginsAt
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.completing import ready_to_complete
from pale_harbor.work.running.aside import UnderWay
from pale_harbor.work.running.wanted import check_wanted

_TYPED: Final = 100
_SHOWN: Final = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class BeginsCost:
    """What it takes to let typing begin somewhere.

    build_ms: to put its entries in order; median_ms, p95_ms: a key press while so many suggestions were typed letter by
    letter, without trying whether they lead anywhere.
    """

    begins: BeginsAt
    entries: int
    bytes: int
    build_ms: float
    typed: int
    median_ms: float
    p95_ms: float


def begins_costs(opened: OpenCollection, ranker: Ranker) -> list[BeginsCost]:
    """Both ways side by side, tried on some of the suggestions themselves."""
    ready = ready_to_complete(opened, ranker)
    assert not isinstance(ready, UnderWay)
    suggestions = ready.index.suggested.suggestions
    chosen = suggestions.texts[:: max(1, len(suggestions) // _TYPED)][:_TYPED]
    told: list[BeginsCost] = []
    for begins in BeginsAt:
        started = perf_counter()
        index = completion_index(suggested(suggestions, begins), replace(ready.index.recipe, begins=begins))
        build_ms = (perf_counter() - started) * 1000
        times: list[float] = []
        for text in chosen:
            check_wanted()
            for end in range(1, len(text) + 1):
                started = perf_counter()
                complete(index, text[:end], _SHOWN)
                times.append((perf_counter() - started) * 1000)
        told.append(
            BeginsCost(
                begins=begins,
                entries=index.suggested.entries.size,
                bytes=index.size_bytes,
                build_ms=round(build_ms, 1),
                typed=len(chosen),
                median_ms=round(float(np.median(times)), 3) if times else 0.0,
                p95_ms=round(float(np.percentile(times, 95)), 3) if times else 0.0,
            )
        )
    return told
