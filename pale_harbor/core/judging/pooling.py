"""Pools: which records of which queries judges look at, in an order that tells nothing of any ranker."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class PoolItem:
    """A record to be judged for a query."""

    query: str
    record: str


def draw_pool(
    queries: Sequence[str],
    lists: Sequence[Mapping[str, Sequence[str]]],
    depth: int,
    others: int,
    all_records: Sequence[str],
    judged: Mapping[str, Collection[str]],
    rng: np.random.Generator,
) -> list[PoolItem]:
    """For each query the first `depth` records of every list and `others` drawn from all records, mixed.

    lists: by ranker, then query, best first; judged: records left out, by query. Records drawn by chance show how
    much no ranker finds. Source: K. Sparck Jones and C. J. van Rijsbergen, "Report on the Need for and Provision of
    an 'Ideal' Information Retrieval Test Collection", 1975.
    """
    items: list[PoolItem] = []
    for query in queries:
        known = set(judged.get(query, ()))
        chosen = {key for own in lists for key in own.get(query, ())[:depth] if key not in known}
        left = [key for key in all_records if key not in chosen and key not in known]
        drawn = rng.choice(len(left), min(others, len(left)), replace=False) if others and left else []
        mixed = sorted(chosen | {left[i] for i in drawn})
        items += [PoolItem(query, mixed[i]) for i in rng.permutation(len(mixed))]
    return items


def shared_out(
    items: Sequence[PoolItem], judges: Sequence[str], twice: float, rng: np.random.Generator
) -> dict[str, list[PoolItem]]:
    """Each judge's items: whole queries in turn, and a share of all items a second time for another judge.

    twice: 0 to 1. A judge has a query's records one after the other, as a person reads them best. Items keep the
    pool's mixed order, so that nobody can tell which ones somebody else judges too.

    >>> pool = [PoolItem("q1", "a"), PoolItem("q2", "b")]
    >>> shared_out(pool, ["Ada"], 0.5, np.random.default_rng(0)) == {"Ada": pool}
    True
    """
    given: dict[str, set[PoolItem]] = {judge: set() for judge in judges}
    queries = list(dict.fromkeys(item.query for item in items))
    start = int(rng.integers(len(judges)))
    own = {query: judges[(start + i) % len(judges)] for i, query in enumerate(queries)}
    for item in items:
        given[own[item.query]].add(item)
    if len(judges) > 1:
        again = rng.permutation(len(items))[: round(twice * len(items))]
        for turn, i in enumerate(sorted(again)):
            others = [judge for judge in judges if judge != own[items[i].query]]
            given[others[turn % len(others)]].add(items[i])
    return {judge: [item for item in items if item in mine] for judge, mine in given.items()}
