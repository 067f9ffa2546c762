"""Dials: the knobs that are tuned, each with the values that it may be turned to. A setting says where each stands."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pale_harbor.core.knobs import dotted

# Where each dial stands: the number of a value.
Setting = tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Dial:
    """One knob that is tuned.

    path: its place in a ranker's document; values: what it may be turned to, in order; standing: the number of the
    value that it has before; ordered: whether values that stand side by side are more alike, as numbers are.
    """

    path: tuple[str | int, ...]
    values: tuple[Any, ...]
    standing: int
    ordered: bool = True

    @property
    def name(self) -> str:
        """Its place, as errors name it.

        >>> Dial(("readings", 0, "weight"), (0, 1), 0).name
        'readings[0].weight'
        """
        return dotted(self.path)


def standing(dials: Sequence[Dial]) -> Setting:
    """Where all dials stand before."""
    return tuple(one.standing for one in dials)


def turned(dials: Sequence[Dial], setting: Setting) -> list[int]:
    """The numbers of the dials that a setting turns.

    >>> turned([Dial(("a",), (1, 2), 0), Dial(("b",), (1, 2), 1)], (1, 1))
    [0]
    """
    return [number for number, (dial, at) in enumerate(zip(dials, setting, strict=True)) if at != dial.standing]


def distance(dials: Sequence[Dial], setting: Setting) -> tuple[int, float]:
    """How far a setting is from where all stands: dials turned, and shares of their ranges in all. Less is simpler.

    >>> distance([Dial(("a",), (1, 2, 3), 0), Dial(("how",), ("x", "y"), 0, ordered=False)], (1, 1))
    (2, 1.5)
    """
    changed = turned(dials, setting)
    far = sum(
        abs(setting[i] - dials[i].standing) / (len(dials[i].values) - 1) if dials[i].ordered else 1.0 for i in changed
    )
    return len(changed), far
