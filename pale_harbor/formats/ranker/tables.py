"""The knobs of a ranker in tables: for docs/ranking.md, and for the page."""

import re
from collections.abc import Mapping
from enum import Enum
from typing import Any, Final

from pale_harbor.core.blend import Blend, SecondStage, SpaceUse
from pale_harbor.core.knobs import Declared, declared_knobs, is_part
from pale_harbor.core.ranking import Combine, Nearness, Ranker, Reading, Signal, Spelling, Typing
from pale_harbor.core.ranking.feedback import Feedback
from pale_harbor.core.ranking.rules import Rule
from pale_harbor.core.typing.correcting import Corrections
from pale_harbor.core.typing.recipe import Completions, FieldPhrases, FieldValues, PastQueries
from pale_harbor.formats.ranker.models import unwritten
from pale_harbor.formats.ranker.unions import ACTION, CONDITION, OneOfParts, union_of

PARTS: Final = (
    Ranker,
    Reading,
    Nearness,
    Combine,
    Spelling,
    Typing,
    Completions,
    Corrections,
    FieldValues,
    FieldPhrases,
    PastQueries,
    Feedback,
    Signal,
    Rule,
    SpaceUse,
    Blend,
    SecondStage,
)
UNIONS: Final = (CONDITION, ACTION)


def markdown_of(part: type | OneOfParts) -> str:
    """A part's knobs as a table of Markdown: key, what it is, what it is where it is left out."""
    if isinstance(part, OneOfParts):
        lines = [
            f"| {', '.join(f'`{name}`' for name in declared_knobs(kind)) or 'nothing'} | {_says(kind)} |"
            for kind in part.kinds
        ]
        return "\n".join(["| key | what it is |", "|---|---|", *lines])
    rows = [f"| `{one.name}` | {_range(one)} | {_left_out(one)} |" for one in declared_knobs(part).values()]
    return "\n".join(["| key | what it is | where it is left out |", "|---|---|---|", *rows])


def _says(kind: type) -> str:
    own = list(declared_knobs(kind).values())
    return "; ".join(one.knob.says for one in own) if own else "every query"


def _range(one: Declared) -> str:
    knob = one.knob
    if knob.choices is not None:
        return f"{knob.says}: {', '.join(f'`{name}`' for name in knob.choices)}"
    # Far bounds are there against slips; only those that mean something are told.
    if knob.most is None or abs(knob.most) > 1_000 or knob.none is not None:
        return knob.says
    low = f"above {knob.above:g}" if knob.above is not None else f"{knob.least:g}"
    unit = f" {knob.unit}" if knob.unit else ""
    return f"{knob.says} ({low} to {knob.most:g}{unit})"


def _left_out(one: Declared) -> str:
    if one.knob.like is not None:
        return f"the {one.knob.like.replace('_', ' ')} beside it"
    if one.required and union_of(one.kinds) is not CONDITION:
        return "must stand"
    if one.many or is_part(one.kinds[0]) or union_of(one.kinds) is not None:
        return "none" if one.many or one.optional else "as its own keys say"
    value = unwritten(one)
    if value is None:
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"`{value}`" if isinstance(value, str) and value else f"{_plain(value)}" if value != "" else "none"


def _plain(value: Any) -> str:
    return f"[{', '.join(map(_plain, value))}]" if isinstance(value, tuple) else f"{value:g}"


def page_knobs() -> dict[str, dict[str, dict[str, Any]]]:
    """By part and name, what the page needs to show a knob and to know what it may be turned to."""
    return {part.__name__: {one.name: _for_page(one) for one in declared_knobs(part).values()} for part in PARTS}


def _for_page(one: Declared) -> dict[str, Any]:
    knob = one.knob
    least = knob.least if knob.above is None else knob.above + (knob.step or 1e-6)
    told: Mapping[str, Any] = {
        "kind": _kind(one),
        "words": knob.words,
        "says": _without_marks(knob.says),
        "least": least,
        "most": knob.most,
        "step": knob.step,
        "reach": knob.reach,
        "unit": knob.unit or None,
        "choices": None if knob.choices is None else [list(pair) for pair in knob.choices.items()],
        "begins": knob.begins,
        "where": None if knob.where is None else {"name": knob.where.name, "says": list(knob.where.says)},
        "start": None if one.required or one.many or is_part(one.kinds[0]) else unwritten(one),
    }
    return {key: value for key, value in told.items() if value is not None}


def _without_marks(says: str) -> str:
    """As the page shows it: links and code of Markdown by their words alone.

    >>> _without_marks("[a score](vectors.md#formulas), with `strongest`")
    'a score, with strongest'
    """
    return re.sub(r"\[([^\]]*)\]\([^)]*\)", r"\1", says).replace("`", "")


def _kind(one: Declared) -> str:
    (kind, *others) = one.kinds
    if one.many or others or one.knob.names is not None or one.knob.like is not None:
        return "own"
    if isinstance(kind, type) and issubclass(kind, Enum):
        return "choice"
    if kind is bool:
        return "switch"
    if kind in (int, float) and one.knob.none is None:
        return ("maybe " if one.optional else "") + ("whole" if kind is int else "number")
    return "own"
