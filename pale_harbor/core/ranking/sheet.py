"""The score sheet of one query in one slab: its candidates with a column per reading.

Making a sheet touches postings; weighing it does not. A turn of a weight, or of how readings combine, is one pass
over the sheet, and gives the scores of a search to the last digit.
"""

from dataclasses import dataclass

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, distinct
from pale_harbor.core.kernels import kernel


@dataclass(frozen=True, slots=True, eq=False)
class Sheet:
    """Every record that holds anything of a query.

    record_ids: int32 (records,), ascending; columns: float64 (readings, records), each reading's score before its
    weight, 0 where it holds nothing; bits: int64 (records,), the query's words that the record holds in any reading.
    """

    record_ids: IntArray
    columns: FloatArray
    bits: IntArray

    @property
    def size_bytes(self) -> int:
        """What its columns take up in memory."""
        return self.record_ids.nbytes + self.columns.nbytes + self.bits.nbytes


def sheet_of(readings: list[tuple[IntArray, FloatArray, IntArray]], markers: list[tuple[IntArray, int]]) -> Sheet:
    """The sheet of several readings' records, ascending, each with its scores and bits; and of what only marks.

    >>> one = (np.array([2, 5], np.int32), np.array([1.0, 2.0]), np.array([1, 1]))
    >>> sheet_of([one], [(np.array([3], np.int32), 2)]).record_ids.tolist()
    [2, 3, 5]
    """
    parts = [ids for ids, _, _ in readings] + [ids for ids, _ in markers]
    record_ids = distinct(np.concatenate(parts)) if parts else np.empty(0, np.int32)
    columns = np.zeros((len(readings), record_ids.size))
    bits = np.zeros(record_ids.size, np.int64)
    for number, (ids, scores, own_bits) in enumerate(readings):
        at = np.searchsorted(record_ids, ids)
        columns[number, at] = scores
        bits[at] |= own_bits
    for ids, own in markers:
        bits[np.searchsorted(record_ids, ids)] |= own
    return Sheet(record_ids.astype(np.int32, copy=False), columns, bits)


@kernel
def weigh(columns: FloatArray, weights: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Each record's sum of weighted readings, and the strongest of them: float64 (records,), twice.

    Added in the order of the readings, as every path to a score adds them: the last digit decides ties.
    """
    count = columns.shape[1]
    totals, strongest = np.zeros(count, np.float64), np.zeros(count, np.float64)
    for reading in range(columns.shape[0]):
        weight = weights[reading]
        for i in range(count):
            own = weight * columns[reading, i]
            totals[i] += own
            strongest[i] = max(strongest[i], own)
    return totals, strongest
