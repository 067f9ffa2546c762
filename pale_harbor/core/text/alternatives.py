"""Puts other words beside words, so that phrases stay right whichever of them is read.

Positions and spans make a graph: from a token one goes on to those that begin where it ends. Words
of another number than those they stand beside get positions of their own, put in before the end
of what they stand beside; everything that reaches to that end is stretched to the new one.
"""

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import accumulate, pairwise

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
    """The tokens with other ways beside them, in order of position, each with where it came from."""
    # A way needs a position of its own between each two of its words. A dropped path leaves those between
    # its own words; more are put in at its end.
    free = [[tokens[step].position for step in beside.path[1:]] if beside.dropped else [] for beside in found]
    extra = [
        max(0, sum(len(way) - 1 for way in beside.ways if way) - len(own))
        for beside, own in zip(found, free, strict=True)
    ]
    ends = [tokens[beside.path[-1]].position + tokens[beside.path[-1]].span for beside in found]
    by_end = sorted(range(len(found)), key=ends.__getitem__)
    sorted_ends = [ends[one] for one in by_end]
    shifts = [0, *accumulate(extra[one] for one in by_end)]

    def moved(position: int) -> int:
        """Where a position goes: behind whatever was put in before it."""
        return position + shifts[bisect_right(sorted_ends, position)]

    made: list[Made] = []
    gone: set[int] = set()
    for place, one in enumerate(by_end):
        beside = found[one]
        start, end = moved(tokens[beside.path[0]].position), moved(ends[one])
        first_new = ends[one] + shifts[place]
        inner = iter([*map(moved, free[one]), *range(first_new, first_new + extra[one])])
        for way in filter(None, beside.ways):
            places = [start, *(next(inner) for _ in way[1:]), end]
            for word, (position, following) in zip(way, pairwise(places), strict=True):
                made.append((word._replace(position=position, span=following - position), beside.path[0]))
        if beside.dropped:
            gone.update(beside.path)
    stayed: list[Made] = []
    for number, token in enumerate(tokens):
        if number not in gone:
            position, end = moved(token.position), moved(token.position + token.span)
            same = position == token.position and end - position == token.span
            stayed.append((token if same else token._replace(position=position, span=end - position), number))
    # What stands at one position keeps the order of what it came from, the token itself before its ways.
    in_order = sorted(enumerate([*stayed, *made]), key=lambda each: (each[1][0].position, each[0]))
    return [one for _, one in in_order]
