"""Rules: what is done for certain queries. Editorial ones place records; others change how a query is read.

A rule begins with what it looks for in the query, and ends with what it does: pin, lift or hide records;
turn the part it found into a filter or look for it in one field only; weigh readings differently.
"""

from collections.abc import Sequence
from dataclasses import KW_ONLY, dataclass, replace
from functools import lru_cache
from typing import Annotated, Final

from pale_harbor.core.fields import Filter, OneOf, Within
from pale_harbor.core.knobs import Knob, Names
from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.stretch import Stretch
from pale_harbor.core.text.errors import StoppedPattern
from pale_harbor.core.text.patterns import SafePattern
from pale_harbor.core.text.word_lists import WordSet


def _keys(words: str, says: str) -> Knob:
    return Knob(words, says, longest=500, items=(1, 100), names=Names.RECORD)


def _field(words: str, says: str) -> Knob:
    return Knob(words, says, longest=200, names=Names.FIELD)


_BY: Final = Knob("by", "what is multiplied with", least=0, most=1_000)


@dataclass(frozen=True, slots=True)
class Saying:
    """Queries that say exactly this, whatever the case and the spaces."""

    query: Annotated[str, Knob("query", "a whole query, whatever its case and spaces", longest=1_000)]


@dataclass(frozen=True, slots=True)
class ListedWords:
    """The words of a word list, and what the list is called."""

    name: str
    words: WordSet


@dataclass(frozen=True, slots=True)
class Holding:
    """Queries that hold a word, or words in a row, of a list."""

    list: Annotated[ListedWords, Knob("list", "a word list, `@name`: queries that hold a word of it")]


@dataclass(frozen=True, slots=True)
class Matching:
    """Queries in which a regular expression finds something."""

    pattern: Annotated[SafePattern, Knob("pattern", "a regular expression, stopped after a second", longest=1_000)]


@dataclass(frozen=True, slots=True)
class Always:
    """Every query."""


Condition = Saying | Holding | Matching | Always


@dataclass(frozen=True, slots=True)
class Pin:
    """These records come first, in this order, whether they match or not."""

    pin: Annotated[
        tuple[str, ...],
        _keys(
            "pin",
            "these records come first, in this order, whether they match or not; the visitor's filters hold for them",
        ),
    ]


@dataclass(frozen=True, slots=True)
class Lift:
    """These records' scores are multiplied; below 1 they sink."""

    lift: Annotated[tuple[str, ...], _keys("lift", "their scores are multiplied; below 1 they sink")]
    by: Annotated[float, _BY]


@dataclass(frozen=True, slots=True)
class Hide:
    """These records are left out."""

    hide: Annotated[tuple[str, ...], _keys("hide", "they are left out")]


@dataclass(frozen=True, slots=True)
class FilterBy:
    """What was found leaves the query and becomes a filter on a field."""

    filter: Annotated[
        str,
        _field("filter", "what was found leaves the query and becomes a filter on this field: that value in any case"),
    ]
    spread: Annotated[
        float | None,
        Knob("spread", "with `filter`, how far a number found may be off either way", least=0, most=1e12),
    ] = None


@dataclass(frozen=True, slots=True)
class LookIn:
    """What was found is looked for in this field only."""

    look_in: Annotated[
        str,
        _field("look in", "what was found leaves the query and is looked for in this field only, exactly"),
    ]


@dataclass(frozen=True, slots=True)
class Weigh:
    """The weights of a field's readings are multiplied."""

    weigh: Annotated[
        str,
        _field("weigh", "the weights of this field's readings are multiplied"),
    ]
    by: Annotated[float, _BY]


Action = Pin | Lift | Hide | FilterBy | LookIn | Weigh


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """What is done for which queries, why, and until which day (counted from 1970-01-01, that day included)."""

    when: Annotated[Condition, Knob("when", "which queries it is for; left out, every query")]
    do: Annotated[Action, Knob("do", "what it does")]
    _: KW_ONLY
    reason: Annotated[str, Knob("reason", "why", longest=1_000, empty=True)] = ""
    until: Annotated[float | None, Knob("until", "its last day (UTC)", names=Names.LAST_DAY)] = None
    on: Annotated[bool, Knob("on", "whether it is switched on")] = True


@dataclass(frozen=True, slots=True, kw_only=True)
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


def apply_rules(text: str, rules: Sequence[Rule]) -> RuledQuery:
    """What rules make of a query, in their order. A visitor's query is never refused for a rule."""
    query = RuledQuery(text=text)
    for number, rule in enumerate(rules):
        if not rule.on:
            continue
        try:
            found = _find(rule.when, query.text)
        except StoppedPattern:
            query = replace(query, slow=(*query.slow, number))
            continue
        if found is not None:
            query = replace(_do(query, rule.do, found), applied=(*query.applied, number))
    return query


def _find(condition: Condition, text: str) -> Stretch | None:
    """The stretch of the query that a rule looks for, None where it is not there."""
    match condition:
        case Always():
            return (0, len(text))
        case Saying(query):
            return (0, len(text)) if _plain(text) == _plain(query) else None
        case Matching(pattern):
            found = pattern.first(text)
            return None if found is None else found.span()
        case Holding(listed):
            return _find_listed(text, listed.words)


def _plain(text: str) -> str:
    return " ".join(text.casefold().split())


_LONGEST_ENTRY: Final = 6


@lru_cache(maxsize=64)
def _plain_entries(words: WordSet) -> frozenset[str]:
    """A list's entries whatever their case: found once, a list may be long."""
    return frozenset(_plain(entry) for entry in words.words)


def _find_listed(text: str, words: WordSet) -> Stretch | None:
    """The first and longest run of words that a list holds."""
    stretches = word_stretches(text)
    entries = _plain_entries(words)
    for first in range(len(stretches)):
        for last in range(min(len(stretches), first + _LONGEST_ENTRY), first, -1):
            start, end = stretches[first][0], stretches[last - 1][1]
            if _plain(text[start:end]) in entries:
                return start, end
    return None


def _do(query: RuledQuery, action: Action, found: Stretch) -> RuledQuery:
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
