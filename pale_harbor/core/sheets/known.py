"""What a formula may ask of a sheet's candidates, by name: the same numbers as in a search, to the last digit."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.blend import Listed, shown_name
from pale_harbor.core.ranking import CombineHow, Ranker
from pale_harbor.core.ranking.bm25 import length_norm, term_part
from pale_harbor.core.ranking.ranker import Reading
from pale_harbor.core.sheets.query_sheet import QuerySheet, Worth
from pale_harbor.core.sheets.readings import numbers_of, turned_columns, worths_by


@dataclass(frozen=True, slots=True, eq=False)
class Weighed:
    """A sheet weighed by the words of one ranker. readings: as the ranker and the query's rules have them; scores:
    (candidates,), 0 for those that do not match; words: the first of them."""

    ranker: Ranker
    readings: Sequence[Reading]
    scores: FloatArray
    words: Listed


def known_of(sheet: QuerySheet, weighed: Weighed, names: Sequence[str], numbers: IntArray) -> dict[str, FloatArray]:
    """What some names of a formula stand for: float64 (asked,) for each; zeros for what this query does not ask.

    numbers: of candidates.
    """
    ranker = weighed.ranker
    known = {name: np.zeros(numbers.size) for name in names}
    if "words" in known:
        known["words"] = weighed.scores[numbers]
    if "nearness" in known:
        known["nearness"] = _nearness(sheet, weighed)[numbers]
    used = ["words", *(use.space for use in ranker.spaces)]
    for name, listed in zip(used, [weighed.words, *sheet.lists], strict=True):
        if (shown := shown_name("rank", name)) in known:
            known[shown] = _ranks(listed, sheet.bits.size)[numbers]
    for use, alike in zip(ranker.spaces, sheet.alike, strict=True):
        if (shown := shown_name("space", use.space)) in known and alike is not None:
            known[shown] = alike.of(numbers)
    for signal, values in zip(ranker.signals, sheet.signals, strict=True):
        if (shown := shown_name("signal", signal.field)) in known:
            known[shown] = known[shown] + values[numbers]
    fields = [shown_name("reading", one.field) for one in weighed.readings]
    if any(name in known for name in fields):
        shares = _shares(sheet, weighed)
        for name, own in zip(fields, shares, strict=True):
            if name in known:
                known[name] = known[name] + own[numbers]
    return known


def _ranks(listed: Listed, count: int) -> FloatArray:
    ranks = np.full(count, np.inf)
    ranks[listed.record_ids] = np.arange(1.0, listed.record_ids.size + 1)
    return ranks


def _nearness(sheet: QuerySheet, weighed: Weighed) -> FloatArray:
    """What words that stand near each other add: (candidates,)."""
    total = np.zeros(sheet.bits.size)
    if sheet.is_pooled:
        return total
    pieces = sheet.pieces
    factors = pieces.amounts * worths_by(pieces, [numbers_of(one) for one in weighed.readings])
    for part in np.flatnonzero(pieces.worth_of == Worth.NEAR):
        reading = weighed.readings[pieces.readings[part]]
        base, slope = length_norm(reading.k1, reading.b, float(pieces.averages[pieces.readings[part]]))
        own = slice(pieces.starts[part], pieces.starts[part + 1])
        norms = base + slope * pieces.lengths[own]
        added = term_part(factors[part], pieces.frequencies[own], reading.k1, norms)
        total[pieces.places[own]] += reading.weight * added
    return total


def _shares(sheet: QuerySheet, weighed: Weighed) -> FloatArray:
    """What each reading adds to the score: (readings, candidates), see `core.ranking.columns.shares`."""
    if sheet.is_pooled:
        return _pool_shares(sheet, weighed)
    columns = turned_columns(sheet, list(enumerate(numbers_of(one) for one in weighed.readings)))
    weighted = columns * np.array([one.weight for one in weighed.readings])[:, None]
    combine = weighed.ranker.combine
    if combine.how is not CombineHow.STRONGEST or not weighted.size:
        return weighted
    best, every = weighted.argmax(axis=0), np.arange(weighted.shape[1])
    dealt = weighted * combine.share
    dealt[best, every] = weighted[best, every]
    return dealt


def _pool_shares(sheet: QuerySheet, weighed: Weighed) -> FloatArray:
    pieces, readings, k1 = sheet.pieces, weighed.readings, weighed.ranker.combine.k1
    shares = np.zeros((len(readings), sheet.bits.size))
    worths = worths_by(pieces, [numbers_of(one) for one in readings])
    norms = [length_norm(1.0, one.b, float(average)) for one, average in zip(readings, pieces.averages, strict=True)]
    for term, factor in enumerate(pieces.pool_factors):
        added: list[tuple[int, IntArray, FloatArray]] = []
        sums = np.zeros(sheet.bits.size)
        for part in range(pieces.pool_firsts[term], pieces.pool_firsts[term + 1]):
            number = int(pieces.readings[part])
            own = slice(pieces.starts[part], pieces.starts[part + 1])
            base, slope = norms[number]
            # What only matches has no pieces in a pool, so that every part here is worth something.
            amounts = (
                readings[number].weight * worths[part] * pieces.frequencies[own] / (base + slope * pieces.lengths[own])
            )
            sums[pieces.places[own]] += amounts
            added.append((number, pieces.places[own], amounts))
        held = np.flatnonzero(sums)
        parts = np.zeros(sheet.bits.size)
        parts[held] = term_part(factor, sums[held], k1, k1) / sums[held]
        for number, places, amounts in added:
            shares[number, places] += amounts * parts[places]
    return shares
