"""Which way to search: each by its name."""

from collections.abc import Sequence

from pale_harbor.core.tuning.dials import Dial
from pale_harbor.core.tuning.searching import Searching, Way, coordinate_ascent, grid, random_search


def searching(way: Way, dials: Sequence[Dial], most: int, seed: int) -> Searching:
    """A search of one way. most: settings that it may try. Raises BadInput for a grid of more than that."""
    match way:
        case Way.COORDINATE:
            return coordinate_ascent(dials, most)
        case Way.SURROGATE:
            # A package that takes its time to be loaded, and that most never ask for.
            from pale_harbor.core.tuning.surrogate import surrogate_search  # noqa: PLC0415

            return surrogate_search(dials, most, seed)
        case Way.RANDOM:
            return random_search(dials, most, seed)
        case Way.GRID:
            return grid(dials, most)
