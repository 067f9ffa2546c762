"""The dials of a plan on a ranker's document: as somebody named them, or chosen where nobody did."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Final

from pale_harbor.core.knobs import dotted
from pale_harbor.core.tuning.dials import Dial
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.tuning_plan import TunedKnob
from pale_harbor.work.measuring.turning import with_value
from pale_harbor.work.tuning.ranker_parts import blends_of

Path = tuple[str | int, ...]

# What weights are tried at, times what they are.
_TIMES: Final = (0.1, 0.25, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0, 4.0)
_SHARES: Final = (0.0, 0.15, 0.3, 0.45, 0.6, 0.75, 0.9, 1.0)
_MEANING: Final = (0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9)
_K1: Final = (0.2, 0.5, 0.9, 1.2, 1.6, 2.0, 3.0)
_POOL_K1: Final = (0.5, 1.2, 2.0, 4.0, 8.0, 16.0)
# By what a part of a list may be named instead of its number.
_NAMED_BY: Final = {"readings": "field", "signals": "field", "spaces": "space", "kinds": "name"}
_ADDED: Final = ("reciprocal_rank", "weighted_sum")


def dials_of(document: RankerDocument, knobs: Sequence[TunedKnob] | None) -> list[Dial]:
    """The dials to be tuned. knobs: None chooses the usual ones.

    Raises BadInput for a place that is not there, a value that cannot stand there, or where there is nothing to tune.
    """
    named = list(usual_places(document.whole)) if knobs is None else [_named(document.whole, one) for one in knobs]
    dials: list[Dial] = []
    for path, values in named:
        if any(known.path == path for known in dials):
            raise BadInput(f'"{dotted(path)}" is named twice.')
        dial = _dial(document, path, values)
        if len(dial.values) > 1:
            dials.append(dial)
    if not dials:
        raise BadInput("There is nothing to tune: no knob has another value than it has.")
    return dials


def _named(whole: Mapping[str, Any], knob: TunedKnob) -> tuple[Path, list[Any]]:
    path = list(knob.path)
    if len(path) > 1 and isinstance(path[1], str) and path[0] in _NAMED_BY:
        listed, by = whole.get(str(path[0]), []), _NAMED_BY[str(path[0])]
        numbers = [number for number, one in enumerate(listed) if one.get(by) == path[1]]
        if not numbers:
            known = ", ".join(str(one.get(by)) for one in listed) or "none"
            raise BadInput(f'This ranker has nothing at "{dotted(path)}". Its {path[0]}: {known}.')
        path[1] = numbers[0]
    return tuple(path), list(knob.values) if knob.values is not None else knob.numbers


def _dial(document: RankerDocument, path: Path, values: Sequence[Any]) -> Dial:
    here = _at(document.whole, path)
    ordered = _is_number(here) and all(_is_number(one) for one in values)
    own = list(values)
    if here not in own:
        own.append(here)
    # What a ranker cannot have there is told by the document, before anything is measured.
    fitting = [_at(RankerDocument(with_value(document.whole, path, one)).whole, path) for one in own]
    distinct = [one for number, one in enumerate(fitting) if one not in fitting[:number]]
    if ordered:
        distinct.sort()
    return Dial(path, tuple(distinct), distinct.index(here), ordered)


def _at(whole: Any, path: Path) -> Any:
    with_value(whole, path, None)
    for step in path:
        whole = whole[step]
    return whole


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def usual_places(whole: dict[str, Any]) -> Iterator[tuple[Path, list[Any]]]:
    """Numbers that most rankers are tuned by; none for which new lists would have to be searched for."""
    is_pooled = whole["combine"]["how"] == "pooled"
    alone = sum(one["weight"] > 0 for one in whole["readings"]) == 1
    for number, reading in enumerate(whole["readings"]):
        if not reading["weight"]:
            continue
        if not alone:
            yield ("readings", number, "weight"), _times(reading["weight"])
        yield ("readings", number, "b"), list(_SHARES)
        if not is_pooled:
            yield ("readings", number, "k1"), list(_K1)
        if reading["nearness"] is not None:
            yield ("readings", number, "nearness", "weight"), _times(reading["nearness"]["weight"])
    if is_pooled:
        yield ("combine", "k1"), list(_POOL_K1)
    elif not alone:
        yield ("combine", "how"), ["sum", "strongest"]
    for number, signal in enumerate(whole["signals"]):
        if signal["weight"]:
            yield ("signals", number, "weight"), _times(signal["weight"])
    if whole["spaces"]:
        if len(whole["spaces"]) > 1:
            for number, space in enumerate(whole["spaces"]):
                yield ("spaces", number, "weight"), _times(space["weight"])
        for path, blend in blends_of(whole):
            if blend["how"] in _ADDED:
                yield (*path, "meaning"), list(_MEANING)


def _times(value: float) -> list[float]:
    return [round(value * times, 6) for times in _TIMES]
