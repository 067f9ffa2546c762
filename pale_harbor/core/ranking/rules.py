"""Rules: what is done for certain queries. Editorial ones place records; others change how a query is read.

A rule begins with what it looks for in the query, and ends with what it does: pin, lift or hide records;
turn the part it found into a filter or look for it in one field only; weigh readings differently.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from pale_harbor.core.fields import Filter, OneOf, Within
from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.text.errors import SlowPattern
from pale_harbor.core.text.patterns import SafePattern
from pale_harbor.core.text.word_lists import WordSet

Stretch = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Asked:
    """Queries that say exactly this, whatever the case and the spaces."""

    query: str


@dataclass(frozen=True, slots=True)
class Holding:
    """Queries that hold a word, or words in a row, of a list."""

    name: str
    words: WordSet


@dataclass(frozen=True, slots=True)
class Matching:
    """Queries in which a regular expression finds something."""

    pattern: SafePattern


@dataclass(frozen=True, slots=True)
class Always:
    """Every query."""


Condition = Asked | Holding | Matching | Always


@dataclass(frozen=True, slots=True)
class Pin:
    """These records come first, in this order, whether they match or not."""

    keys: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Lift:
    """These records' scores are multiplied; below 1 they sink."""

    keys: tuple[str, ...]
    by: float


@dataclass(frozen=True, slots=True)
class Hide:
    """These records are left out."""

    keys: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class FilterBy:
    """What was found leaves the query and becomes a filter on a field.

    spread: how far a number found may be off either way, None for exactly it.
    """

    field: str
    spread: float | None = None


@dataclass(frozen=True, slots=True)
class LookIn:
    """What was found is looked for in this field only."""

    field: str


@dataclass(frozen=True, slots=True)
class Weigh:
    """The weights of a field's readings are multiplied."""

    field: str
    by: float


Action = Pin | Lift | Hide | FilterBy | LookIn | Weigh


@dataclass(frozen=True, slots=True)
class Rule:
    """What is done for which queries, why, and until which day (counted from 1970-01-01, that day included)."""

    condition: Condition
    action: Action
    reason: str = ""
    until: float | None = None
    on: bool = True


@dataclass(frozen=True, slots=True)
class RuledQuery:
    """A query after the rules. applied: the numbers of the rules that did something; slow: of those whose pattern
    took too long.

    weights: by field, what its readings' weights are multiplied with; lifts: by key, likewise. looked_for:
    field and words that are looked for in it only.
    """

    text: str
    applied: tuple[int, ...] = ()
    slow: tuple[int, ...] = ()
    filters: tuple[Filter, ...] = ()
    looked_for: tuple[tuple[str, str], ...] = ()
    pinned: tuple[str, ...] = ()
    hidden: frozenset[str] = frozenset()
    lifts: tuple[tuple[str, float], ...] = ()
    weights: tuple[tuple[str, float], ...] = ()


def in_force(rules: Sequence[Rule], today: float) -> tuple[Rule, ...]:
    """The same rules, those that ended before today switched off."""
    return tuple(replace(rule, on=rule.on and (rule.until is None or today <= rule.until)) for rule in rules)


def ruled(text: str, rules: Sequence[Rule]) -> RuledQuery:
    """What rules make of a query, in their order. A visitor's query is never refused for a rule."""
    query = RuledQuery(text)
    for number, rule in enumerate(rules):
        if not rule.on:
            continue
        try:
            found = _found(rule.condition, query.text)
        except SlowPattern:
            query = replace(query, slow=(*query.slow, number))
            continue
        if found is not None:
            query = replace(_done(query, rule.action, found), applied=(*query.applied, number))
    return query


def _found(condition: Condition, text: str) -> Stretch | None:
    """The stretch of the query that a rule looks for, None where it is not there."""
    match condition:
        case Always():
            return (0, len(text))
        case Asked(query):
            return (0, len(text)) if _plain(text) == _plain(query) else None
        case Matching(pattern):
            return next((found.span() for found in pattern.matches(text) if found.start() < found.end()), None)
        case Holding(_, words):
            return _listed(text, words)


def _plain(text: str) -> str:
    return " ".join(text.casefold().split())


_LONGEST_ENTRY: Final = 6


@lru_cache(maxsize=64)
def _folded(words: WordSet) -> frozenset[str]:
    """A list's entries whatever their case: found once, a list may be long."""
    return frozenset(_plain(entry) for entry in words.words)


def _listed(text: str, words: WordSet) -> Stretch | None:
    """The first and longest run of words that a list holds."""
    stretches = word_stretches(text)
    entries = _folded(words)
    for first in range(len(stretches)):
        for last in range(min(len(stretches), first + _LONGEST_ENTRY), first, -1):
            start, end = stretches[first][0], stretches[last - 1][1]
            if _plain(text[start:end]) in entries:
                return start, end
    return None


def _done(query: RuledQuery, action: Action, found: Stretch) -> RuledQuery:
    start, end = found
    piece = query.text[start:end].strip().strip('"')
    match action:
        case Pin(keys):
            return replace(query, pinned=tuple(dict.fromkeys((*query.pinned, *keys))))
        case Lift(keys, by):
            return replace(query, lifts=(*query.lifts, *((key, by) for key in keys)))
        case Hide(keys):
            return replace(query, hidden=query.hidden | set(keys))
        case Weigh(field, by):
            return replace(query, weights=(*query.weights, (field, by)))
        case LookIn(field):
            return replace(query, text=_without(query.text, found), looked_for=(*query.looked_for, (field, piece)))
        case FilterBy(field, spread):
            narrowed = (*query.filters, _filter(field, spread, piece))
            return replace(query, text=_without(query.text, found), filters=narrowed)


def _without(text: str, found: Stretch) -> str:
    return " ".join((text[: found[0]] + " " + text[found[1] :]).split())


def _filter(field: str, spread: float | None, piece: str) -> Filter:
    """Exactly what was typed, in any case; a number with a spread as a range."""
    try:
        number = float(piece) if spread is not None else None
    except ValueError:
        number = None
    if spread is None or number is None:
        return OneOf(field, (piece,), any_case=True)
    return Within(field, repr(number - spread), repr(number + spread))
