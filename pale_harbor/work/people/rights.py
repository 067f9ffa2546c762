"""What a role may do: the words in which routes say what they need, and who has it."""

from collections.abc import Mapping
from enum import StrEnum
from typing import Final, Literal, get_args

Role = Literal["judge", "reader", "engineer", "owner"]
ROLES: Final[tuple[Role, ...]] = get_args(Role)


class Right(StrEnum):
    """What a route needs.

    ANYBODY: nothing, not even a sign-in. SIGNED_IN: to be somebody. Of the collection that the route is about: LOOK
    reads and measures what is open; CHANGE changes what it holds; OWN opens what is locked, and says who its members
    are. BRING: to be able to change some collection, or to make one. MAKE: to be allowed to make one. KEEP: to keep
    the installation.
    """

    ANYBODY = "anybody"
    SIGNED_IN = "signed in"
    LOOK = "look"
    CHANGE = "change"
    OWN = "own"
    BRING = "bring"
    MAKE = "make"
    KEEP = "keep"


# A judge has tasks, which are reached by them alone.
RIGHTS_OF: Final[Mapping[Role, frozenset[Right]]] = {
    "judge": frozenset(),
    "reader": frozenset({Right.LOOK}),
    "engineer": frozenset({Right.LOOK, Right.CHANGE}),
    "owner": frozenset({Right.LOOK, Right.CHANGE, Right.OWN}),
}


def least_role(right: Right) -> Role | None:
    """The role with the fewest rights that has this one, None where no role of a collection has it.

    >>> least_role(Right.CHANGE)
    'engineer'
    """
    return next((role for role in ROLES if right in RIGHTS_OF[role]), None)
