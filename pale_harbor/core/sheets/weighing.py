"""From score sheets to ranked lists: what a ranker's numbers come to for one query, and the lists of many rankers.

Only rankers that differ in numbers may share a sheet: `sheet_name` says which. What it does not cover is searched for.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.blend import Blend, BlendHow
from pale_harbor.core.blend.blending import shares_of_meaning
from pale_harbor.core.ranking import Combine, CombineHow, Ranker
from pale_harbor.core.ranking.bm25 import length_norm
from pale_harbor.core.ranking.demands import is_met, keeps, program_of
from pale_harbor.core.ranking.ranker import ANY, Need, Reading
from pale_harbor.core.ranking.signals import SignalHow, signal_order
from pale_harbor.core.sheets.fusing import RANKS, WAYS, fused
from pale_harbor.core.sheets.query_sheet import Numbers, Pieces, QuerySheet, Worth
from pale_harbor.core.sheets.scoring import adjusted, column, pooled, summed, tops
from pale_harbor.errors import BadInput

_ADDING = (BlendHow.RECIPROCAL_RANK, BlendHow.WEIGHTED_SUM)


class NotOnSheet(Exception):
    """A list that a sheet cannot give: it has to be searched for."""


@dataclass(frozen=True, slots=True, eq=False)
class SheetList:
    """The beginning of a list. numbers: candidates, best first, scores beside them; matched: records in all.

    notes: what keeps the list from meaning what one would think.
    """

    numbers: IntArray
    scores: FloatArray
    matched: int
    notes: tuple[str, ...]


def sheet_name(ranker: Ranker) -> Hashable | None:
    """The same for rankers whose lists come from the same sheets; None where they must be searched for.

    Left open are weights that stay above 0, k1 and b, what being near and synonyms are worth, how summed readings
    combine, k1 of a pool, words needed, what signals weigh, and blends that add up. A list of one record per group, a
    second stage, feedback and formulas are searched for.
    """
    if ranker.one_per is not None or ranker.second_stage is not None or ranker.feedback is not None:
        return None
    blends = (ranker.blend, *(kind.blend for kind in ranker.kinds))
    if ranker.spaces and any(blend.how not in _ADDING for blend in blends):
        return None
    is_pooled = ranker.combine.how is CombineHow.POOLED
    return replace(
        ranker,
        readings=tuple(_without_numbers(one) for one in ranker.readings),
        combine=Combine(CombineHow.POOLED if is_pooled else CombineHow.SUM),
        # Which records a space may list depends on what the query's signs demand.
        need=ranker.need if ranker.spaces else ANY,
        signals=tuple(replace(one, weight=1.0, how=SignalHow.ADD) for one in ranker.signals),
        spaces=tuple(replace(one, weight=1.0) for one in ranker.spaces),
        blend=Blend(),
        kinds=tuple(replace(kind, blend=Blend()) for kind in ranker.kinds),
    )


def _without_numbers(reading: Reading) -> Reading:
    near = None if reading.nearness is None else replace(reading.nearness, weight=1.0)
    return replace(reading, weight=float(reading.weight > 0), k1=1.0, b=0.0, nearness=near, synonyms=1.0)


def lists_of(sheet: QuerySheet, rankers: Sequence[Ranker], top: int) -> list[SheetList]:
    """The first `top` of a query's list by each of several rankers of the sheet's name.

    Raises NotOnSheet, and BadInput where scores become too large to be numbers.
    """
    found: list[SheetList | None] = [None] * len(rankers)
    for together in _alike(rankers):
        own = [rankers[i] for i in together]
        scores = _word_scores(sheet, own)
        kept = _kept(sheet, own[0].need)
        matched = int(kept.sum())
        blends = [_blend_of(sheet, one) for one in own]
        most = max((blend.fetch for blend in blends if blend is not None), default=0)
        alone = any(blend is None for blend in blends)
        numbers, best = tops(scores, kept, max(most, top if alone else 0))
        for row, (i, blend) in enumerate(zip(together, blends, strict=True)):
            if blend is None:
                notes = _notes(sheet, own[row])
                found[i] = SheetList(numbers[row, :top], best[row, :top], matched, notes)
            else:
                words = numbers[row, : blend.fetch], best[row, : blend.fetch]
                found[i] = _blended(sheet, words, own[row], blend, top)
    return [one for one in found if one is not None]


def _alike(rankers: Sequence[Ranker]) -> list[list[int]]:
    """Rankers that one pass weighs together, by number."""
    groups: dict[Hashable, list[int]] = {}
    for i, ranker in enumerate(rankers):
        hows = tuple(one.how for one in ranker.signals), tuple(bool(one.weight) for one in ranker.signals)
        groups.setdefault((ranker.need, ranker.combine.how, hows), []).append(i)
    return list(groups.values())


def _word_scores(sheet: QuerySheet, rankers: Sequence[Ranker]) -> FloatArray:
    """Scores by words, signals and lifts: (rankers, candidates)."""
    turned = [_turned_readings(sheet, one) for one in rankers]
    weights = np.array([[one.weight for one in own] for own in turned]).reshape(len(rankers), -1)
    numbers = [tuple(numbers_of(one) for one in own) for own in turned]
    scores = _pooled(sheet, rankers, weights, numbers) if sheet.is_pooled else _summed(sheet, rankers, weights, numbers)
    # A signal of no weight is not looked at.
    order = [i for i in signal_order(rankers[0].signals) if rankers[0].signals[i].weight]
    amounts = np.array([[one.signals[i].weight for i in order] for one in rankers]).reshape(len(rankers), len(order))
    multiplied = np.array([rankers[0].signals[i].multiplied for i in order], np.bool_)
    if not adjusted(scores, sheet.signals[order], amounts, multiplied, sheet.lifted, sheet.lifts):
        raise BadInput("Scores become too large to be numbers. Give signals less weight, or rules a smaller lift.")
    return scores


def numbers_of(reading: Reading) -> Numbers:
    """What a reading's score before its weight depends on."""
    near = 0.0 if reading.nearness is None else reading.nearness.weight
    return Numbers(reading.k1, reading.b, near, reading.synonyms)


def columns_by(pieces: Pieces, count: int, numbers: Sequence[Numbers]) -> FloatArray:
    """Each reading's score before its weight: (readings, candidates). count: of candidates."""
    columns = np.empty((len(numbers), count))
    for reading, own in enumerate(numbers):
        columns[reading] = _column(pieces, count, reading, own)
    return columns


def _column(pieces: Pieces, count: int, reading: int, own: Numbers) -> FloatArray:
    factors = pieces.amounts * _worths(pieces, [own] * pieces.averages.size)
    base, slope = length_norm(own.k1, own.b, float(pieces.averages[reading]))
    entries = pieces.places, pieces.frequencies, pieces.lengths
    return column(count, reading, pieces.readings, factors, pieces.starts, *entries, own.k1, base, slope)


def _worths(pieces: Pieces, numbers: Sequence[Numbers]) -> FloatArray:
    """What each part is worth by the numbers of its reading: (parts,)."""
    worths = pieces.worths.copy()
    for part in np.flatnonzero(pieces.worth_of):
        own = numbers[pieces.readings[part]]
        worths[part] = own.near if pieces.worth_of[part] == Worth.NEAR else own.synonym
    return worths


def _summed(
    sheet: QuerySheet, rankers: Sequence[Ranker], weights: FloatArray, numbers: Sequence[tuple[Numbers, ...]]
) -> FloatArray:
    shares = np.array([one.combine.share for one in rankers])
    is_strongest = rankers[0].combine.how is CombineHow.STRONGEST
    scores = np.empty((len(rankers), sheet.bits.size))
    for own in dict.fromkeys(numbers):
        columns = sheet.columns
        for reading, (known, wanted) in enumerate(zip(sheet.numbers, own, strict=True)):
            if known != wanted:
                columns = columns.copy() if columns is sheet.columns else columns
                columns[reading] = _column(sheet.pieces, sheet.bits.size, reading, wanted)
        rows = [i for i, one in enumerate(numbers) if one == own]
        scores[rows] = summed(columns, weights[rows], is_strongest, shares[rows])
    return scores


def _pooled(
    sheet: QuerySheet, rankers: Sequence[Ranker], weights: FloatArray, numbers: Sequence[tuple[Numbers, ...]]
) -> FloatArray:
    pieces = sheet.pieces
    worths = np.array([_worths(pieces, own) for own in numbers]).reshape(len(rankers), -1)
    # What only matches is counted as if it were worth something; the term's factor is 0.
    multipliers = weights[:, pieces.readings] * np.where(worths == 0.0, 1.0, worths)
    norms = np.array(
        [
            [length_norm(1.0, one.b, float(average)) for one, average in zip(own, pieces.averages, strict=True)]
            for own in numbers
        ]
    ).reshape(len(rankers), -1, 2)
    return pooled(
        *(sheet.bits.size, pieces.pool_factors, pieces.pool_firsts, pieces.readings, pieces.starts, pieces.places),
        *(pieces.frequencies, pieces.lengths, multipliers, norms[:, :, 0], norms[:, :, 1]),
        np.array([one.combine.k1 for one in rankers]),
    )


def _turned_readings(sheet: QuerySheet, ranker: Ranker) -> list[Reading]:
    """The sheet's readings as this ranker has them, after rules; a literal one goes by its field's heaviest.

    Raises NotOnSheet where other readings would be asked.
    """
    readings = ranker.readings
    for field, by in sheet.rule_weights:
        readings = tuple(replace(one, weight=one.weight * by) if one.field == field else one for one in readings)
    numbers = tuple(number for number, one in enumerate(readings) if one.weight > 0)
    if numbers != sheet.plan.numbers:
        raise NotOnSheet
    turned = [readings[number] for number in numbers]
    for literal in sheet.plan.readings[len(numbers) :]:
        own = [readings[number] for number in numbers if readings[number].field == literal.field]
        heaviest = max(own, key=_weight) if own else literal
        turned.append(replace(literal, weight=heaviest.weight, k1=heaviest.k1, b=heaviest.b))
    return turned


def _weight(reading: Reading) -> float:
    return reading.weight


def _kept(sheet: QuerySheet, need: Need) -> Mask:
    """Which candidates match the words. Raises NotOnSheet where records that hold nothing would match too."""
    if sheet.demand is None:
        return sheet.by_words
    if is_met(sheet.demand, 0, need) != sheet.everything:
        raise NotOnSheet
    return sheet.by_words & keeps(program_of(sheet.demand, need), sheet.bits)


def _blend_of(sheet: QuerySheet, ranker: Ranker) -> Blend | None:
    """How words and meaning come together for this query; None where words are alone."""
    if not ranker.spaces:
        return None
    blend = _own_blend(sheet, ranker)
    asks = blend.asks_spaces and any(sheet.has_vector)
    return blend if asks or not blend.asks_words else None


def _own_blend(sheet: QuerySheet, ranker: Ranker) -> Blend:
    return next((kind.blend for kind in ranker.kinds if kind.name == sheet.kind), ranker.blend)


def _notes(sheet: QuerySheet, ranker: Ranker) -> tuple[str, ...]:
    asks = bool(ranker.spaces) and _own_blend(sheet, ranker).asks_spaces
    return (*sheet.space_notes, *sheet.notes) if asks else sheet.notes


def _blended(
    sheet: QuerySheet, words: tuple[IntArray, FloatArray], ranker: Ranker, blend: Blend, top: int
) -> SheetList:
    arrays = [words if blend.asks_words else _NOTHING, *((one.record_ids, one.scores) for one in sheet.lists)]
    shares = np.array([1 - blend.meaning, *shares_of_meaning(blend.meaning, [one.weight for one in ranker.spaces])])
    starts = np.cumsum([0, *(ids.size for ids, _ in arrays)])
    numbers, scores, matched = fused(
        sheet.bits.size,
        np.concatenate([ids for ids, _ in arrays]),
        np.concatenate([own for _, own in arrays]),
        starts,
        shares,
        RANKS if blend.how is BlendHow.RECIPROCAL_RANK else WAYS[blend.normalise],
        float(blend.k),
        top,
    )
    return SheetList(numbers, scores, int(matched), _notes(sheet, ranker))


_NOTHING = np.empty(0, np.int32), np.empty(0)
