"""Help where nothing is found: which words of a query stand in the way, and what is found without them."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.query.words import word_stretches
from pale_harbor.work.running.hurry import Hurry

# Of a longer query nobody is told by the word.
_MOST_WORDS: Final = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Nearly:
    """query: what is left of the words; dropped: those that were left out, in their order; without_filters: whether the
    filters were left out instead; found: how many records that finds."""

    query: str
    dropped: list[str]
    without_filters: bool
    found: int


def nearly_found(
    query: str,
    finds: Callable[[str], int],
    finds_unfiltered: Callable[[str], int] | None,
    hurry: Hurry,
) -> Nearly | None:
    """What nearly fits a query that finds nothing: without the filters that were chosen if that is all that it takes,
    else without the words that stand in the way: first those that no record holds, then, one by one, the rarest.

    finds: how many records a query finds; finds_unfiltered: without the filters that were chosen, None where there are
    none. None where nothing helps, or where there is no time to find out.
    """
    if finds_unfiltered is not None and hurry.has_time_for("nearly"):
        found = finds_unfiltered(query)
        if found:
            return Nearly(query=query, dropped=[], without_filters=True, found=found)
    words = [query[start:end] for start, end in word_stretches(query)]
    if not 2 <= len(words) <= _MOST_WORDS:
        return None
    held: list[int] = []
    for word in words:
        if not hurry.has_time_for("nearly"):
            return None
        held.append(finds(word))
    kept = [place for place, count in enumerate(held) if count]
    while kept:
        left = " ".join(words[place] for place in kept)
        if not hurry.has_time_for("nearly"):
            return None
        found = finds(left) if len(kept) < len(words) else 0
        if found:
            dropped = [word for place, word in enumerate(words) if place not in kept]
            return Nearly(query=left, dropped=dropped, without_filters=False, found=found)
        # Of those that are held by as many, the later one goes.
        kept.remove(min(kept, key=lambda place: (held[place], -place)))
    return None
