"""A ranker's blend at work: the words' list and those of the spaces, by whichever way it says."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.blend.fusion import (
    Blended,
    Listed,
    filled_up,
    ranks_in,
    reciprocal_rank_fusion,
    reorder,
    weighted_sum,
)
from pale_harbor.core.blend.recipe import Blend, BlendHow


def blend_lists(
    blend: Blend, words: Listed, spaces: Sequence[Listed], weights: Sequence[float], order_of_equals: IntArray
) -> Blended:
    """The blended list; its parts are the words' first, then each space's. Not for formulas.

    spaces, weights: one of each for every space. The blend's `meaning` is dealt out among the spaces by their
    weights; a list whose share is nothing does not take part. Raises ValueError for a formula, which is worked out
    from columns.
    """
    match blend.how:
        case BlendHow.FILL_UP | BlendHow.REORDER:
            # Several spaces speak with one voice here.
            meant = spaces[0] if len(spaces) == 1 else _one_voice(spaces, weights, order_of_equals, blend.k)
            found = filled_up(words, meant) if blend.how is BlendHow.FILL_UP else reorder(words, meant, blend.depth)
            return _with_ranks_of_spaces(found, words, spaces)
        case BlendHow.FORMULA:
            raise ValueError("a formula is worked out from columns, not from lists.")
        case _:
            shares = [1 - blend.meaning, *shares_of_meaning(blend.meaning, weights)]
            lists = [one if share else _empty() for one, share in zip([words, *spaces], shares, strict=True)]
            if blend.how is BlendHow.RECIPROCAL_RANK:
                return reciprocal_rank_fusion(lists, shares, order_of_equals, blend.k)
            return weighted_sum(lists, shares, blend.normalise, order_of_equals)


def shares_of_meaning(meaning: float, weights: Sequence[float]) -> list[float]:
    """What each space's list weighs: `meaning` in all.

    >>> shares_of_meaning(0.5, [3.0, 1.0])
    [0.375, 0.125]
    """
    total = sum(weights)
    return [meaning * weight / total if total else 0.0 for weight in weights]


def _one_voice(spaces: Sequence[Listed], weights: Sequence[float], order: IntArray, k: float) -> Listed:
    fused = reciprocal_rank_fusion(spaces, weights, order, k)
    return Listed(fused.record_ids, fused.scores)


def _with_ranks_of_spaces(found: Blended, words: Listed, spaces: Sequence[Listed]) -> Blended:
    """Ranks in every list; what a fused list gave stands with the first space."""
    parts = np.zeros((found.record_ids.size, 1 + len(spaces)))
    parts[:, : found.parts.shape[1]] = found.parts[:, : 1 + len(spaces)]
    ranks = np.stack([ranks_in(one, found.record_ids) for one in [words, *spaces]], axis=1)
    return replace(found, parts=parts, ranks=ranks)


def _empty() -> Listed:
    return Listed(np.zeros(0, np.int32), np.zeros(0))
