"""Readings of a sheet as one ranker has them: their numbers, their scores, and what rules make of their weights."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.bm25 import length_norm
from pale_harbor.core.ranking.ranker import Reading
from pale_harbor.core.sheets.query_sheet import Numbers, Pieces, QuerySheet, Worth
from pale_harbor.core.sheets.scoring import reading_columns


class NotOnSheet(Exception):
    """A list that a sheet cannot give: it has to be searched for."""


def numbers_of(reading: Reading) -> Numbers:
    """What a reading's score before its weight depends on."""
    near = 0.0 if reading.nearness is None else reading.nearness.weight
    return Numbers(reading.k1, reading.b, near, reading.synonyms)


# A reading by its number, with the numbers that it is to have.
Asked = tuple[int, Numbers]


def columns_of(pieces: Pieces, count: int, asked: Sequence[Asked]) -> FloatArray:
    """Readings' scores before their weights: (asked, candidates). count: of candidates."""
    every = pieces.averages.size
    if pieces.turnable.size:
        factors = np.array([pieces.amounts * worths_by(pieces, [own] * every) for _, own in asked])
        factors = factors.reshape(len(asked), pieces.amounts.size)
    else:
        factors = np.tile(pieces.amounts * pieces.worths, (len(asked), 1))
    norms = [length_norm(own.k1, own.b, float(pieces.averages[reading])) for reading, own in asked]
    return reading_columns(
        count,
        np.array([reading for reading, _ in asked], np.int64),
        *(pieces.readings, factors, pieces.starts, pieces.places, pieces.frequencies, pieces.lengths),
        np.array([own.k1 for _, own in asked]),
        np.array([base for base, _ in norms]),
        np.array([slope for _, slope in norms]),
    )


def turned_columns(sheet: QuerySheet, asked: Sequence[Asked]) -> FloatArray:
    """The columns of a sheet's readings, some by other numbers than its own: (asked, candidates)."""
    if list(asked) == list(enumerate(sheet.numbers)):
        return sheet.columns
    columns = sheet.columns[[reading for reading, _ in asked]]
    others = [i for i, (reading, own) in enumerate(asked) if own != sheet.numbers[reading]]
    if others:
        columns[others] = columns_of(sheet.pieces, sheet.bits.size, [asked[i] for i in others])
    return columns


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
