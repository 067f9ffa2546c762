"""Readings of a sheet as one ranker has them: their numbers, their scores, and what rules make of their weights."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.bm25 import length_norm
from pale_harbor.core.ranking.ranker import Reading
from pale_harbor.core.sheets.query_sheet import Numbers, Pieces, QuerySheet, Worth
from pale_harbor.core.sheets.scoring import column, columns_by_turns


class NotOnSheet(Exception):
    """A list that a sheet cannot give: it has to be searched for."""


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


def turned_columns(sheet: QuerySheet, numbers: Sequence[Numbers]) -> FloatArray:
    """The sheet's columns by these numbers of its readings: (readings, candidates)."""
    columns = sheet.columns
    for reading, (known, wanted) in enumerate(zip(sheet.numbers, numbers, strict=True)):
        if known != wanted:
            columns = columns.copy() if columns is sheet.columns else columns
            columns[reading] = _column(sheet.pieces, sheet.bits.size, reading, wanted)
    return columns


def columns_of_one(sheet: QuerySheet, reading: int, numbers: Sequence[Numbers]) -> FloatArray:
    """One reading's score before its weight by several numbers: (numbers, candidates)."""
    pieces = sheet.pieces
    every = pieces.averages.size
    factors = np.stack([pieces.amounts * worths_by(pieces, [one] * every) for one in numbers])
    norms = [length_norm(one.k1, one.b, float(pieces.averages[reading])) for one in numbers]
    return columns_by_turns(
        *(sheet.bits.size, reading, pieces.readings, factors, pieces.starts),
        *(pieces.places, pieces.frequencies, pieces.lengths),
        np.array([one.k1 for one in numbers]),
        np.array([base for base, _ in norms]),
        np.array([slope for _, slope in norms]),
    )


def _column(pieces: Pieces, count: int, reading: int, own: Numbers) -> FloatArray:
    factors = pieces.amounts * worths_by(pieces, [own] * pieces.averages.size)
    base, slope = length_norm(own.k1, own.b, float(pieces.averages[reading]))
    entries = pieces.places, pieces.frequencies, pieces.lengths
    return column(count, reading, pieces.readings, factors, pieces.starts, *entries, own.k1, base, slope)


def worths_by(pieces: Pieces, numbers: Sequence[Numbers]) -> FloatArray:
    """What each part is worth by the numbers of its reading: (parts,)."""
    if not pieces.turnable.size:
        return pieces.worths
    worths = pieces.worths.copy()
    for part in pieces.turnable.tolist():
        own = numbers[int(pieces.readings[part])]
        worths[part] = own.near if pieces.worth_of[part] == Worth.NEAR else own.synonym
    return worths


def turned_readings(sheet: QuerySheet, ranker: Ranker) -> list[Reading]:
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
