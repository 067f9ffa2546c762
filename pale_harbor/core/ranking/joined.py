"""One ranked list from the lists of several slabs."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from pale_harbor.core.ranking.search import RankedList


@dataclass(frozen=True, slots=True)
class Placed:
    """A row of a joined list: a record id counts within its slab. pinned: put there by a rule."""

    slab: int
    record_id: int
    score: float
    pinned: bool = False


@dataclass(frozen=True, slots=True)
class JoinedList:
    """The first rows over all slabs; matched: how many records matched in all, exactly."""

    rows: list[Placed]
    matched: int


def join(
    lists: Sequence[RankedList],
    top: int,
    place_among_equals: Callable[[int, int], Any],
    by_score: bool = True,
    group: Callable[[int, int], str | None] | None = None,
) -> JoinedList:
    """The best `top` rows of all lists, each of which holds its own best `top`.

    place_among_equals: what to sort equal scores by, from slab and record id; asked for ties only.
    by_score: false where only that order counts. group: a record's group, of which only the first row
    stays; None where it stands alone.
    """
    matched = sum(ranked.matched for ranked in lists)
    if len(lists) == 1 and group is None:
        (only,) = lists
        pairs = zip(only.record_ids.tolist(), only.scores.tolist(), strict=True)
        return JoinedList([Placed(0, record_id, score) for record_id, score in pairs][:top], matched)
    placed = [
        Placed(slab, record_id, score)
        for slab, ranked in enumerate(lists)
        for record_id, score in zip(ranked.record_ids.tolist(), ranked.scores.tolist(), strict=True)
    ]
    ranks = [-row.score if by_score else 0.0 for row in placed]
    order = np.argsort(ranks, kind="stable").tolist()
    rows: list[Placed] = []
    groups: set[str] = set()
    at = 0
    while at < len(order) and len(rows) < top:
        end = at + 1
        while end < len(order) and ranks[order[end]] == ranks[order[at]]:
            end += 1
        equals = [placed[i] for i in order[at:end]]
        if len(equals) > 1:
            equals = sorted(equals, key=_by(place_among_equals))
        for row in equals:
            own = None if group is None else group(row.slab, row.record_id)
            if own is None or own not in groups:
                rows.append(row)
            if own is not None:
                groups.add(own)
        at = end
    return JoinedList(rows[:top], matched)


def _by(place_among_equals: Callable[[int, int], Any]) -> Callable[[Placed], Any]:
    return lambda row: place_among_equals(row.slab, row.record_id)
