"""What comes after the words' scores: words and meaning made one list, a second look at its first, one per group."""

from dataclasses import replace

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask, distinct
from pale_harbor.core.blend import Blend, BlendHow, Normalisation, blend_lists, second_stage_order
from pale_harbor.core.blend.fusion import best_first
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.sheets.known import Weighed, known_of
from pale_harbor.core.sheets.query_sheet import QuerySheet

# A list's candidates, best first, their scores, and how many records it has in all.
Ranked = tuple[IntArray, FloatArray, int]


def own_blend(sheet: QuerySheet, ranker: Ranker) -> Blend:
    """The blend that a ranker has for queries of this kind."""
    return next((kind.blend for kind in ranker.kinds if kind.name == sheet.kind), ranker.blend)


def blend_of(sheet: QuerySheet, ranker: Ranker) -> Blend | None:
    """How words and meaning come together for this query; None where words are alone."""
    if not ranker.spaces and not sheet.has_stage:
        return None
    blend = own_blend(sheet, ranker)
    if (blend.asks_spaces and any(sheet.has_vector)) or not blend.asks_words:
        return blend
    if not sheet.has_stage:
        return None
    # Words are alone: their scores stay what they are, and a second stage looks at the first of them.
    return replace(blend, how=BlendHow.WEIGHTED_SUM, normalise=Normalisation.NONE, meaning=0.0)


def blended(sheet: QuerySheet, weighed: Weighed, blend: Blend, top: int) -> Ranked:
    """The beginning of the list of words and meaning, by a blend that does not add up.

    weighed.words: the first `blend.fetch` by words.
    """
    words = weighed.words
    if blend.how is BlendHow.FORMULA and blend.formula is not None:
        numbers = distinct(np.concatenate([words.record_ids, *(one.record_ids for one in sheet.lists)]))
        known = known_of(sheet, weighed, blend.formula.names, numbers)
        scores = blend.formula.values(known, numbers.size)
        order = best_first(scores, np.arange(numbers.size, dtype=np.int32))
        return numbers[order[:top]].astype(np.int32), scores[order[:top]], numbers.size
    weights = [one.weight for one in weighed.ranker.spaces]
    found = blend_lists(blend, words, sheet.lists, weights, np.arange(sheet.bits.size, dtype=np.int32))
    return found.record_ids[:top], found.scores[:top], found.record_ids.size


def looked_at_again(sheet: QuerySheet, ranker: Ranker, ranked: Ranked) -> Ranked:
    """The list with its first records in the order of a second stage; their scores go with them."""
    stage = ranker.second_stage
    if stage is None or sheet.second_look is None or not ranked[0].size:
        return ranked
    numbers, scores, matched = ranked
    again = second_stage_order(sheet.second_look.of(numbers[: stage.first]).tolist(), stage.weight)
    order = np.concatenate([again.order, np.arange(again.order.size, numbers.size)])
    return numbers[order], scores[order], matched


def first_of_groups(numbers: IntArray, groups: IntArray) -> Mask:
    """Which rows of a list are the first of their group, or of none: bool (rows,).

    numbers: (rows,), candidates; groups: (candidates,), −1 for none.
    """
    own = groups[numbers]
    kept = own < 0
    _, firsts = np.unique(own, return_index=True)
    kept[firsts] = True
    return kept
