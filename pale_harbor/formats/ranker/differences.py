"""What is different between two ranker documents, in words.

Every knob that differs is told, by the words that it declares; parts that came, went or stand in a list are told in
a line of their own, which ends with whatever it has no words of its own for.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Final

from pale_harbor.core.blend import QueryKind, SecondStage, SpaceUse
from pale_harbor.core.knobs import Declared, declared_knobs, is_part
from pale_harbor.core.ranking import Nearness, Ranker, Reading, Signal, Spelling, Typing
from pale_harbor.core.ranking.feedback import Feedback
from pale_harbor.core.ranking.rules import Rule
from pale_harbor.core.typing.correcting import Corrections
from pale_harbor.core.typing.recipe import Completions
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.ranker.models import unwritten
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.formats.ranker.unions import FILTER, SUGGESTION_SOURCE, union_of

PartDocument = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Difference:
    """What is different, as it was and as it is ("" where it was not, or is no more), and all of it in words."""

    what: str
    before: str
    after: str
    words: str


@dataclass(frozen=True, slots=True)
class Reads:
    """In which versions a ranker reads the saved chains and word lists that it names without one."""

    chains: Mapping[str, int] = field(default_factory=dict[str, int])
    lists: Mapping[str, int] = field(default_factory=dict[str, int])


def differences(
    before: RankerDocument, after: RankerDocument, reads_before: Reads | None = None, reads_after: Reads | None = None
) -> list[Difference]:
    """Each difference, in the order of the document, and last what both read in other versions.

    Empty where both do the same.

    >>> from pale_harbor.formats.ranker.document import ranker_document
    >>> old = ranker_document({"readings": [{"field": "title", "chain": "words", "weight": 3}]})
    >>> new = ranker_document({"readings": [{"field": "title", "chain": "words", "weight": 4.5}], "spelling": {}})
    >>> [one.words for one in differences(old, new)]
    ['title weight 3 to 4.5', 'spelling slack off to by length']
    >>> differences(old, old, Reads(lists={"sea": 2}), Reads(lists={"sea": 3}))
    [Difference(what='word list @sea', before='version 2', after='version 3', words='word list @sea version 2 to 3')]
    """
    said: list[Difference] = []
    for name, one in declared_knobs(Ranker).items():
        old, new = before.whole[name], after.whole[name]
        if old != new:
            said += _change(one, old, new)
    if reads_before is not None and reads_after is not None:
        said += _versions("chain", reads_before.chains, reads_after.chains)
        said += _versions("word list", reads_before.lists, reads_after.lists)
    return said


def _versions(what: str, before: Mapping[str, int], after: Mapping[str, int]) -> list[Difference]:
    """Saved parts that both read, in other versions. One that only one of them names is told where it is named."""
    return [
        Difference(
            f"{what} @{name}",
            f"version {before[name]}",
            f"version {after[name]}",
            f"{what} @{name} version {before[name]} to {after[name]}",
        )
        for name in sorted(before.keys() & after.keys())
        if before[name] != after[name]
    ]


def _turned(what: str, old: str, new: str, colon: str = "") -> Difference:
    return Difference(what, old, new, f"{what}{colon} {old} to {new}")


def _change(one: Declared, old: Any, new: Any) -> list[Difference]:
    """A part of the ranker that differs."""
    words, kind = one.knob.words, one.kinds[0]
    if one.many and kind in _BY_NAME:
        return _BY_NAME[kind](old, new)
    if one.many and is_part(kind):
        return _list_changes(one, old, new)
    if one.many:
        return [_turned(words, ", ".join(old) or "key", ", ".join(new) or "key")]
    if is_part(kind):
        return _part_changed(kind, words, old, new)
    colon = "" if kind is str else ":"
    return [_turned(words, _value(old), _value(new), colon)]


def _part_changed(kind: type, words: str, old: PartDocument | None, new: PartDocument | None) -> list[Difference]:
    if kind is Spelling and (old is None or new is None):
        return [_turned(words, _spelling(old), _spelling(new))]
    if old is None and new is not None:
        return [Difference(words, "off", _line(kind, new), f"{words} {_line(kind, new)}")]
    if new is None:
        return [Difference(words, "" if old is None else _line(kind, old), "off", f"{words} off")]
    assert old is not None
    return _knobs(kind, f"{words}, " if words else "", ":" if words else "", old, new)


def _knobs(kind: type, before: str, after: str, old: PartDocument, new: PartDocument) -> list[Difference]:
    """Every knob of a part that differs. before, after: what stands around a knob's words."""
    said: list[Difference] = []
    for name, one in declared_knobs(kind).items():
        if old[name] == new[name]:
            continue
        words = _WORDS.get((kind, name))
        if words is not None:
            was, now, text = words(old[name], new[name])
            said.append(Difference(before + one.knob.words, was, now, before + text))
        elif one.many and is_part(one.kinds[0]):
            said += _list_changes(one, old[name], new[name])
        elif is_part(one.kinds[0]):
            said += _part_changed(one.kinds[0], before + one.knob.words, old[name], new[name])
        else:
            # A choice is told after a colon: its words are no amount.
            colon = after or (":" if one.knob.choices else "")
            said.append(_turned(before + one.knob.words, _value(old[name]), _value(new[name]), colon))
    return said


# Knobs whose change is told in words of its own: what it was, what it is, and both.
_WORDS: Final[Mapping[tuple[type, str], Callable[[Any, Any], tuple[str, str, str]]]] = {
    (Reading, "chain"): lambda old, new: (
        _chain(old),
        _chain(new),
        f"read through {_chain(new)} instead of {_chain(old)}",
    ),
    (Reading, "query_chain"): lambda old, new: (
        _query_chain(old),
        _query_chain(new),
        f"queries read through {_query_chain(new)}",
    ),
    (Reading, "slack"): lambda old, new: (
        _value(old),
        _value(new),
        "with spelling slack" if new else "without spelling slack",
    ),
}


def _query_chain(chain: str | Mapping[str, str] | None) -> str:
    return "the record chain" if chain is None else _chain(chain)


def _readings(before: Sequence[PartDocument], after: Sequence[PartDocument]) -> list[Difference]:
    said: list[Difference] = []
    names = reading_names(after)
    for old, new, number in _pair(before, after):
        if old is None and new is not None:
            said.append(_came("reading ", names[number], _line(Reading, new), ", "))
        elif new is None and old is not None:
            said.append(_went("reading ", old["field"], _line(Reading, old), f": {_chain(old['chain'])}"))
        elif old is not None and new is not None:
            said += _knobs(Reading, f"{names[number]} ", "", old, new)
    return said


def _came(kind: str, name: str, line: str, between: str) -> Difference:
    return Difference(f"{kind}{name}", "", line, f"new {kind}{name}{between}{line}")


def _went(kind: str, name: str, line: str, told: str) -> Difference:
    return Difference(f"{kind}{name}", line, "", f"{kind}{name} taken out{told}")


def _pair(
    before: Sequence[PartDocument], after: Sequence[PartDocument]
) -> list[tuple[PartDocument | None, PartDocument | None, int]]:
    """Readings of both documents that are the same one: by field and chain first, then by field and order."""
    left = list(range(len(before)))
    partner: dict[int, int] = {}
    for chains_too in (True, False):
        for number, new in enumerate(after):
            if number not in partner:
                alike = (i for i in left if before[i]["field"] == new["field"])
                old = next((i for i in alike if not chains_too or before[i]["chain"] == new["chain"]), None)
                if old is not None:
                    partner[number] = old
                    left.remove(old)
    pairs = [(before[partner[i]] if i in partner else None, new, i) for i, new in enumerate(after)]
    return [*pairs, *((before[i], None, i) for i in left)]


def reading_names(readings: Sequence[PartDocument]) -> list[str]:
    """A reading's field, with its number where the field is read more than once."""
    fields = [reading["field"] for reading in readings]
    return [f"{one} ({i + 1})" if fields.count(one) > 1 else one for i, one in enumerate(fields)]


def _spaces(before: Sequence[PartDocument], after: Sequence[PartDocument]) -> list[Difference]:
    old, new = ({one["space"]: one for one in document} for document in (before, after))
    said = [_came("space ", name, _line(SpaceUse, one), ", ") for name, one in new.items() if name not in old]
    said += [_went("space ", name, _line(SpaceUse, one), "") for name, one in old.items() if name not in new]
    for name, one in new.items():
        if name in old:
            said += _knobs(SpaceUse, f"space {name} ", "", old[name], one)
    return said


_BY_NAME: Final = {Reading: _readings, SpaceUse: _spaces}


def _list_changes(one: Declared, before: Sequence[PartDocument], after: Sequence[PartDocument]) -> list[Difference]:
    """Parts of a list: by place where there are as many, else those that came and went."""
    what, kind = one.knob.words, one.kinds[0]
    union = union_of(one.kinds)

    def line(part: PartDocument) -> str:
        if union is SUGGESTION_SOURCE:
            return _source(part)
        return str(filter_of(part)) if union is FILTER else _line(kind, part)

    if len(before) == len(after):
        changed = [i for i in range(len(after)) if before[i] != after[i]]
        return [_turned(f"{what} {i + 1}", line(before[i]), line(after[i]), ":") for i in changed]
    came = [_came(what, "", line(part), ": ") for part in after if part not in before]
    return came + [_went(what, "", line(part), f": {line(part)}") for part in before if part not in after]


def _line(kind: type, part: PartDocument) -> str:
    """A part in one line: what its kind has words for, and every other knob that does not stand where it begins."""
    names, words = _LINES[kind]
    rest = [
        f"{one.knob.words} {_value(part[name])}"
        for name, one in declared_knobs(kind).items()
        if name not in names and part[name] != _start_of(one)
    ]
    return ", ".join([words(part), *rest])


def _start_of(one: Declared) -> Any:
    value = unwritten(one)
    return list(value) if isinstance(value, tuple) else value


def _signal(signal: PartDocument) -> str:
    scale = f" at {_value(signal['scale'])}" if signal["scale"] != 1 else ""
    how = "added" if signal["how"] == "add" else "multiplied"
    return f"{signal['field']} {_value(signal['shape'])}{scale}, {_value(signal['weight'])} {how}"


def _rule(rule: PartDocument) -> str:
    wanted = next((str(value) for value in rule["when"].values() if value is not None), "every query")
    done = {name: value for name, value in rule["do"].items() if value is not None}
    # What it does, and then by how much.
    in_order = sorted(done.items(), key=lambda pair: pair[0] in ("by", "spread"))
    said = ", ".join(
        f"{name} {' '.join(value) if isinstance(value, list) else _value(value)}" for name, value in in_order
    )
    return f"{wanted}: {said}{'' if rule['on'] else ' (off)'}"


def _kind(kind: PartDocument) -> str:
    plain = {name: _start_of(one) for name, one in declared_knobs(_BLEND).items()}
    own = ", ".join(one.words for one in _knobs(_BLEND, "blend, ", ":", plain, kind["blend"])) or "the usual blend"
    return f"{kind['name']} ({own})"


_BLEND: Final = declared_knobs(QueryKind)["blend"].kinds[0]


def _nearness(near: PartDocument) -> str:
    order = "in order" if near["same_order"] else "in any order"
    return f"weight {_value(near['weight'])}, gap {near['gap']}, {order}"


def _spelling(spelling: PartDocument | None) -> str:
    return "off" if spelling is None else _line(Spelling, spelling)


def _edits(spelling: PartDocument) -> str:
    when = "" if spelling["when"] == "missing" else f", {spelling['when']}"
    return f"{_value(spelling['edits'])}{when}"


def _typing(typing: PartDocument) -> str:
    when = "" if typing["when"] == "typed" else f", {typing['when']}"
    return f"from {typing['letters']} letters{when}"


def _completions(completions: PartDocument) -> str:
    sources = len(completions["sources"])
    return "from the usual" if sources == 0 else f"from {sources} {'source' if sources == 1 else 'sources'}"


def _source(source: PartDocument) -> str:
    what = next(name for name in ("values", "phrases", "asked") if source.get(name) is not None)
    told = {name: value for name, value in source.items() if name != what and value is not None}
    kind = next(one for one in SUGGESTION_SOURCE.kinds if what in declared_knobs(one))
    own = declared_knobs(kind)
    rest = [f"{own[name].knob.words} {_value(value)}" for name, value in told.items() if value != _start_of(own[name])]
    return ", ".join([f"{own[what].knob.words} {_value(source[what])}", *rest])


def _new_reading(reading: PartDocument) -> str:
    return f"weight {_value(reading['weight'])}: {_chain(reading['chain'])}"


# How each kind of part is told in a line, and which of its knobs that line is about.
_LINES: Final[Mapping[type, tuple[tuple[str, ...], Callable[[PartDocument], str]]]] = {
    Reading: (("field", "chain", "weight"), _new_reading),
    SpaceUse: (("space", "weight"), lambda space: f"weight {_value(space['weight'])}"),
    Signal: (("field", "shape", "scale", "weight", "how"), _signal),
    Rule: (("when", "do", "on"), _rule),
    QueryKind: (("name", "when", "blend"), _kind),
    Nearness: (("weight", "gap", "same_order"), _nearness),
    Spelling: (("edits", "when"), _edits),
    Feedback: (("records", "share"), lambda one: f"first {one['records']}, share {_value(one['share'])}"),
    Typing: (("letters", "when"), _typing),
    Completions: (("sources",), _completions),
    Corrections: (("sure",), lambda one: f"as sure as {_value(one['sure'])}"),
    SecondStage: (("space", "first"), lambda stage: f"by {stage['space']}, first {stage['first']}"),
}


def _value(value: Any) -> str:
    if value is None:
        return "off"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int):
        return f"{value:g}"
    if isinstance(value, list | tuple):
        return " and ".join(map(_value, value))
    if isinstance(value, dict):
        return _steps(value)
    return str(value).replace("_", " ")


def _steps(need: Mapping[str, Any]) -> str:
    return ", ".join(
        str(amount) if start == "1" else f"{amount} from {start} words on" for start, amount in need.items()
    )


def _chain(chain: str | Mapping[str, str]) -> str:
    return chain if isinstance(chain, str) else f"a chain by {chain['by']}"
