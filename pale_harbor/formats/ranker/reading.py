"""The ranker that a document describes: names resolved, chains built, rules and filters made ready."""

from collections.abc import Callable, Mapping
from enum import Enum
from typing import Any, Final, cast

from pale_harbor.core.blend import shown_name
from pale_harbor.core.fields import Filter
from pale_harbor.core.knobs import Declared, declared_knobs, is_part
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text import Chain
from pale_harbor.core.text.word_lists import NO_LISTS, WordList
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import FilterDocument, RankerDocument
from pale_harbor.formats.ranker.forms import FORM_NAMED, FORM_OF, UNUSABLE, Form, Surroundings
from pale_harbor.formats.ranker.unions import FILTER, OneOfParts, said_keys, union_of


def ranker_of(
    document: RankerDocument, chain: Callable[[str], Chain], lists: Mapping[str, WordList] = NO_LISTS
) -> Ranker:
    """The ranker that a document describes.

    chain: gives the chain of a notation or an @name, raises NotFound or ChainError; lists: the word
    lists that rules may name. Raises BadInput for a wrong chain or rule.
    """
    around = Surroundings(chain, lists, formula_names(document))
    return cast(Ranker, _part(Ranker, document.whole, around, ""))


def filter_of(document: FilterDocument | Mapping[str, Any]) -> Filter:
    """The filter that a document describes."""
    whole = document.whole if isinstance(document, FilterDocument) else document
    return cast(Filter, _of_union(FILTER, whole, _NOTHING_AROUND, ""))


def formula_names(document: RankerDocument) -> list[str]:
    """What a formula of this ranker may ask of a candidate."""
    whole = document.whole
    spaces = [one["space"] for one in whole["spaces"]]
    names = ["words", "nearness", "rank.words"]
    names += [shown_name("rank", space) for space in spaces] + [shown_name("space", space) for space in spaces]
    names += [shown_name("reading", reading["field"]) for reading in whole["readings"]]
    names += [shown_name("signal", signal["field"]) for signal in whole["signals"]]
    return list(dict.fromkeys(names))


def _part(part: type, written: Mapping[str, Any], around: Surroundings, where: str) -> object:
    values: dict[str, object] = {}
    for name, one in declared_knobs(part).items():
        path = f"{where}.{name}" if where else name
        said = written.get(name)
        if said is None and one.knob.like is not None:
            values[name] = values[one.knob.like]
        elif said is not None and _is_of_use(one, written):
            values[name] = _value(one, said, around, path)
        elif said is None and not one.optional:
            # An older document may not know it yet.
            continue
        else:
            values[name] = None
    return part(**values)


def _is_of_use(one: Declared, written: Mapping[str, Any]) -> bool:
    """What is only kept for later and names other parts is not read: they may be gone."""
    where = one.knob.where
    resolved = one.optional and one.kinds[0] in FORM_OF
    return where is None or not resolved or written.get(where.name) in where.says


def _of_union(union: OneOfParts, written: Mapping[str, Any], around: Surroundings, where: str) -> object:
    kind = union.kind_with(said_keys(written))
    if kind is None:
        raise BadInput(UNUSABLE, [(where, union.wrong(said_keys(written)))])
    return _part(kind, written, around, where)


def _value(one: Declared, said: Any, around: Surroundings, where: str) -> object:
    if one.many:
        return tuple(_one(one, each, around, f"{where}[{number}]") for number, each in enumerate(said))
    return _one(one, said, around, where)


def _one(one: Declared, said: Any, around: Surroundings, where: str) -> object:
    form: Form | None = FORM_NAMED.get(one.knob.names) if one.knob.names is not None else None
    form = form or FORM_OF.get(one.kinds[0])
    if form is not None:
        return form.read(said, around, where)
    if (union := union_of(one.kinds)) is not None:
        return _of_union(union, said, around, where)
    (kind,) = one.kinds
    if is_part(kind):
        return _part(kind, said, around, where)
    if said == one.knob.none:
        return None
    if isinstance(kind, type) and issubclass(kind, Enum):
        return kind(said)
    return tuple(said) if isinstance(said, list) else said


def _no_chain(text: str) -> Chain:
    raise BadInput(UNUSABLE, [("", f"no chain can stand here: {text}.")])


_NOTHING_AROUND: Final = Surroundings(_no_chain, NO_LISTS, ())
