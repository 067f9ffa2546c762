"""OAI-PMH 2.0, as other repositories answer it."""

import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final, cast
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import parse

from pale_harbor.errors import BadInput
from pale_harbor.formats.oai import OAI

LARGEST_ANSWER: Final = 100_000_000
_NS: Final = f"{{{OAI}}}"
_DC: Final = "{http://purl.org/dc/elements/1.1/}"
_MOST_VALUES: Final = 10_000


@dataclass(frozen=True, slots=True)
class HarvestedRow:
    """A record of a repository. values: by element, None where it is gone there; reason: why it cannot be read, ""
    where it can."""

    identifier: str
    values: dict[str, Any] | None
    reason: str = ""


@dataclass(frozen=True, slots=True)
class HarvestedAnswer:
    """A part of a list. token: what the next part is asked by, "" where there is none; at: when it was answered;
    in_all: how many records there are, where the repository says so."""

    rows: list[HarvestedRow]
    token: str
    at: str
    in_all: int | None


class RepositoryFault(BadInput):
    """What a repository says where it does not answer. code: one of the protocol's."""

    def __init__(self, code: str, said: str) -> None:
        super().__init__(f'the repository answers "{code}": {said[:300]}')
        self.code = code


def harvested_answer(content: bytes) -> HarvestedAnswer:
    """What a repository answers to `ListRecords`. Raises RepositoryFault; BadInput where it is no such answer."""
    root = _root(content)
    at = (root.findtext(f"{_NS}responseDate") or "").strip()
    for fault in root.iter(f"{_NS}error"):
        raise RepositoryFault(fault.get("code", ""), (fault.text or "").strip())
    listed = root.find(f"{_NS}ListRecords")
    if listed is None:
        raise BadInput("it is no answer of OAI-PMH 2.0 with records.")
    token = listed.find(f"{_NS}resumptionToken")
    size = "" if token is None else token.get("completeListSize", "")
    return HarvestedAnswer(
        [_row(record) for record in listed.iter(f"{_NS}record")],
        "" if token is None else (token.text or "").strip(),
        at,
        int(size) if size.isascii() and size.isdecimal() else None,
    )


def granularity_in(content: bytes) -> str:
    """How closely a repository tells moments, by its answer to `Identify`: `YYYY-MM-DD`, or to the second.

    Raises RepositoryFault; BadInput where it is no such answer.
    """
    root = _root(content)
    for fault in root.iter(f"{_NS}error"):
        raise RepositoryFault(fault.get("code", ""), (fault.text or "").strip())
    said = root.findtext(f"{_NS}Identify/{_NS}granularity")
    if said is None:
        raise BadInput("it is no answer of OAI-PMH 2.0.")
    return said.strip()


def _root(content: bytes) -> Element:
    try:
        root = cast(Element, parse(io.BytesIO(content), forbid_dtd=True).getroot())
    except DefusedXmlException as error:
        raise BadInput("it has a document type or entities; such answers are not read.") from error
    except (ParseError, ValueError, LookupError) as error:
        raise BadInput(f"it is no XML: {error}.") from error
    if root.tag != f"{_NS}OAI-PMH":
        raise BadInput(f'it is no answer of OAI-PMH 2.0: its root element is "{root.tag[:200]}".')
    return root


def _row(record: Element) -> HarvestedRow:
    header = record.find(f"{_NS}header")
    identifier = "" if header is None else (header.findtext(f"{_NS}identifier") or "").strip()
    if not identifier:
        return HarvestedRow("", None, "it has no identifier.")
    if header is not None and header.get("status") == "deleted":
        return HarvestedRow(identifier, None)
    metadata = record.find(f"{_NS}metadata")
    if metadata is None or len(metadata) == 0:
        return HarvestedRow(identifier, None, "it has no metadata.")
    values: dict[str, list[str]] = {}
    for count, (name, text) in enumerate(_said(metadata[0], "", 0)):
        if count == _MOST_VALUES:
            return HarvestedRow(identifier, None, f"it says more than {_MOST_VALUES:,} things.")
        own = values.setdefault(name, [])
        if text not in own:
            own.append(text)
    return HarvestedRow(identifier, {name: own[0] if len(own) == 1 else own for name, own in values.items()})


def _said(element: Element, before: str, depth: int) -> Iterator[tuple[str, str]]:
    """What the elements within say, each by its name; beyond Dublin Core by the names of all that it is in."""
    for one in element:
        local = one.tag.rpartition("}")[2]
        name = local if one.tag.startswith(_DC) or not before else f"{before}.{local}"
        text = (one.text or "").strip()
        if text:
            yield name, text
        if depth < 20:
            yield from _said(one, name, depth + 1)
