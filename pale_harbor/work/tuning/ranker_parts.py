"""The parts of a ranker, each with the ranker as it would be without it."""

from collections.abc import Iterator, Mapping
from copy import deepcopy
from dataclasses import dataclass, field
from typing import Any, Final

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text.word_lists import WordList
from pale_harbor.formats.ranker.differences import reading_names
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.work.ranking.stages_of_readings import stages_of

# Blends in which a share says how much meaning counts.
_ADDING: Final = ("reciprocal_rank", "weighted_sum")


@dataclass(frozen=True, slots=True)
class ListVersion:
    """A version of a word list that nobody kept yet. csv: the whole of it."""

    name: str
    version: int
    csv: str


@dataclass(frozen=True, slots=True)
class RankerPart:
    """kind: as in reading or stage; name: which one; without: the whole document without it, as JSON.

    It may be one that no ranker can have, as where a chain is without its tokenizer. lists: what lists hold that it
    names and that nobody kept, by `name:version`; new_list: the one to be kept before it is.
    """

    kind: str
    name: str
    without: dict[str, Any]
    lists: Mapping[str, WordList] = field(default_factory=dict[str, WordList])
    new_list: ListVersion | None = None


def parts_of(document: RankerDocument, ranker: Ranker) -> Iterator[RankerPart]:
    """Every part, in the order of the document. ranker: the one that it describes."""
    whole = document.whole
    asked = [number for number, one in enumerate(whole["readings"]) if one["weight"] > 0]
    names = reading_names(whole["readings"])
    for number in asked:
        reading, name = whole["readings"][number], names[number]
        if len(asked) > 1:
            yield _put("reading", name, whole, ("readings", number, "weight"), 0)
        for one in stages_of(whole, number, ranker):
            yield _put("stage", f"{name}{one.where}: {one.stage}", whole, one.path, one.rest)
        if reading["nearness"] is not None:
            yield _put("nearness", name, whole, ("readings", number, "nearness"), None)
    if whole["spelling"] is not None:
        yield _put("spelling slack", "", whole, ("spelling",), None)
    # While a query is typed nothing is measured by whole ones.
    if whole["typing"] is not None and whole["typing"]["when"] != "typed":
        yield _put("as typed", "", whole, ("typing",), None)
    if whole["feedback"] is not None:
        yield _put("feedback", "", whole, ("feedback",), None)
    for kind, key, by in (("signal", "signals", "field"), ("space", "spaces", "space"), ("kind", "kinds", "name")):
        for number, one in enumerate(whole[key]):
            yield _without(kind, str(one[by]), whole, key, number)
    yield from _sides_of_blend(whole)
    for number, _ in enumerate(whole["rules"]):
        yield _without("rule", f"number {number + 1}", whole, "rules", number)
    if whole["second_stage"] is not None:
        yield _put("second stage", whole["second_stage"]["space"], whole, ("second_stage",), None)


def _sides_of_blend(whole: dict[str, Any]) -> Iterator[RankerPart]:
    """The words' list and all spaces together, each left to the other, in every blend that adds both up."""
    if not whole["spaces"] or all(blend["how"] not in _ADDING for _, blend in blends_of(whole)):
        return
    for name, meaning in (("words", 1.0), ("meaning", 0.0)):
        changed = deepcopy(whole)
        for _, blend in blends_of(changed):
            if blend["how"] in _ADDING:
                blend["meaning"] = meaning
        yield RankerPart("blend", name, changed)


def blends_of(whole: dict[str, Any]) -> Iterator[tuple[tuple[str | int, ...], dict[str, Any]]]:
    """Every blend of a document with its place: that for most queries, and those for kinds of them."""
    yield ("blend",), whole["blend"]
    for number, kind in enumerate(whole["kinds"]):
        yield ("kinds", number, "blend"), kind["blend"]


def _put(kind: str, name: str, whole: dict[str, Any], path: tuple[str | int, ...], value: Any) -> RankerPart:
    changed: Any = deepcopy(whole)
    at = changed
    for step in path[:-1]:
        at = at[step]
    at[path[-1]] = value
    return RankerPart(kind, name, changed)


def _without(kind: str, name: str, whole: dict[str, Any], key: str, number: int) -> RankerPart:
    changed = deepcopy(whole)
    del changed[key][number]
    return RankerPart(kind, name, changed)
