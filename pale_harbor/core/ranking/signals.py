"""Signals: numbers known about a record before any query, and what they add to its score.

The shape makes of a field's number x a value; the weight says how much of it counts:

    value       x
    log         ln(1 + x / scale)                popularity: each doubling adds as much again
    saturation  x / (x + scale)                  half of it at `scale`
    rank        share of the records below x     whatever the numbers are
    flag        1 where x is not 0
    half_life   2^(−age / scale)                 freshness: age is now − x, at least 0
    linear      max(0, 1 − age / scale)
    bell        2^(−(age / scale)²)

Age counts in the field's own unit: days where it holds dates, else whatever its numbers are. A record
without the number gets `without`. Added signals are added to the score first, in their order; then it is
multiplied, signal by signal, by 1 + weight · value.

Source: the saturation is that of N. Craswell, S. Robertson, H. Zaragoza and M. Taylor, "Relevance
weighting for query independent evidence", 2005.
"""

from collections.abc import Sequence
from dataclasses import KW_ONLY, dataclass
from enum import Enum
from typing import Annotated, Final, TypeVar

import numpy as np

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.knobs import Knob, Names, Where


class Shape(Enum):
    """What a signal makes of a number."""

    VALUE = "value"
    LOG = "log"
    SATURATION = "saturation"
    RANK = "rank"
    FLAG = "flag"
    HALF_LIFE = "half_life"
    LINEAR = "linear"
    BELL = "bell"


class SignalHow(Enum):
    """Whether a signal is added to the score or multiplies it."""

    ADD = "add"
    MULTIPLY = "multiply"


_BENDING: Final = ("log", "saturation", "half_life", "linear", "bell")
_FRESH: Final = ("half_life", "linear", "bell")


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal:
    """A field's number as a part of the score."""

    field: Annotated[str, Knob("field", "a field of numbers, dates or flags", longest=200, names=Names.FIELD)]
    shape: Annotated[
        Shape,
        Knob(
            "shape",
            "what is made of the number",
            choices={
                "log": "logarithm",
                "saturation": "saturation",
                "rank": "rank among all",
                "value": "the number itself",
                "flag": "flag",
                "half_life": "fresh: half-life",
                "linear": "fresh: linear",
                "bell": "fresh: bell",
            },
        ),
    ]
    _: KW_ONLY
    weight: Annotated[
        float, Knob("weight", "how much of it counts", least=-1_000_000, most=1_000_000, step=0.1, reach=5)
    ] = 1.0
    scale: Annotated[
        float,
        Knob(
            "scale",
            "where the shape bends, in the field's unit",
            above=0,
            most=1e12,
            where=Where(name="shape", says=_BENDING),
        ),
    ] = 1.0
    without: Annotated[float, Knob("without", "what a record without the number gets", least=-1e9, most=1e9)] = 0.0
    now: Annotated[
        float | None,
        Knob(
            "now",
            "the day or number from which age counts; left out, the greatest value that any record has",
            names=Names.MOMENT,
            where=Where(name="shape", says=_FRESH),
        ),
    ] = None
    how: Annotated[
        SignalHow,
        Knob("counts", "added to the score, or multiplying it", choices={"add": "added", "multiply": "multiplied"}),
    ] = SignalHow.ADD

    @property
    def multiplied(self) -> bool:
        """Whether it multiplies the score, instead of being added to it."""
        return self.how is SignalHow.MULTIPLY


@dataclass(frozen=True, slots=True, eq=False)
class SignalBasis:
    """What a signal needs to know of all living records. values: their numbers, ascending, float64."""

    values: FloatArray

    @property
    def latest(self) -> float:
        """The greatest value that any record has, from which ages are counted; 0 where none has one."""
        return float(self.values[-1]) if self.values.size else 0.0


def basis_of(columns: Sequence[FloatArray]) -> SignalBasis:
    """The basis from the living records' numbers of every slab, NaN where a record has none.

    columns: one a slab, each (records,).
    """
    numbers = np.concatenate(columns) if columns else np.zeros(0)
    return SignalBasis(np.sort(numbers[~np.isnan(numbers)]))


def signal_values(signal: Signal, numbers: FloatArray, basis: SignalBasis) -> FloatArray:
    """The value of a signal for every record: float64 (records,), before its weight.

    numbers: float64 (records,), NaN where a record has none.
    """
    known = ~np.isnan(numbers)
    values = np.full(numbers.shape, signal.without)
    values[known] = _shape(signal, numbers[known], basis)
    return values


def _shape(signal: Signal, x: FloatArray, basis: SignalBasis) -> FloatArray:
    match signal.shape:
        case Shape.VALUE:
            return x
        case Shape.FLAG:
            return (x != 0).astype(np.float64)
        case Shape.LOG:
            return np.log1p(np.maximum(x, 0) / signal.scale)
        case Shape.SATURATION:
            return np.maximum(x, 0) / (np.maximum(x, 0) + signal.scale)
        case Shape.RANK:
            return np.searchsorted(basis.values, x, side="left") / max(1, basis.values.size)
        case _:
            now = basis.latest if signal.now is None else signal.now
            aged = np.maximum(now - x, 0) / signal.scale
            if signal.shape is Shape.HALF_LIFE:
                return np.exp2(-aged)
            return np.maximum(0, 1 - aged) if signal.shape is Shape.LINEAR else np.exp2(-aged * aged)


def with_signals(scores: FloatArray, signals: Sequence[tuple[Signal, FloatArray]]) -> FloatArray:
    """Scores with the signals in them. signals: each with its value for the same records. All (records,)."""
    total = scores
    for number in signal_order([signal for signal, _ in signals]):
        signal, values = signals[number]
        total = with_signal(total, signal, values)
    return total if signals else scores.copy()


def signal_order(signals: Sequence[Signal]) -> list[int]:
    """In which order signals count, by number: those that are added come first."""
    return sorted(range(len(signals)), key=lambda number: signals[number].multiplied)


Numbers = TypeVar("Numbers", float, FloatArray)


def with_signal(score: Numbers, signal: Signal, value: Numbers) -> Numbers:
    """A score, or many, with one more signal in it."""
    amount = signal_amount(signal, value)
    return score * amount if signal.multiplied else score + amount


def signal_amount(signal: Signal, value: Numbers) -> Numbers:
    """What a signal adds, or multiplies with."""
    own = signal.weight * value
    return 1.0 + own if signal.multiplied else own
