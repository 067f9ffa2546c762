"""Score sheets weighed: many turns of a ranker's numbers over one query's candidates, without a posting.

Every sum runs in the order in which a search adds, so that both give the same digits. Candidates are numbered in the
order of equals: of equal scores the smaller number comes first.
"""

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.kernels import kernel
from pale_harbor.core.ranking.bm25 import term_part_in_kernel


@kernel
def summed(
    columns: FloatArray, which: IntArray, weights: FloatArray, is_strongest: bool, shares: FloatArray
) -> FloatArray:
    """Scores by turn: weighted readings, summed or the strongest with a share of the rest: (turns, records).

    columns: (columns, records); which: (turns, readings), the column of each reading; weights: (turns, readings);
    shares: (turns,).
    """
    turns, count = weights.shape[0], columns.shape[1]
    scores = np.zeros((turns, count))
    strongest = np.empty(count)
    for turn in range(turns):
        own = scores[turn]
        strongest[:] = 0.0
        for reading in range(weights.shape[1]):
            weight, column = weights[turn, reading], columns[which[turn, reading]]
            for i in range(count):
                part = weight * column[i]
                own[i] += part
                strongest[i] = max(strongest[i], part)
        if is_strongest:
            for i in range(count):
                own[i] = strongest[i] + shares[turn] * (own[i] - strongest[i])
    return scores


@kernel
def reading_columns(
    count: int,
    asked: IntArray,
    readings: IntArray,
    factors: FloatArray,
    starts: IntArray,
    places: IntArray,
    frequencies: FloatArray,
    lengths: IntArray,
    k1s: FloatArray,
    bases: FloatArray,
    slopes: FloatArray,
) -> FloatArray:
    """Readings' scores of every candidate before their weights: (asked, candidates).

    asked: (asked,), the reading of each; readings: (parts,); factors: (asked, parts), each idf · times · worth; starts:
    (parts + 1,); places, frequencies, lengths: (entries,); k1s, bases, slopes: (asked,), see `length_norm`.
    """
    scores = np.zeros((asked.size, count))
    for row in range(asked.size):
        for part in range(readings.size):
            if readings[part] == asked[row]:
                for i in range(starts[part], starts[part + 1]):
                    norm = bases[row] + slopes[row] * lengths[i]
                    scores[row, places[i]] += term_part_in_kernel(factors[row, part], frequencies[i], k1s[row], norm)
    return scores


@kernel
def pooled(
    count: int,
    factors: FloatArray,
    firsts: IntArray,
    readings: IntArray,
    starts: IntArray,
    places: IntArray,
    frequencies: FloatArray,
    lengths: IntArray,
    multipliers: FloatArray,
    bases: FloatArray,
    slopes: FloatArray,
    k1s: FloatArray,
) -> FloatArray:
    """Scores by turn with pooled readings: (turns, records), see `core.ranking.pooling`.

    factors: (terms,); firsts: (terms + 1,), each term's parts; readings: (parts,); starts: (parts + 1,), each part's
    entries; places, frequencies, lengths: (entries,); multipliers: (turns, parts), weight · worth; bases, slopes:
    (turns, readings), see `length_norm`; k1s: (turns,), of the pool.
    """
    turns = multipliers.shape[0]
    scores = np.zeros((turns, count))
    sums = np.zeros(count)
    for turn in range(turns):
        k1 = k1s[turn]
        own = scores[turn]
        for term in range(factors.size):
            for part in range(firsts[term], firsts[term + 1]):
                multiplier = multipliers[turn, part]
                base, slope = bases[turn, readings[part]], slopes[turn, readings[part]]
                for i in range(starts[part], starts[part + 1]):
                    sums[places[i]] += multiplier * frequencies[i] / (base + slope * lengths[i])
            for part in range(firsts[term], firsts[term + 1]):
                for i in range(starts[part], starts[part + 1]):
                    at = places[i]
                    # A record of several parts is met several times, and counted once.
                    if sums[at] > 0.0:
                        own[at] += term_part_in_kernel(factors[term], sums[at], k1, k1)
                        sums[at] = 0.0
    return scores


@kernel
def adjusted(
    scores: FloatArray,
    signals: FloatArray,
    weights: FloatArray,
    multiplied: Mask,
    lifted: IntArray,
    lifts: FloatArray,
) -> bool:
    """Puts signals and lifts into scores; false where one becomes too large to be a number.

    scores: (turns, records); signals: (signals, records), in the order in which they count; weights: (turns, signals);
    multiplied: (signals,); lifted, lifts: (lifts,).
    """
    finite = True
    for turn in range(scores.shape[0]):
        own = scores[turn]
        for signal in range(signals.shape[0]):
            weight = weights[turn, signal]
            for i in range(own.size):
                amount = weight * signals[signal, i]
                own[i] = own[i] * (1.0 + amount) if multiplied[signal] else own[i] + amount
        for number in range(lifted.size):
            own[lifted[number]] *= lifts[number]
        for i in range(own.size):
            finite = finite and np.isfinite(own[i])
    return finite


@kernel
def tops(scores: FloatArray, kept: Mask, top: int) -> tuple[IntArray, FloatArray]:
    """The best `top` of the kept records by turn, best first: their numbers and scores, (turns, top or fewer), twice.

    scores: (turns, records); kept: (records,).
    """
    room = min(top, kept.sum())
    numbers = np.empty((scores.shape[0], room), np.int32)
    best = np.empty((scores.shape[0], room), np.float64)
    for turn in range(scores.shape[0]):
        own, ids, heap = scores[turn], numbers[turn], best[turn]
        size = 0
        for i in range(own.size):
            if not kept[i]:
                continue
            if size < room:
                # Up from the end: the worst stands at the root; of equals the later one is worse.
                at = size
                size += 1
                while at > 0:
                    above = (at - 1) >> 1
                    if not (own[i] < heap[above] or (own[i] == heap[above] and i > ids[above])):
                        break
                    ids[at], heap[at] = ids[above], heap[above]
                    at = above
                ids[at], heap[at] = i, own[i]
            elif room and own[i] > heap[0]:
                # Candidates come in the order of equals, so that an equal one is worse.
                _sink(ids, heap, size, i, own[i])
        for end in range(size - 1, 0, -1):
            number, score = ids[end], heap[end]
            ids[end], heap[end] = ids[0], heap[0]
            _sink(ids, heap, end, number, score)
    return numbers, best


@kernel
def _sink(ids: IntArray, heap: FloatArray, size: int, number: int, score: float) -> None:
    at = 0
    while True:
        below = 2 * at + 1
        if below >= size:
            break
        other = below + 1
        if other < size and (heap[other] < heap[below] or (heap[other] == heap[below] and ids[other] > ids[below])):
            below = other
        if not (heap[below] < score or (heap[below] == score and ids[below] > number)):
            break
        ids[at], heap[at] = ids[below], heap[below]
        at = below
    ids[at], heap[at] = number, score
