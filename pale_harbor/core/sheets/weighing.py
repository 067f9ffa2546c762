"""From score sheets to ranked lists: what a ranker's numbers come to for one query, and the lists of many rankers.

Only rankers that differ in numbers may share a sheet: `sheet_name` says which. What it does not cover is searched for.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.blend import Blend, Listed, SecondStage
from pale_harbor.core.ranking import Combine, CombineHow, Ranker
from pale_harbor.core.ranking.bm25 import length_norms
from pale_harbor.core.ranking.demands import is_met, keeps, program_of
from pale_harbor.core.ranking.ranker import ANY, Need, Reading
from pale_harbor.core.ranking.signals import SignalHow
from pale_harbor.core.sheets.adding_up import added_up
from pale_harbor.core.sheets.blending import Ranked, blended, first_of_groups, looked_at_again
from pale_harbor.core.sheets.known import Weighed
from pale_harbor.core.sheets.query_sheet import QuerySheet
from pale_harbor.core.sheets.readings import NotOnSheet, turned_columns, worths_by
from pale_harbor.core.sheets.scoring import adjusted, pooled, summed, tops
from pale_harbor.core.sheets.together import ReadAs, Together
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
    corrections = ranker.corrections if ranker.corrections is not None and ranker.corrections.is_taken else None
    is_pooled = ranker.combine.how is CombineHow.POOLED
    return replace(
        ranker,
        readings=tuple(_without_numbers(one) for one in ranker.readings),
        combine=Combine(CombineHow.POOLED if is_pooled else CombineHow.SUM),
        # Which records a space may list depends on what the query's signs demand, and whether another query is asked on
        # whether this one finds anything.
        need=ranker.need if ranker.spaces or corrections is not None else ANY,
        completions=None,
        corrections=corrections,
        signals=tuple(replace(one, weight=1.0, how=SignalHow.ADD) for one in ranker.signals),
        spaces=tuple(replace(one, weight=1.0) for one in ranker.spaces),
        blend=Blend(),
        second_stage=None if ranker.second_stage is None else SecondStage(ranker.second_stage.space),
        kinds=tuple(replace(kind, blend=Blend()) for kind in ranker.kinds),
    )


def _without_numbers(reading: Reading) -> Reading:
    near = None if reading.nearness is None else replace(reading.nearness, weight=1.0)
    return replace(reading, weight=float(reading.weight > 0), k1=1.0, b=0.0, nearness=near, synonyms=1.0)


def lists_of(sheet: QuerySheet, rankers: Sequence[Together], top: int) -> list[SheetList]:
    """The first `top` of a query's list by each of several rankers of the sheet's name, in their order.

    Raises NotOnSheet, and BadInput where scores become too large to be numbers.
    """
    found: dict[int, SheetList] = {}
    for own in rankers:
        read, blending = own.read(sheet), own.blending(sheet)
        scores = _word_scores(sheet, own, read)
        kept = _kept(sheet, own.need)
        matched = int(kept.sum())
        # A row that stands for its group may come from anywhere.
        enough = top if own.one_per is None else sheet.bits.size
        most = max((blend.fetch for blend in blending.blends if blend is not None), default=0)
        alone = any(blend is None for blend in blending.blends)
        numbers, best = tops(scores, kept, max(most, enough if alone else 0))
        far = max(enough, *(one.second_stage.first for one in own.rankers if one.second_stage is not None), 0)
        added = dict(zip(blending.adding, added_up(sheet, blending, numbers, best, far), strict=True))
        for row, (ranker, blend) in enumerate(zip(own.rankers, blending.blends, strict=True)):
            if blend is None:
                ranked = numbers[row, :enough], best[row, :enough], matched
            elif row in added:
                ranked = looked_at_again(sheet, ranker, added[row])
            else:
                words = Listed(numbers[row, : blend.fetch], best[row, : blend.fetch])
                weighed = Weighed(ranker, read.readings[row], np.where(kept, scores[row], 0.0), words)
                ranked = looked_at_again(sheet, ranker, blended(sheet, weighed, blend, far))
            notes = (*(sheet.space_notes if blending.asks[row] else ()), *sheet.stage_notes, *sheet.notes)
            found[own.places[row]] = _list(sheet, own.one_per, ranked, top, notes)
    return [found[place] for place in sorted(found)]


def _list(sheet: QuerySheet, one_per: str | None, ranked: Ranked, top: int, notes: tuple[str, ...]) -> SheetList:
    numbers, scores, matched = ranked
    if one_per is not None:
        kept = first_of_groups(numbers, sheet.groups)
        numbers, scores = numbers[kept], scores[kept]
    return SheetList(numbers[:top], scores[:top], matched, notes)


def _word_scores(sheet: QuerySheet, own: Together, read: ReadAs) -> FloatArray:
    """Scores by words, signals and lifts: (rankers, candidates)."""
    if sheet.is_pooled:
        scores = _pooled(sheet, own, read)
    else:
        columns = turned_columns(sheet, read.asked)
        scores = summed(columns, read.which, read.weights, own.is_strongest, own.shares)
    signals = sheet.signals[own.signals]
    if not adjusted(scores, signals, own.amounts, own.multiplied, sheet.lifted, sheet.lifts):
        raise BadInput("Scores become too large to be numbers. Give signals less weight, or rules a smaller lift.")
    return scores


def _pooled(sheet: QuerySheet, own: Together, read: ReadAs) -> FloatArray:
    pieces = sheet.pieces
    worths = np.array([worths_by(pieces, numbers) for numbers in read.numbers]).reshape(len(own.rankers), -1)
    # What only matches is counted as if it were worth something; the term's factor is 0.
    multipliers = read.weights[:, pieces.readings] * np.where(worths == 0.0, 1.0, worths)
    bs = np.array([[one.b for one in numbers] for numbers in read.numbers]).reshape(len(own.rankers), -1)
    bases, slopes = length_norms(1.0, bs, pieces.averages)
    return pooled(
        *(sheet.bits.size, pieces.pool_factors, pieces.pool_firsts, pieces.readings, pieces.starts, pieces.places),
        *(pieces.frequencies, pieces.lengths, multipliers, bases, slopes, own.pool_k1s),
    )


def _kept(sheet: QuerySheet, need: Need) -> Mask:
    """Which candidates match the words. Raises NotOnSheet where records that hold nothing would match too."""
    if sheet.demand is None:
        return sheet.by_words
    if is_met(sheet.demand, 0, need) != sheet.everything:
        raise NotOnSheet
    return sheet.by_words & keeps(program_of(sheet.demand, need), sheet.bits)
