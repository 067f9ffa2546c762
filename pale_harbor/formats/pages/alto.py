"""ALTO, versions 2 to 4: pages that a machine read, as XML (Library of Congress, "ALTO: Technical Metadata for Layout
and Text Objects", the schemas and their notes)."""

import re
from collections import Counter
from collections.abc import Sequence
from typing import Final
from xml.etree.ElementTree import Element, ParseError
from xml.parsers.expat import ExpatError

from defusedxml import DefusedXmlException

from pale_harbor.core.pages import Box, Part, ReadWord
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.page_read import Fault, PageRead, box_fault, number_said
from pale_harbor.formats.xml_read import xml_root

_ROOT: Final = re.compile(r"\{http://www\.loc\.gov/standards/alto/ns-v([234])#\}alto")
_SIDES: Final = ("HPOS", "VPOS", "WIDTH", "HEIGHT")
_PARTS: Final[dict[str, Part]] = {"HypPart1": "first", "HypPart2": "second"}
# So the beginning of a file tells that it may be one; whether it is, the root element says.
_LOOKS_LIKE: Final = re.compile(rb"<(?:\w+:)?alto[\s>]", re.IGNORECASE)


def looks_like_alto(head: bytes) -> bool:
    """Whether a file that begins so may be ALTO.

    >>> looks_like_alto(b'<?xml version="1.0"?><alto xmlns="http://www.loc.gov/standards/alto/ns-v4#">')
    True
    """
    return _LOOKS_LIKE.search(head.replace(b"\x00", b"")) is not None


def alto_pages(content: bytes) -> list[PageRead]:
    """The pages of a file, with their words in the order of the blocks: as `ReadingOrder` says, as `IDNEXT` leads,
    or as they stand.

    Raises BadInput where it is no ALTO of these versions, or has entities or a document type.
    """
    try:
        # A document type is the door to entities and other files; ALTO needs none.
        root = xml_root(content)
    except DefusedXmlException as error:
        raise BadInput(
            "it has a document type or entities, which ALTO has no use for; such files are not read."
        ) from error
    except (ParseError, ExpatError, ValueError, LookupError) as error:
        raise BadInput(f"it is no XML: {error}.") from error
    if (found := _ROOT.fullmatch(root.tag)) is None:
        raise BadInput(
            f'it is no ALTO of version 2, 3 or 4: its root element is "{root.tag[:200]}", and '
            '"alto" of "http://www.loc.gov/standards/alto/ns-v4#" (or 3, 2) was looked for.'
        )
    return _Reading(found[0].removesuffix("alto"), root).pages()


class _Reading:
    """One file. ns: its namespace, as it stands before names."""

    def __init__(self, ns: str, root: Element) -> None:
        self._ns = ns
        self._root = root
        said = root.findtext(f"{ns}Description/{ns}sourceImageInformation/{ns}fileName")
        self._picture = (said or "").strip() or None

        # Version 4.3: what is to be read after what, by blocks, what they are in, or lines.
        order = root.find(f"{ns}ReadingOrder")
        named = [] if order is None else [one.get("REF", "") for one in order.iter(f"{ns}ElementRef")]
        self._order = {name: place for place, name in enumerate(dict.fromkeys(named))}

    def pages(self) -> list[PageRead]:
        return [self._page(page) for page in self._root.iter(f"{self._ns}Page")]

    def _page(self, page: Element) -> PageRead:
        width, height = (number_said(page.get(name)) or 0.0 for name in ("WIDTH", "HEIGHT"))
        faults: list[Fault] = []
        if not (width > 0 and height > 0):
            faults.append((0, "the page does not say how large it is"))
        words: list[ReadWord] = []
        languages: Counter[str] = Counter()
        line_number = 0
        for number, block in enumerate(self._blocks(page)):
            language = block.get("LANG") or block.get("language")
            lines = list(block.iter(f"{self._ns}TextLine"))
            for line in sorted(lines, key=lambda one: self._order.get(one.get("ID", ""), len(self._order))):
                line_number += 1
                for string in line.iter(f"{self._ns}String"):
                    letters = string.get("CONTENT", "")
                    if not letters.strip():
                        faults.append((line_number, "a word has no letters"))
                        continue
                    box = _box(string)
                    wrong = box_fault(box, width, height)
                    if wrong is not None:
                        faults.append((line_number, f'the box of "{letters[:60]}" {wrong}'))
                    languages[string.get("LANG") or language or ""] += 1
                    words.append(
                        ReadWord(
                            letters=letters,
                            box=None if box is None or box.is_empty else box,
                            line=line_number - 1,
                            block=number,
                            confidence=_confidence(string.get("WC")),
                            part=_PARTS.get(string.get("SUBS_TYPE", "")),
                            whole=string.get("SUBS_CONTENT"),
                        )
                    )
        language = max(languages, key=lambda one: languages[one], default="")
        return PageRead(
            name=page.get("ID", ""),
            width=width,
            height=height,
            words=tuple(words),
            picture=self._picture,
            language=language or None,
            faults=tuple(faults),
        )

    def _blocks(self, page: Element) -> list[Element]:
        """The blocks of a page as they are to be read: as the file says it for the whole of it, else each after the one
        that leads to it. Those that nobody names come last, as they stand."""
        blocks = list(page.iter(f"{self._ns}TextBlock"))
        if not self._order:
            return _in_order(blocks)
        places: dict[int, int] = {}
        for element in page.iter():
            own = self._order.get(element.get("ID", ""))
            if own is not None:
                for block in element.iter(f"{self._ns}TextBlock"):
                    # What stands further in says it more closely.
                    places[id(block)] = own
        for block in blocks:
            lines = [self._order.get(line.get("ID", "")) for line in block.iter(f"{self._ns}TextLine")]
            told = [place for place in lines if place is not None]
            if id(block) not in places and told:
                places[id(block)] = min(told)
        return sorted(blocks, key=lambda block: places.get(id(block), len(self._order)))


def _in_order(blocks: Sequence[Element]) -> list[Element]:
    """Blocks as they are to be read: those that `IDNEXT` names follow the one that names them."""
    by_id = {name: block for block in blocks if (name := block.get("ID"))}
    follow = {id(by_id[name]) for block in blocks if (name := block.get("IDNEXT")) in by_id}
    ordered: list[Element] = []
    seen: set[int] = set()
    # Those that nobody names begin; blocks that lead to one another in a circle come last, as they stand.
    for first in [*(one for one in blocks if id(one) not in follow), *blocks]:
        block: Element | None = first
        while block is not None and id(block) not in seen:
            seen.add(id(block))
            ordered.append(block)
            block = by_id.get(block.get("IDNEXT", ""))
    return ordered


def _box(string: Element) -> Box | None:
    x, y, width, height = map(number_said, map(string.get, _SIDES))
    if x is None or y is None or width is None or height is None:
        return None
    return Box(x, y, width, height)


def _confidence(said: str | None) -> float | None:
    found = number_said(said)
    return found if found is not None and 0 <= found <= 1 else None
