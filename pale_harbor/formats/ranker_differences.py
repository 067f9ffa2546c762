"""What is different between two ranker documents, in words."""

from typing import Any, Final

from pale_harbor.formats.ranker_document import (
    BlendDocument,
    FilterDocument,
    QueryKindDocument,
    RankerDocument,
    ReadingDocument,
    RuleDocument,
    SignalDocument,
    SpellingDocument,
)
from pale_harbor.formats.ranker_from_document import filter_of

_SLACK: Final = {
    "edits": "edits",
    "lengths": "lengths",
    "fixed_start": "letters that must agree",
    "most": "most terms",
    "worth": "worth",
    "when": "when",
    "rare": "rare below",
    "similar": "similar from",
}

_BLEND: Final = {
    "how": "how",
    "meaning": "meaning",
    "k": "k",
    "normalise": "scores made comparable by",
    "fetch": "records by words",
    "depth": "depth",
    "formula": "formula",
}


def differences(before: RankerDocument, after: RankerDocument) -> list[str]:
    """Each difference in a few words, in the order of the document; empty where both do the same.

    >>> from pale_harbor.formats.ranker_document import ranker_document
    >>> old = ranker_document({"readings": [{"field": "title", "chain": "words", "weight": 3}]})
    >>> new = ranker_document({"readings": [{"field": "title", "chain": "words", "weight": 4.5}], "spelling": {}})
    >>> differences(old, new)
    ['title weight 3 to 4.5', 'spelling slack off to by length']
    """
    said = _readings(before.readings, after.readings)
    if before.combine.how != after.combine.how:
        said.append(f"readings combined: {before.combine.how} to {after.combine.how}")
    for name, words in (("share", "share of the rest"), ("k1", "k1 of the pool")):
        said += _changed(words, getattr(before.combine, name), getattr(after.combine, name))
    if before.need != after.need:
        said.append(f"words needed: {_need(before.need)} to {_need(after.need)}")
    said += _spelling(before.spelling, after.spelling)
    said += _listed("signal", before.signals, after.signals, _signal)
    said += _listed("rule", before.rules, after.rules, _rule)
    said += _listed("filter", before.filters, after.filters, _filter)
    said += _changed("one per", before.one_per, after.one_per)
    if before.equals_by != after.equals_by:
        said.append(f"equals by {_order(before.equals_by)} to {_order(after.equals_by)}")
    said += _spaces(before, after)
    said += _blend("blend", before.blend, after.blend)
    said += _second_stage(before, after)
    said += _listed("kind of queries", before.kinds, after.kinds, _kind)
    return said


def _spaces(before: RankerDocument, after: RankerDocument) -> list[str]:
    old, new = ({one.space: one for one in document.spaces} for document in (before, after))
    said = [f"new space {name}, weight {_number(one.weight)}" for name, one in new.items() if name not in old]
    said += [f"space {name} taken out" for name in old if name not in new]
    for name, one in new.items():
        if name in old:
            for key, words in (("weight", "weight"), ("fetch", "fetches"), ("at_least", "at least")):
                said += _changed(f"space {name} {words}", getattr(old[name], key), getattr(one, key))
    return said


def _blend(what: str, old: BlendDocument, new: BlendDocument) -> list[str]:
    said: list[str] = []
    for key, words in _BLEND.items():
        said += _changed(f"{what}, {words}:", getattr(old, key), getattr(new, key))
    return said


def _second_stage(before: RankerDocument, after: RankerDocument) -> list[str]:
    old, new = before.second_stage, after.second_stage
    if old is None or new is None:
        if old is new:
            return []
        return ["second stage off"] if new is None else [f"second stage by {new.space}, first {new.first}"]
    return [
        part
        for key in ("space", "first", "weight")
        for part in _changed(f"second stage, {key}", getattr(old, key), getattr(new, key))
    ]


def _kind(kind: QueryKindDocument) -> str:
    own = ", ".join(_blend("blend", BlendDocument(), kind.blend)) or "the usual blend"
    return f"{kind.name} ({own})"


def _readings(before: list[ReadingDocument], after: list[ReadingDocument]) -> list[str]:
    said: list[str] = []
    pairs = _paired(before, after)
    names = _names(after)
    for old, new, number in pairs:
        if old is None and new is not None:
            said.append(f"new reading {names[number]}, weight {_number(new.weight)}: {_chain(new.chain)}")
        elif new is None and old is not None:
            said.append(f"reading {old.field} taken out: {_chain(old.chain)}")
        elif old is not None and new is not None:
            said += _reading(names[number], old, new)
    return said


def _paired(
    before: list[ReadingDocument], after: list[ReadingDocument]
) -> list[tuple[ReadingDocument | None, ReadingDocument | None, int]]:
    """Readings of both documents that are the same one: by field and chain first, then by field and order."""
    left = list(range(len(before)))
    partner: dict[int, int] = {}
    for chains_too in (True, False):
        for number, new in enumerate(after):
            if number not in partner:
                alike = (i for i in left if before[i].field == new.field)
                old = next((i for i in alike if not chains_too or before[i].chain == new.chain), None)
                if old is not None:
                    partner[number] = old
                    left.remove(old)
    pairs = [(before[partner[i]] if i in partner else None, new, i) for i, new in enumerate(after)]
    return [*pairs, *((before[i], None, i) for i in left)]


def _names(readings: list[ReadingDocument]) -> list[str]:
    """A reading's field, with its number where the field is read more than once."""
    fields = [reading.field for reading in readings]
    return [f"{one} ({i + 1})" if fields.count(one) > 1 else one for i, one in enumerate(fields)]


def _reading(name: str, old: ReadingDocument, new: ReadingDocument) -> list[str]:
    said = [
        part
        for key in ("weight", "k1", "b")
        for part in _changed(f"{name} {key}", getattr(old, key), getattr(new, key))
    ]
    if old.chain != new.chain:
        said.append(f"{name} read through {_chain(new.chain)} instead of {_chain(old.chain)}")
    if old.query_chain != new.query_chain:
        now = "the record chain" if new.query_chain is None else _chain(new.query_chain)
        said.append(f"queries of {name} read through {now}")
    said += _changed(f"{name} share of a word's terms", old.share, new.share)
    if old.slack != new.slack:
        said.append(f"{name} with spelling slack" if new.slack else f"{name} without spelling slack")
    if old.nearness != new.nearness:
        if new.nearness is None:
            said.append(f"{name} nearness off")
        else:
            near = new.nearness
            order = "in order" if near.same_order else "in any order"
            said.append(f"{name} nearness weight {_number(near.weight)}, gap {near.gap}, {order}")
    return said


def _spelling(before: SpellingDocument | None, after: SpellingDocument | None) -> list[str]:
    if before is None or after is None:
        if before is after:
            return []
        return [f"spelling slack {_edits(before)} to {_edits(after)}"]
    said: list[str] = []
    for name, words in _SLACK.items():
        old, new = getattr(before, name), getattr(after, name)
        if old != new:
            said.append(f"spelling slack, {words}: {_value(old)} to {_value(new)}")
    return said


def _edits(document: SpellingDocument | None) -> str:
    if document is None:
        return "off"
    similar = "" if document.similar is None else f", similar from {_number(document.similar)}"
    when = "" if document.when == "missing" else f", {document.when}"
    return f"{_value(document.edits)}{when}{similar}"


def _listed(what: str, before: Any, after: Any, words: Any) -> list[str]:
    """Parts of a list: by place where there are as many, else those that came and went."""
    if len(before) == len(after):
        changed = [i for i in range(len(after)) if before[i] != after[i]]
        return [f"{what} {i + 1}: {words(before[i])} to {words(after[i])}" for i in changed]
    came = [f"new {what}: {words(one)}" for one in after if one not in before]
    return came + [f"{what} taken out: {words(one)}" for one in before if one not in after]


def _signal(signal: SignalDocument) -> str:
    scale = f" at {_number(signal.scale)}" if signal.scale != 1 else ""
    how = "added" if signal.how == "add" else "multiplied"
    return f"{signal.field} {signal.shape.replace('_', ' ')}{scale}, {_number(signal.weight)} {how}"


def _rule(rule: RuleDocument) -> str:
    done = {name: value for name, value in rule.do.model_dump().items() if value is not None}
    wanted = next((str(value) for value in rule.when.model_dump().values() if value is not None), "every query")
    said = ", ".join(
        f"{name} {' '.join(value) if isinstance(value, list) else _value(value)}" for name, value in done.items()
    )
    return f"{wanted}: {said}{'' if rule.on else ' (off)'}"


def _filter(document: FilterDocument) -> str:
    return str(filter_of(document))


def _changed(name: str, old: Any, new: Any) -> list[str]:
    return [] if old == new else [f"{name} {_value(old)} to {_value(new)}"]


def _value(value: Any) -> str:
    if value is None:
        return "off"
    if isinstance(value, float | int) and not isinstance(value, bool):
        return _number(value)
    if isinstance(value, tuple | list):
        return " and ".join(map(_value, value))
    return str(value).replace("_", " ")


def _number(value: float) -> str:
    return f"{value:g}"


def _need(need: int | str | dict[str, int | str]) -> str:
    if not isinstance(need, dict):
        return str(need)
    return ", ".join(
        str(amount) if start == "1" else f"{amount} from {start} words on" for start, amount in need.items()
    )


def _order(names: list[str]) -> str:
    return ", ".join(names) or "key"


def _chain(chain: str | dict[str, str]) -> str:
    return chain if isinstance(chain, str) else f"a chain by {chain['by']}"
