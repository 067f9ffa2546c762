"""METS: which files are the pages of a thing, and in which order (Library of Congress, "METS: Metadata Encoding and
Transmission Standard", the schema of version 1 and its primer)."""

import io
from dataclasses import dataclass
from typing import Final, cast
from urllib.parse import unquote, urlsplit
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import parse

from pale_harbor.errors import BadInput

_NS: Final = "{http://www.loc.gov/METS/}"
_HREF: Final = "{http://www.w3.org/1999/xlink}href"
_MODS_TITLE: Final = "{http://www.loc.gov/mods/v3}titleInfo/{http://www.loc.gov/mods/v3}title"
_DC_TITLE: Final = "{http://purl.org/dc/elements/1.1/}title"


@dataclass(frozen=True, slots=True)
class MetsPage:
    """A page: the files that show it (its picture, its words), as the METS file names them; label: what it is called,
    None where nobody says."""

    files: tuple[str, ...]
    label: str | None


@dataclass(frozen=True, slots=True)
class Mets:
    """A thing with its pages in order. title: None where it tells none."""

    title: str | None
    pages: tuple[MetsPage, ...]


def mets_in(content: bytes) -> Mets:
    """What a METS file says of pages: of the physical structure, where it has one.

    Raises BadInput where it is no METS, has a document type or entities, or names no pages.
    """
    try:
        root = cast(Element, parse(io.BytesIO(content), forbid_dtd=True).getroot())
    except DefusedXmlException as error:
        raise BadInput("it has a document type or entities; such files are not read.") from error
    except (ParseError, ValueError, LookupError) as error:
        raise BadInput(f"it is no XML: {error}.") from error
    if root.tag != f"{_NS}mets":
        raise BadInput(f'it is no METS: its root element is "{root.tag[:200]}".')
    files = {
        one.get("ID", ""): _path(link.get(_HREF, ""))
        for one in root.iter(f"{_NS}file")
        if (link := one.find(f"{_NS}FLocat")) is not None
    }
    structures = root.findall(f"{_NS}structMap")
    physical = [one for one in structures if one.get("TYPE", "").upper() == "PHYSICAL"]
    structure = next(iter(physical or structures), None)
    pages = [] if structure is None else [page for one in _divisions(structure) if (page := _page(one, files)).files]
    if not pages:
        raise BadInput("it names no files of pages.")
    return Mets(_title(root), tuple(pages))


def _divisions(structure: Element) -> list[Element]:
    """The divisions that are pages, in their order: as they say it, where all of them do, else as they stand."""
    found = [one for one in structure.iter(f"{_NS}div") if one.find(f"{_NS}fptr") is not None]
    # What holds pages may point to files of the whole as well.
    found = [one for one in found if not any(inner in found for inner in one.iter(f"{_NS}div") if inner is not one)]
    orders = [one.get("ORDER", "") for one in found]
    if all(order.isdecimal() for order in orders) and len(set(orders)) == len(orders):
        found.sort(key=lambda one: int(one.get("ORDER", "0")))
    return found


def _page(division: Element, files: dict[str, str]) -> MetsPage:
    ids = [one.get("FILEID", "") for kind in ("fptr", "area") for one in division.iter(f"{_NS}{kind}")]
    named = dict.fromkeys(files[one] for one in ids if files.get(one))
    label = division.get("ORDERLABEL") or division.get("LABEL")
    return MetsPage(tuple(named), label.strip() or None if label else None)


def _title(root: Element) -> str | None:
    said = [root.get("LABEL"), *(one.text for one in root.iterfind(f".//{_MODS_TITLE}"))]
    said += [one.text for one in root.iter(_DC_TITLE)]
    return next((text.strip() for text in said if text and text.strip()), None)


def _path(address: str) -> str:
    """The path that an address names, from the folder of its METS file.

    >>> _path("file://./alto/0001.xml"), _path("./alto/0001.xml"), _path("alto/page%201.xml")
    ('alto/0001.xml', 'alto/0001.xml', 'alto/page 1.xml')
    """
    if "://" in address and not address.startswith("file:"):
        return ""
    parts = urlsplit(address)
    path = unquote(parts.netloc + parts.path if address.startswith("file:") else address)
    return path.removeprefix("./").lstrip("/")
