"""Which records moved in one query's list: those that came into its beginning, those that went, and how far."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

# Told of a query, of those that came and of those that went.
MOST_MOVED: Final = 10


@dataclass(frozen=True, slots=True)
class Moved:
    """A record that came or went. before, after: its ranks, None where it is in no list; grade: None where unjudged."""

    key: str
    grade: int | None
    before: int | None
    after: int | None


@dataclass(frozen=True, slots=True)
class ListMoved:
    """What moved in the first `depth` of a list. came, went: the best grades first, unjudged ones last; of equal
    grades by rank. reordered: judged records that stayed, at another rank, the farthest moved first."""

    depth: int
    came: tuple[Moved, ...]
    went: tuple[Moved, ...]
    reordered: tuple[Moved, ...]


def list_moved(before: Sequence[str], after: Sequence[str], grades: Mapping[str, int], depth: int) -> ListMoved:
    """What moved between two lists of one query, keys best first.

    >>> moved = list_moved(["a", "b"], ["b", "c"], {"c": 3}, 1)
    >>> [one.key for one in moved.came], [(one.key, one.before, one.after) for one in moved.went]
    (['b'], [('a', 1, None)])
    """
    was = {key: rank for rank, key in enumerate(before, start=1)}
    now = {key: rank for rank, key in enumerate(after, start=1)}

    def moved(key: str) -> Moved:
        return Moved(key, grades.get(key), was.get(key), now.get(key))

    def worth(one: Moved, rank: int | None) -> tuple[int, int]:
        return (-1 if one.grade is None else one.grade) * -1, rank or 0

    first, second = before[:depth], after[:depth]
    came = [moved(key) for key in second if was.get(key, depth + 1) > depth]
    went = [moved(key) for key in first if now.get(key, depth + 1) > depth]
    stayed = [moved(key) for key in second if was.get(key, depth + 1) <= depth and was[key] != now[key]]
    stayed = [one for one in stayed if one.grade is not None]
    return ListMoved(
        depth=depth,
        came=tuple(sorted(came, key=lambda one: worth(one, one.after))[:MOST_MOVED]),
        went=tuple(sorted(went, key=lambda one: worth(one, one.before))[:MOST_MOVED]),
        reordered=tuple(
            sorted(stayed, key=lambda one: (-abs((one.before or 0) - (one.after or 0)), one.after or 0))[:MOST_MOVED]
        ),
    )
