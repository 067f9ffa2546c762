"""Rankers that one pass weighs together: what follows from them alone is read once for all queries."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.blend import Blend, BlendHow
from pale_harbor.core.blend.blending import shares_of_meaning
from pale_harbor.core.ranking import CombineHow, Ranker
from pale_harbor.core.ranking.ranker import Reading
from pale_harbor.core.ranking.signals import signal_order
from pale_harbor.core.sheets.blending import blend_of, own_blend
from pale_harbor.core.sheets.fusing import RANKS, WAYS
from pale_harbor.core.sheets.query_sheet import Numbers, QuerySheet
from pale_harbor.core.sheets.readings import Asked, numbers_of, turned_readings

ADDING: Final = (BlendHow.RECIPROCAL_RANK, BlendHow.WEIGHTED_SUM)


@dataclass(frozen=True, slots=True, eq=False)
class ReadAs:
    """Readings of a sheet as each ranker has them. weights: (rankers, readings); asked: each reading by all numbers
    that it has, the first ranker's first; which: (rankers, readings), where each stands among them."""

    readings: Sequence[Sequence[Reading]]
    weights: FloatArray
    numbers: Sequence[tuple[Numbers, ...]]
    asked: Sequence[Asked]
    which: IntArray


@dataclass(frozen=True, slots=True, eq=False)
class Blending:
    """By ranker how words and meaning come together, None where words are alone; asks: whether it looks at meaning.

    adding: rankers whose blends add up; of these shares: (adding, lists), ways, ks, fetches: (adding,), a fetch of 0
    where words are not asked.
    """

    blends: Sequence[Blend | None]
    asks: Sequence[bool]
    adding: Sequence[int]
    shares: FloatArray
    ways: IntArray
    ks: FloatArray
    fetches: IntArray


class Together:
    """Rankers of one sheet's name that need the same words, combine alike and look at the same signals.

    places: their numbers among those that were given.
    """

    def __init__(self, rankers: Sequence[Ranker], places: Sequence[int]) -> None:
        self.rankers, self.places = rankers, places
        first = rankers[0]
        self.need, self.one_per = first.need, first.one_per
        self.is_strongest = first.combine.how is CombineHow.STRONGEST
        self.shares = np.array([one.combine.share for one in rankers])
        self.pool_k1s = np.array([one.combine.k1 for one in rankers])
        # A signal of no weight is not looked at.
        self.signals: list[int] = [i for i in signal_order(first.signals) if first.signals[i].weight]
        amounts = [[one.signals[i].weight for i in self.signals] for one in rankers]
        self.amounts: FloatArray = np.array(amounts, np.float64).reshape(len(rankers), len(self.signals))
        self.multiplied: Mask = np.array([first.signals[i].multiplied for i in self.signals], np.bool_)
        self._read: dict[Hashable, ReadAs] = {}
        self._blending: dict[Hashable, Blending] = {}

    def read(self, sheet: QuerySheet) -> ReadAs:
        """The sheet's readings as the rankers have them. Raises NotOnSheet where other readings would be asked."""
        literal = sheet.plan.readings[len(sheet.plan.numbers) :]
        key = tuple(sheet.rule_weights), sheet.plan.numbers
        if literal:
            return self._read_now(sheet)
        if key not in self._read:
            self._read[key] = self._read_now(sheet)
        return self._read[key]

    def _read_now(self, sheet: QuerySheet) -> ReadAs:
        readings = [turned_readings(sheet, one) for one in self.rankers]
        numbers = [tuple(numbers_of(one) for one in own) for own in readings]
        weights = np.array([[one.weight for one in own] for own in readings]).reshape(len(readings), -1)
        places: dict[Asked, int] = {}
        which = [[places.setdefault(asked, len(places)) for asked in enumerate(own)] for own in numbers]
        return ReadAs(readings, weights, numbers, list(places), np.array(which, np.int64).reshape(weights.shape))

    def blending(self, sheet: QuerySheet) -> Blending:
        """How the rankers blend for a query of the sheet's kind."""
        key = sheet.kind, sheet.has_stage, any(sheet.has_vector)
        if key not in self._blending:
            self._blending[key] = self._blending_now(sheet)
        return self._blending[key]

    def _blending_now(self, sheet: QuerySheet) -> Blending:
        blends = [blend_of(sheet, one) for one in self.rankers]
        adding = [(row, one) for row, one in enumerate(blends) if one is not None and one.how in ADDING]
        spaces = [[use.weight for use in self.rankers[row].spaces] for row, _ in adding]
        shares = [
            [1 - one.meaning, *shares_of_meaning(one.meaning, own)]
            for (_, one), own in zip(adding, spaces, strict=True)
        ]
        by_ranks = BlendHow.RECIPROCAL_RANK
        return Blending(
            blends=blends,
            asks=[bool(one.spaces) and own_blend(sheet, one).asks_spaces for one in self.rankers],
            adding=[row for row, _ in adding],
            shares=np.array(shares, np.float64).reshape(len(adding), 1 + len(self.rankers[0].spaces)),
            ways=np.array([RANKS if one.how is by_ranks else WAYS[one.normalise] for _, one in adding], np.int64),
            ks=np.array([one.k for _, one in adding], np.float64),
            fetches=np.array([one.fetch if one.asks_words else 0 for _, one in adding], np.int64),
        )


def alike(rankers: Sequence[Ranker]) -> list[Together]:
    """Rankers of one sheet's name, by which of them one pass weighs together."""
    groups: dict[Hashable, list[int]] = {}
    for i, ranker in enumerate(rankers):
        hows = tuple(one.how for one in ranker.signals), tuple(bool(one.weight) for one in ranker.signals)
        groups.setdefault((ranker.need, ranker.combine.how, hows), []).append(i)
    return [Together([rankers[i] for i in places], places) for places in groups.values()]
