"""Changes that may bring good records above worse ones, by the part of the ranker that puts those first."""

from collections.abc import Iterator
from copy import deepcopy
from typing import Any, Final

from pale_harbor.core.ranking import CombineHow
from pale_harbor.formats.ranker.differences import reading_names
from pale_harbor.work.ranking.changes import Change
from pale_harbor.work.workbench import ChosenRanker

_SAID: Final = {"sum": "readings summed", "strongest": "the strongest reading alone", "pooled": "readings pooled"}
_LIGHT, _HEAVY = 0.5, 2.0
_B: Final = (0.3, 0.9)
_B_STEP: Final = 0.15
_MEANING: Final = 0.2
_NEAR: Final = {"weight": 1.0, "gap": 0, "same_order": True}


def changes_for_outranked(chosen: ChosenRanker, part: str) -> Iterator[Change]:
    """What may be tried, none of it with an index of its own. part: as `sources_of` names it."""
    whole = chosen.document.whole
    readings = whole["readings"]
    names = reading_names(readings)
    asked = [number for number, one in enumerate(readings) if one["weight"] > 0]
    heavy = [number for number in asked if readings[number]["field"] == part]
    for number in heavy:
        if len(asked) > 1:
            yield _weight(whole, number, names[number], _LIGHT)
        for b in _B:
            if round(abs(readings[number]["b"] - b), 6) > _B_STEP:
                document = deepcopy(whole)
                document["readings"][number]["b"] = b
                yield f"{names[number]} b {readings[number]['b']:g} to {b:g}", document, False
        if readings[number]["nearness"] is None:
            document = deepcopy(whole)
            document["readings"][number]["nearness"] = dict(_NEAR)
            yield f"extra for words near each other in {names[number]}", document, False
    for number in asked:
        if number not in heavy and len(asked) > 1:
            yield _weight(whole, number, names[number], _HEAVY)
    for number, signal in enumerate(whole["signals"]):
        if part == f"signal {signal['field']}, {signal['shape']}":
            before, after = signal["weight"], signal["weight"] * _LIGHT
            document = deepcopy(whole)
            document["signals"][number]["weight"] = after
            yield f"signal {signal['field']} weight {before:g} to {after:g}", document, False
    yield from _by_meaning(whole, part)
    for how in CombineHow:
        if len(asked) > 1 and how.value != whole["combine"]["how"]:
            document = deepcopy(whole)
            document["combine"]["how"] = how.value
            yield _SAID[how.value], document, False
    if whole["feedback"] is None:
        document = deepcopy(whole)
        document["feedback"] = {}
        yield "words of the first records fed back", document, False


def _weight(whole: dict[str, Any], number: int, name: str, times: float) -> Change:
    document = deepcopy(whole)
    before = whole["readings"][number]["weight"]
    document["readings"][number]["weight"] = round(before * times, 6)
    return f"{name} weight {before:g} to {before * times:g}", document, False


def _by_meaning(whole: dict[str, Any], part: str) -> Iterator[Change]:
    """Less of what puts the worse record first: of words, or of spaces."""
    if not whole["spaces"]:
        return
    before = whole["blend"]["meaning"]
    after = min(1.0, before + _MEANING) if part == "words" else max(0.0, before - _MEANING)
    if after != before:
        document = deepcopy(whole)
        document["blend"]["meaning"] = round(after, 6)
        yield f"meaning {before:g} to {after:g}", document, False
    for number, space in enumerate(whole["spaces"]):
        if part == f"space {space['space']}" and len(whole["spaces"]) > 1:
            own, less = space["weight"], space["weight"] * _LIGHT
            document = deepcopy(whole)
            document["spaces"][number]["weight"] = less
            yield f"space {space['space']} weight {own:g} to {less:g}", document, False
