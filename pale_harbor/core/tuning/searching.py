"""Ways to search through settings. Each is a generator: it gives settings to be tried and hears how good they are.

What breaks a rail is heard as `UNFIT`. All of them are deterministic: the same seed and values give the same settings,
so that a search that was cut off is run again over what it had found out.
"""

from collections.abc import Callable, Generator, Sequence
from enum import StrEnum
from itertools import product
from math import prod
from typing import Final

import numpy as np

from pale_harbor.core.tuning.dials import Dial, Setting, distance, standing
from pale_harbor.errors import BadInput

UNFIT: Final = float("-inf")
# So many settings are asked for at once by who could ask for any number.
BATCH: Final = 16


class OutOfTime(Exception):
    """Raised by who measures, where there is no time for all that was asked: what is known so far has to do."""


Searching = Generator[list[Setting], list[float], None]


class Way(StrEnum):
    """How settings are searched."""

    COORDINATE = "coordinate"
    SURROGATE = "surrogate"
    RANDOM = "random"
    GRID = "grid"


def grid(dials: Sequence[Dial], most: int) -> Searching:
    """Every setting. Raises BadInput where there are too many.

    >>> next(grid([Dial(("a",), (1, 2), 0), Dial(("b",), (1, 2), 0)], 4))
    [(0, 0), (0, 1), (1, 0), (1, 1)]
    """
    count = prod(len(one.values) for one in dials)
    if count > most:
        raise BadInput(
            f"A grid of these knobs has {count:,} settings, and at most {most:,} may be tried. Take fewer knobs or "
            "values, or another way to search."
        )
    return _in_batches([tuple(one) for one in product(*(range(len(dial.values)) for dial in dials))])


def random_search(dials: Sequence[Dial], most: int, seed: int) -> Searching:
    """Settings drawn by chance, none twice, after the one that stands.

    Source: J. Bergstra and Y. Bengio, "Random Search for Hyper-Parameter Optimization", 2012.
    """
    rng = np.random.default_rng(seed)
    found = {standing(dials): None}
    wanted = min(most, prod(len(one.values) for one in dials))
    while len(found) < wanted:
        found[tuple(int(rng.integers(len(one.values))) for one in dials)] = None
    return _in_batches(list(found))


def _in_batches(settings: list[Setting]) -> Searching:
    for start in range(0, len(settings), BATCH):
        yield settings[start : start + BATCH]


def coordinate_ascent(dials: Sequence[Dial], most: int) -> Searching:
    """One dial at a time is tried at all its values, and left at the best, until a whole round moves none.

    It leaves a dial where it stands unless another value is better; of equal ones the nearest to where it stood before
    all. Source: D. Metzler and W. B. Croft, "Linear Feature-Based Models for Information Retrieval", 2007.
    """
    here = standing(dials)
    known: dict[Setting, float] = {}
    asked = 0
    moved = True
    while moved:
        moved = False
        for number, dial in enumerate(dials):
            line = [(*here[:number], at, *here[number + 1 :]) for at in range(len(dial.values))]
            unknown = [one for one in line if one not in known][: most - asked]
            if unknown:
                asked += len(unknown)
                known.update(zip(unknown, (yield unknown), strict=True))
            best = max((one for one in line if one in known), key=_worth(dials, known), default=here)
            if known.get(best, UNFIT) > known.get(here, UNFIT):
                here, moved = best, True
            if asked >= most:
                return


def _worth(dials: Sequence[Dial], known: dict[Setting, float]) -> Callable[[Setting], tuple[float, int, float]]:
    def worth(setting: Setting) -> tuple[float, int, float]:
        count, far = distance(dials, setting)
        return known[setting], -count, -far

    return worth
