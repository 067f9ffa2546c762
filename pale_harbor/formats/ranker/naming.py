"""What a document names beside itself: fields, spaces, chains, and where it does."""

from collections.abc import Iterator, Mapping
from typing import Any

from pale_harbor.core.knobs import Declared, Names, declared_knobs, is_part
from pale_harbor.core.ranking import FieldOrder, Ranker
from pale_harbor.core.text import Chain
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.ranker.forms import reference
from pale_harbor.formats.ranker.unions import union_of


def named_fields(document: RankerDocument) -> list[tuple[str, str]]:
    """Every field that the document names, with where it does."""
    return list(_name(Names.FIELD, Ranker, document.whole, ""))


def named_spaces(document: RankerDocument) -> list[tuple[str, str]]:
    """Every space that the document names, with where it does."""
    return list(_name(Names.SPACE, Ranker, document.whole, ""))


def chain_texts(document: RankerDocument) -> list[tuple[str, str]]:
    """Every chain that the document names, each with the field it reads; a saved one with its @."""
    found: list[tuple[str, str]] = []
    for reading in document.whole["readings"]:
        for choice in (reading["chain"], reading["query_chain"]):
            if isinstance(choice, dict):
                found += [(reading["field"], reference(text)) for key, text in choice.items() if key != "by"]
            elif choice is not None:
                found.append((reading["field"], choice.strip()))
    return found


def _name(what: Names, part: type, written: Mapping[str, Any], where: str) -> Iterator[tuple[str, str]]:
    for name, one in declared_knobs(part).items():
        said = written.get(name)
        path = f"{where}.{name}" if where else name
        if said is None:
            continue
        for number, each in enumerate(said if one.many else [said]):
            yield from _named_at(what, one, each, f"{path}[{number}]" if one.many else path)


def _named_at(what: Names, one: Declared, said: Any, where: str) -> Iterator[tuple[str, str]]:
    union = union_of(one.kinds)
    if one.knob.names is what and isinstance(said, str):
        yield where, said
    elif what is Names.FIELD and one.kinds[0] is FieldOrder:
        yield where, said.removeprefix("-")
    elif what is Names.FIELD and one.kinds[0] is Chain and isinstance(said, dict):
        yield f"{where}.by", said["by"]
    elif union is not None:
        # The same key of two kinds is named once.
        yield from dict.fromkeys(pair for kind in union.kinds for pair in _name(what, kind, said, where))
    elif is_part(one.kinds[0]):
        yield from _name(what, one.kinds[0], said, where)
