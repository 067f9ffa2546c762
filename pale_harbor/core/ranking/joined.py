"""One ranked list from the lists of several slabs."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from pale_harbor.core.ranking.search import RankedList


@dataclass(frozen=True, slots=True)
class Placed:
    """A row of a joined list: a record id counts within its slab."""

    slab: int
    record_id: int
    score: float


@dataclass(frozen=True, slots=True)
class JoinedList:
    """The first rows over all slabs; matched: how many records matched in all, exactly."""

    rows: list[Placed]
    matched: int


def joined(lists: Sequence[RankedList], top: int, place_among_equals: Callable[[int, int], Any]) -> JoinedList:
    """The best `top` rows of all lists, each of which holds its own best `top`.

    place_among_equals: what to sort equal scores by, from slab and record id; asked for ties only.
    """
    matched = sum(ranked.matched for ranked in lists)
    if len(lists) == 1:
        (only,) = lists
        pairs = zip(only.record_ids.tolist(), only.scores.tolist(), strict=True)
        return JoinedList([Placed(0, record_id, score) for record_id, score in pairs][:top], matched)
    placed = [
        Placed(slab, record_id, score)
        for slab, ranked in enumerate(lists)
        for record_id, score in zip(ranked.record_ids.tolist(), ranked.scores.tolist(), strict=True)
    ]
    order = np.argsort([-row.score for row in placed], kind="stable").tolist()
    rows: list[Placed] = []
    at = 0
    while at < len(order) and len(rows) < top:
        end = at + 1
        while end < len(order) and placed[order[end]].score == placed[order[at]].score:
            end += 1
        equals = [placed[i] for i in order[at:end]]
        if len(equals) > 1:
            equals = sorted(equals, key=_by(place_among_equals))
        rows += equals
        at = end
    return JoinedList(rows[:top], matched)


def _by(place_among_equals: Callable[[int, int], Any]) -> Callable[[Placed], Any]:
    return lambda row: place_among_equals(row.slab, row.record_id)
