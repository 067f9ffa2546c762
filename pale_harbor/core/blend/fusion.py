"""One list from several of the same query.

    reciprocal rank fusion   Σ weight / (k + rank)              over the lists that hold the record
    weighted sum             Σ weight · normalised score
    filled up                the first list, then what only the second holds
    reordered                the first list, its first n put in the order of the second

Sources: G. Cormack, C. Clarke and S. Büttcher, "Reciprocal rank fusion outperforms Condorcet and individual rank
learning methods", 2009; E. Fox and J. Shaw, "Combination of multiple searches", 1994.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Final

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, distinct

_DECIMALS: Final = 12


class Normalisation(Enum):
    """How scores of lists that have nothing in common are made comparable.

    min_max: from 0 for the last to 1 for the first; z_score: how many standard deviations above the
    mean; rank: 1 for the first, falling evenly to 1/n for the last; none: as they are.
    """

    MIN_MAX = "min_max"
    Z_SCORE = "z_score"
    RANK = "rank"
    NONE = "none"


@dataclass(frozen=True, slots=True, eq=False)
class Listed:
    """A ranked list. record_ids: int32, best first, each once; scores: float64, never rising."""

    record_ids: IntArray
    scores: FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Blended:
    """The blended list, best first. record_ids: int32 (records,); scores: float64 (records,).

    parts: float64 (records, lists), what each list adds: they come to the score in the order of the lists.
    ranks: int32 (records, lists), from 1; 0 where a list does not hold the record.
    """

    record_ids: IntArray
    scores: FloatArray
    parts: FloatArray
    ranks: IntArray


def reciprocal_rank_fusion(
    lists: Sequence[Listed], weights: Sequence[float], order_of_equals: IntArray, k: float = 60.0
) -> Blended:
    """Lists blended by their ranks alone. k: how little the first ranks stand out. Equal scores by the order.

    order_of_equals: int32 (records of all lists together,), ascending places.
    """
    added = [weight / (k + np.arange(1.0, one.record_ids.size + 1)) for one, weight in _both(lists, weights)]
    return _add_up(lists, added, order_of_equals)


def weighted_sum(
    lists: Sequence[Listed], weights: Sequence[float], normalisation: Normalisation, order_of_equals: IntArray
) -> Blended:
    """Lists blended by their scores. A record that a list does not hold gets nothing from it."""
    added = [weight * comparable_scores(one.scores, normalisation) for one, weight in _both(lists, weights)]
    return _add_up(lists, added, order_of_equals)


def filled_up(first: Listed, second: Listed) -> Blended:
    """The first list as it is, then the second's records that it does not hold. Scores are of the own list."""
    fresh = ~np.isin(second.record_ids, first.record_ids)
    ids = np.concatenate([first.record_ids, second.record_ids[fresh]])
    parts = np.zeros((ids.size, 2))
    parts[: first.record_ids.size, 0] = first.scores
    parts[first.record_ids.size :, 1] = second.scores[fresh]
    return Blended(ids, parts.sum(axis=1), parts, _ranks([first, second], ids))


def reorder(first: Listed, second: Listed, depth: int) -> Blended:
    """The first list, with its first `depth` records in the second's order.

    Those that the second does not hold come after those that it holds, in the first's order. Scores are of the list
    that settled the place.
    """
    head, tail = first.record_ids[:depth], first.record_ids[depth:]
    rank = ranks_in(second, head)
    held = np.flatnonzero(rank)
    held = held[np.argsort(rank[held])]
    order = np.concatenate([held, np.flatnonzero(rank == 0), head.size + np.arange(tail.size)])
    ids = first.record_ids[order]
    parts = np.zeros((ids.size, 2))
    parts[: held.size, 1] = second.scores[rank[held] - 1]
    parts[held.size :, 0] = first.scores[order[held.size :]]
    return Blended(ids, parts.sum(axis=1), parts, _ranks([first, second], ids))


def best_first(scores: FloatArray, order_of_equals: IntArray) -> IntArray:
    """Which score comes where, the greatest first.

    Scores that differ from the thirteenth decimal on are equal: 0.3/14 + 0.1/14 must not lose to 0.6/21. Both
    shapes (records,); what comes back are places.
    """
    return np.lexsort((order_of_equals, -np.round(scores, _DECIMALS)))


def comparable_scores(scores: FloatArray, normalisation: Normalisation) -> FloatArray:
    """Scores of one list made comparable; a list whose scores are all the same is all 1 (z_score: all 0).

    Both shapes (records,).
    """
    if not scores.size or normalisation is Normalisation.NONE:
        return scores
    if normalisation is Normalisation.RANK:
        return 1 - np.arange(scores.size) / scores.size
    if normalisation is Normalisation.Z_SCORE:
        spread = scores.std()
        return (scores - scores.mean()) / spread if spread > 0 else np.zeros(scores.size)
    reach = scores.max() - scores.min()
    return (scores - scores.min()) / reach if reach > 0 else np.ones(scores.size)


def _both(lists: Sequence[Listed], weights: Sequence[float]) -> Iterator[tuple[Listed, float]]:
    return zip(lists, weights, strict=True)


def _add_up(lists: Sequence[Listed], added: Sequence[FloatArray], order_of_equals: IntArray) -> Blended:
    ids = distinct(np.concatenate([np.zeros(0, np.int32), *(one.record_ids for one in lists)])).astype(np.int32)
    parts = np.zeros((ids.size, len(lists)))
    for number, (one, own) in enumerate(zip(lists, added, strict=True)):
        parts[np.searchsorted(ids, one.record_ids), number] = own
    scores = np.zeros(ids.size)
    # One after the other: whoever adds the parts up again gets the same digits.
    for number in range(len(lists)):
        scores += parts[:, number]
    order = best_first(scores, order_of_equals[ids])
    return Blended(ids[order], scores[order], parts[order], _ranks(lists, ids[order]))


def ranks_in(listed: Listed, ids: IntArray) -> IntArray:
    """The rank of some records in a list, from 1, and 0 for those that it does not hold: int32 (records,)."""
    every = np.concatenate([listed.record_ids, ids])
    ranks = np.zeros(int(every.max(initial=-1)) + 1, np.int32)
    ranks[listed.record_ids] = np.arange(1, listed.record_ids.size + 1)
    return ranks[ids]


def _ranks(lists: Sequence[Listed], ids: IntArray) -> IntArray:
    return np.stack([ranks_in(one, ids) for one in lists], axis=1) if lists else np.zeros((ids.size, 0), np.int32)
