"""What visitors typed next, where the first words found them nothing that they wanted: from sessions to suggestions.

A rewriting is a query that was given up, followed within a while by another one of the same session that was not. What
became of its words says what it is a suggestion for: one letter more or less is a slip, one word for another may mean
the same, more words narrow, fewer widen (the kinds that J. Huang and E. Efthimiadis tell apart in "Analyzing and
evaluating query reformulation strategies in web search logs", 2009, of which only these are told here).
"""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Final

from pale_harbor.core.index.near_terms import edit_distance

# Who goes on later has something else in mind.
WITHIN_S: Final = 300.0
# So many letters may differ where it is a slip, and no more than a third of the longer query.
_MOST_EDITS: Final = 2


class Rewritten(StrEnum):
    """What became of a query's words."""

    SLIP = "a slip mended"
    WORD = "one word for another"
    MORE = "more words"
    FEWER = "fewer words"
    OTHER = "other words"


@dataclass(frozen=True, slots=True)
class Asked:
    """A query of a session. at_s: when, in seconds from any moment; well: whether something of it was clicked."""

    query: str
    at_s: float
    well: bool


@dataclass(frozen=True, slots=True)
class Rewriting:
    """sessions: in how many it was done. before, after: the words that took each other's place, of a slip and of one
    word for another; empty otherwise."""

    first: str
    then: str
    kind: Rewritten
    sessions: int
    before: str = ""
    after: str = ""


def rewritings(sessions: Iterable[Sequence[Asked]], within_s: float = WITHIN_S) -> list[Rewriting]:
    """What was rewritten, most often first; of each session once. Each session in the order of time.

    >>> (found,) = rewritings([[Asked("harpon", 0, False), Asked("harpoon", 9, True)]])
    >>> found.first, found.then, str(found.kind), found.sessions
    ('harpon', 'harpoon', 'a slip mended', 1)
    """
    counts: Counter[tuple[str, str]] = Counter()
    for session in sessions:
        pairs = pairwise(session)
        counts.update(
            {
                (_plain(first.query), _plain(then.query))
                for first, then in pairs
                if not first.well
                and then.well
                and then.at_s - first.at_s <= within_s
                and _plain(first.query) != _plain(then.query)
            }
        )
    found = [_rewriting(first, then, count) for (first, then), count in counts.items()]
    return sorted(found, key=lambda one: (-one.sessions, one.first, one.then))


def _plain(query: str) -> str:
    return " ".join(query.casefold().split())


def _rewriting(first: str, then: str, sessions: int) -> Rewriting:
    before, after = first.split(), then.split()
    # Letter by letter: a space that is missing is a slip, too.
    is_near = abs(len(first) - len(then)) <= _MOST_EDITS
    edits = edit_distance(first, then) if is_near else _MOST_EDITS + 1
    if edits <= _MOST_EDITS and 3 * edits <= max(len(first), len(then)):
        swapped = _swapped(before, after) or (first, then)
        return Rewriting(first, then, Rewritten.SLIP, sessions, *swapped)
    swapped = _swapped(before, after)
    if swapped is not None:
        return Rewriting(first, then, Rewritten.WORD, sessions, *swapped)
    kept, missing = Counter(before), Counter(after)
    if not kept - missing:
        return Rewriting(first, then, Rewritten.MORE, sessions)
    if not missing - kept:
        return Rewriting(first, then, Rewritten.FEWER, sessions)
    return Rewriting(first, then, Rewritten.OTHER, sessions)


def _swapped(before: list[str], after: list[str]) -> tuple[str, str] | None:
    """The one word that another one took the place of, None where it is not so."""
    gone, come = Counter(before) - Counter(after), Counter(after) - Counter(before)
    if len(before) == len(after) and gone.total() == come.total() == 1:
        return next(iter(gone)), next(iter(come))
    return None
