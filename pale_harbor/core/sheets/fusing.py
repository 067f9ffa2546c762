"""Lists of words and meaning made one, for many turns at once: the blends whose scores add up.

The arithmetic is that of `core.blend.fusion`, digit for digit; a property test holds the two together.
"""

from typing import Final

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.blend import Normalisation
from pale_harbor.core.kernels import kernel
from pale_harbor.core.sheets.scoring import tops

RANKS, MIN_MAX, Z_SCORE, RANK, PLAIN = 0, 1, 2, 3, 4
WAYS: Final = {
    Normalisation.MIN_MAX: MIN_MAX,
    Normalisation.Z_SCORE: Z_SCORE,
    Normalisation.RANK: RANK,
    Normalisation.NONE: PLAIN,
}
_DECIMALS: Final = 1e12
_BLOCK: Final = 128


@kernel
def fused(
    count: int,
    ids: IntArray,
    scores: FloatArray,
    starts: IntArray,
    shares: FloatArray,
    way: int,
    k: float,
    top: int,
) -> tuple[IntArray, FloatArray, int]:
    """The best `top` of several lists blended, their scores, and how many records the lists hold together.

    count: of candidates; ids, scores: (entries,), the lists one behind the other, each best first; starts:
    (lists + 1,); shares: (lists,), a list whose share is nothing takes no part; way: RANKS or one of `WAYS`.
    """
    total = np.zeros((1, count))
    held = np.zeros(count, np.bool_)
    for number in range(shares.size):
        if shares[number] == 0.0:
            continue
        first, last = starts[number], starts[number + 1]
        own = scores[first:last]
        if way == RANKS:
            added = shares[number] / (k + np.arange(1.0, own.size + 1))
        else:
            added = shares[number] * _comparable(own, way)
        for i in range(own.size):
            total[0, ids[first + i]] += added[i]
            held[ids[first + i]] = True
    # Scores that differ from the thirteenth decimal on are equal.
    best, _ = tops(np.rint(total * _DECIMALS) / _DECIMALS, held, top)
    found = best[0]
    values = np.empty(found.size)
    for i in range(found.size):
        values[i] = total[0, found[i]]
    return found, values, held.sum()


@kernel
def fused_each(
    count: int,
    numbers: IntArray,
    best: FloatArray,
    fetches: IntArray,
    ids: IntArray,
    scores: FloatArray,
    starts: IntArray,
    shares: FloatArray,
    ways: IntArray,
    ks: FloatArray,
    top: int,
) -> tuple[IntArray, FloatArray, IntArray, IntArray]:
    """`fused` for many turns: the best of each, (turns, top), their scores, how many there are, and records in all.

    count: of candidates; numbers, best: (turns, records), each turn's list of words, of which the first `fetches` take
    part; ids, scores, starts: the other lists, as for `fused`; shares: (turns, lists), words first; ways, ks: (turns,).
    """
    turns = numbers.shape[0]
    room = min(top, count)
    found, values = np.empty((turns, room), np.int32), np.empty((turns, room))
    counts, held = np.zeros(turns, np.int64), np.zeros(turns, np.int64)
    own_starts = np.zeros(starts.size + 1, np.int64)
    for turn in range(turns):
        words = min(fetches[turn], numbers.shape[1])
        own_starts[1:] = starts + words
        own, own_values, in_all = fused(
            count,
            np.concatenate((numbers[turn, :words], ids)),
            np.concatenate((best[turn, :words], scores)),
            own_starts,
            shares[turn],
            ways[turn],
            ks[turn],
            room,
        )
        counts[turn], held[turn] = own.size, in_all
        found[turn, : own.size], values[turn, : own.size] = own, own_values
    return found, values, counts, held


@kernel
def _comparable(scores: FloatArray, way: int) -> FloatArray:
    if not scores.size or way == PLAIN:
        return scores.copy()
    if way == RANK:
        return 1 - np.arange(scores.size) / scores.size
    if way == Z_SCORE:
        mean = _pairwise_sum(scores) / scores.size
        away = scores - mean
        spread = np.sqrt(_pairwise_sum(away * away) / scores.size)
        return away / spread if spread > 0 else np.zeros(scores.size)
    least, most = scores.min(), scores.max()
    reach = most - least
    return (scores - least) / reach if reach > 0 else np.ones(scores.size)


@kernel
def _pairwise_sum(values: FloatArray) -> float:
    """A sum by halves, as NumPy adds: eight partial sums in blocks of 128 (N. Higham, "The accuracy of floating point
    summation", 1993)."""
    size = values.size
    if size < 8:
        total = 0.0
        for value in values:
            total += value
        return total
    if size <= _BLOCK:
        parts = values[:8].copy()
        whole = size - size % 8
        for i in range(8, whole, 8):
            for j in range(8):
                parts[j] += values[i + j]
        total = ((parts[0] + parts[1]) + (parts[2] + parts[3])) + ((parts[4] + parts[5]) + (parts[6] + parts[7]))
        for i in range(whole, size):
            total += values[i]
        return total
    half = size // 2
    half -= half % 8
    return _pairwise_sum(values[:half]) + _pairwise_sum(values[half:])
