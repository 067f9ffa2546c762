"""From score sheets to ranked lists: what a ranker's numbers come to for one query, and the lists of many rankers.

Only rankers that differ in numbers may share a sheet: `sheet_name` says which. What it does not cover is searched for.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.blend import Blend, Listed, SecondStage
from pale_harbor.core.ranking import Combine, CombineHow, Ranker
from pale_harbor.core.ranking.bm25 import length_norm
from pale_harbor.core.ranking.demands import is_met, keeps, program_of
from pale_harbor.core.ranking.ranker import ANY, Need, Reading
from pale_harbor.core.ranking.signals import SignalHow, signal_order
from pale_harbor.core.sheets.blending import Ranked, blend_of, blended, first_of_groups, looked_at_again, own_blend
from pale_harbor.core.sheets.known import Weighed
from pale_harbor.core.sheets.query_sheet import Numbers, QuerySheet
from pale_harbor.core.sheets.readings import NotOnSheet, numbers_of, turned_columns, turned_readings, worths_by
from pale_harbor.core.sheets.scoring import adjusted, pooled, summed, tops
from pale_harbor.errors import BadInput


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
    combine, k1 of a pool, words needed, what signals weigh, blends, and how far a second stage looks. A query that is
    fed back is another one for each list: those are searched for.
    """
    if ranker.feedback is not None:
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
        second_stage=None if ranker.second_stage is None else SecondStage(ranker.second_stage.space),
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
        readings = [turned_readings(sheet, one) for one in own]
        scores = _word_scores(sheet, own, readings)
        kept = _kept(sheet, own[0].need)
        matched = int(kept.sum())
        blends = [blend_of(sheet, one) for one in own]
        most = max((blend.fetch for blend in blends if blend is not None), default=0)
        alone = any(blend is None for blend in blends)
        # A row that stands for its group may come from anywhere.
        enough = top if own[0].one_per is None else sheet.bits.size
        numbers, best = tops(scores, kept, max(most, enough if alone else 0))
        for row, (i, blend) in enumerate(zip(together, blends, strict=True)):
            if blend is None:
                ranked = numbers[row, :enough], best[row, :enough], matched
            else:
                words = Listed(numbers[row, : blend.fetch], best[row, : blend.fetch])
                weighed = Weighed(own[row], readings[row], np.where(kept, scores[row], 0.0), words)
                ranked = looked_at_again(sheet, own[row], blended(sheet, weighed, blend, _far(own[row], enough)))
            found[i] = _list(sheet, own[row], ranked, top)
    return [one for one in found if one is not None]


def _far(ranker: Ranker, enough: int) -> int:
    """How much of a list has to be known for its first rows to be right."""
    return enough if ranker.second_stage is None else max(enough, ranker.second_stage.first)


def _list(sheet: QuerySheet, ranker: Ranker, ranked: Ranked, top: int) -> SheetList:
    numbers, scores, matched = ranked
    if ranker.one_per is not None:
        kept = first_of_groups(numbers, sheet.groups)
        numbers, scores = numbers[kept], scores[kept]
    return SheetList(numbers[:top], scores[:top], matched, _notes(sheet, ranker))


def _alike(rankers: Sequence[Ranker]) -> list[list[int]]:
    """Rankers that one pass weighs together, by number."""
    groups: dict[Hashable, list[int]] = {}
    for i, ranker in enumerate(rankers):
        hows = tuple(one.how for one in ranker.signals), tuple(bool(one.weight) for one in ranker.signals)
        groups.setdefault((ranker.need, ranker.combine.how, hows), []).append(i)
    return list(groups.values())


def _word_scores(sheet: QuerySheet, rankers: Sequence[Ranker], readings: Sequence[Sequence[Reading]]) -> FloatArray:
    """Scores by words, signals and lifts: (rankers, candidates)."""
    weights = np.array([[one.weight for one in own] for own in readings]).reshape(len(rankers), -1)
    numbers = [tuple(numbers_of(one) for one in own) for own in readings]
    scores = _pooled(sheet, rankers, weights, numbers) if sheet.is_pooled else _summed(sheet, rankers, weights, numbers)
    # A signal of no weight is not looked at.
    order = [i for i in signal_order(rankers[0].signals) if rankers[0].signals[i].weight]
    amounts = np.array([[one.signals[i].weight for i in order] for one in rankers]).reshape(len(rankers), len(order))
    multiplied = np.array([rankers[0].signals[i].multiplied for i in order], np.bool_)
    if not adjusted(scores, sheet.signals[order], amounts, multiplied, sheet.lifted, sheet.lifts):
        raise BadInput("Scores become too large to be numbers. Give signals less weight, or rules a smaller lift.")
    return scores


def _summed(
    sheet: QuerySheet, rankers: Sequence[Ranker], weights: FloatArray, numbers: Sequence[tuple[Numbers, ...]]
) -> FloatArray:
    shares = np.array([one.combine.share for one in rankers])
    is_strongest = rankers[0].combine.how is CombineHow.STRONGEST
    scores = np.empty((len(rankers), sheet.bits.size))
    for own in dict.fromkeys(numbers):
        rows = [i for i, one in enumerate(numbers) if one == own]
        scores[rows] = summed(turned_columns(sheet, own), weights[rows], is_strongest, shares[rows])
    return scores


def _pooled(
    sheet: QuerySheet, rankers: Sequence[Ranker], weights: FloatArray, numbers: Sequence[tuple[Numbers, ...]]
) -> FloatArray:
    pieces = sheet.pieces
    worths = np.array([worths_by(pieces, own) for own in numbers]).reshape(len(rankers), -1)
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


def _kept(sheet: QuerySheet, need: Need) -> Mask:
    """Which candidates match the words. Raises NotOnSheet where records that hold nothing would match too."""
    if sheet.demand is None:
        return sheet.by_words
    if is_met(sheet.demand, 0, need) != sheet.everything:
        raise NotOnSheet
    return sheet.by_words & keeps(program_of(sheet.demand, need), sheet.bits)


def _notes(sheet: QuerySheet, ranker: Ranker) -> tuple[str, ...]:
    asks = bool(ranker.spaces) and own_blend(sheet, ranker).asks_spaces
    return (*(sheet.space_notes if asks else ()), *sheet.stage_notes, *sheet.notes)
