"""Words and meaning made one by blends that add up: the lists of many rankers in one pass."""

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.sheets.blending import Ranked
from pale_harbor.core.sheets.fusing import fused_each
from pale_harbor.core.sheets.query_sheet import QuerySheet
from pale_harbor.core.sheets.together import Blending


def added_up(sheet: QuerySheet, blending: Blending, numbers: IntArray, best: FloatArray, top: int) -> list[Ranked]:
    """The beginning of the list of each ranker whose blend adds up.

    numbers, best: (rankers, records), the first candidates by words and their scores.
    """
    if not blending.adding:
        return []
    rows = np.array(blending.adding)
    found, scores, counts, matched = fused_each(
        sheet.bits.size,
        numbers[rows],
        best[rows],
        blending.fetches,
        np.concatenate([np.empty(0, np.int32), *(one.record_ids for one in sheet.lists)]),
        np.concatenate([np.empty(0), *(one.scores for one in sheet.lists)]),
        np.cumsum([0, *(one.record_ids.size for one in sheet.lists)]),
        blending.shares,
        blending.ways,
        blending.ks,
        top,
    )
    return [
        (found[row, :count], scores[row, :count], held)
        for row, (count, held) in enumerate(zip(counts.tolist(), matched.tolist(), strict=True))
    ]
