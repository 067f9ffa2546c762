"""Puts other words beside words, so that phrases stay right whichever of them is read.

Positions and spans make a graph: from a token one goes on to those that begin where it ends. Words
of another number than those they stand beside get positions of their own, put in before the end
of what they stand beside; everything that reaches to that end is stretched to the new one.
"""

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Beside:
    """Words to stand beside the tokens of a path.

    path: indices of tokens, each beginning where the one before it ends; ways: other sequences of
    tokens, whose positions and spans are still to be found; dropped: whether the path itself goes.
    """

    path: tuple[int, ...]
    ways: tuple[tuple[Token, ...], ...]
    dropped: bool = False


def taken_apart(
    tokens: Sequence[Token], stretches: Callable[[Token], Sequence[tuple[int, int]]], *, keep: bool
) -> list[Made]:
    """The tokens, those of several parts replaced by their parts; with `keep` the parts stand beside the whole.

    stretches: of a token's text, one for each part; fewer than two leave the token as it is.
    """
    found: list[Beside] = []
    for number, token in enumerate(tokens):
        own = stretches(token)
        if len(own) > 1:
            found.append(Beside((number,), (tuple(token.part(first, last) for first, last in own),), not keep))
    return with_alternatives(tokens, found)


def with_alternatives(tokens: Sequence[Token], found: Sequence[Beside]) -> list[Made]:
    """The tokens with other ways beside them, in order of position, each with where it came from.

    found: in order of position; none begins before the one before it ends.
    """
    ends: list[int] = []
    shifts = [0]

    def moved(position: int) -> int:
        """Where a position goes: behind whatever was put in before it."""
        return position + shifts[bisect_right(ends, position)]

    made: list[Made] = []
    gone: set[int] = set()
    for beside in found:
        first, last = tokens[beside.path[0]], tokens[beside.path[-1]]
        start, end = moved(first.position), moved(last.position + last.span)
        ways = [way for way in beside.ways if way]
        # A way of its own needs a position between each two of its words. A dropped path leaves its own.
        free = range(start + 1, end) if beside.dropped else range(0)
        extra = max(0, sum(len(way) - 1 for way in ways) - len(free))
        inner = iter([*free, *range(end, end + extra)])
        for way in ways:
            places = [start, *(next(inner) for _ in way[1:]), end + extra]
            for word, (place, following) in zip(way, pairwise(places), strict=True):
                made.append((replace(word, position=place, span=following - place), beside.path[0]))
        if beside.dropped:
            gone.update(beside.path)
        ends.append(last.position + last.span)
        shifts.append(shifts[-1] + extra)
    stayed: list[Made] = []
    for number, token in enumerate(tokens):
        if number not in gone:
            position, end = moved(token.position), moved(token.position + token.span)
            same = position == token.position and end - position == token.span
            stayed.append((token if same else replace(token, position=position, span=end - position), number))
    return sorted([*stayed, *made], key=lambda one: one[0].position)
