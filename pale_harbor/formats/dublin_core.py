"""Which fields of a collection say what in Dublin Core (DCMI Metadata Terms, the fifteen elements of version 1.1)."""

from collections.abc import Mapping, Sequence
from typing import Any, Final

ELEMENTS: Final = (
    *("title", "creator", "subject", "description", "publisher", "contributor", "date", "type", "format", "identifier"),
    *("source", "language", "relation", "coverage", "rights"),
)
# What fields are called that say it, in the trade's own words; an element may be said by several of them.
_CALLED: Final[Mapping[str, tuple[str, ...]]] = {
    "title": ("title", "name", "heading"),
    "creator": ("creator", "maker", "author", "artist", "photographer", "writer"),
    "subject": ("subject", "subjects", "keywords", "topic", "topics", "tags"),
    "description": ("description", "text", "abstract", "summary", "note", "notes"),
    "publisher": ("publisher",),
    "contributor": ("contributor", "contributors", "editor", "donor"),
    "date": ("date", "year", "created", "dated", "period"),
    "type": ("type", "kind", "genre", "category"),
    "format": ("format", "material", "materials", "medium", "technique"),
    "identifier": ("identifier", "code", "inventory_code", "inventory_number", "shelfmark", "accession_number"),
    "source": ("source", "thing", "part_of"),
    "language": ("language", "lang"),
    "relation": ("relation", "related"),
    "coverage": ("coverage", "place", "place_path", "location"),
    "rights": ("rights", "licence", "license", "copyright"),
}
_BY_ROLE: Final = {"title": "title", "language": "language", "key": "identifier"}
_PREFIXES: Final = ("dc:", "dc.", "dc_")


def dublin_core_of(fields: Sequence[tuple[str, str | None]]) -> dict[str, list[str]]:
    """By element the fields that say it, in the order of the collection, those named for it alone before all others.

    fields: each with its role. One called `dc:date` is of that element and of no other.

    >>> dublin_core_of([("id", "key"), ("maker", None), ("dc:date", None), ("year", None)])
    {'creator': ['maker'], 'date': ['dc:date', 'year'], 'identifier': ['id']}
    """
    said: dict[str, list[str]] = {}
    for is_named in (True, False):
        for name, role in fields:
            element = _named(name)
            if (element is not None) is is_named:
                element = element or _BY_ROLE.get(role or "") or _called(name)
                if element is not None:
                    said.setdefault(element, []).append(name)
    return {element: said[element] for element in ELEMENTS if element in said}


def values_in_dublin_core(values: Mapping[str, Any], fields_of: Mapping[str, Sequence[str]]) -> list[tuple[str, str]]:
    """What a record says, element by element, each value for itself.

    >>> values_in_dublin_core({"maker": ["Orla Fenn", "Ruth"], "year": 1846}, {"creator": ["maker"], "date": ["year"]})
    [('creator', 'Orla Fenn'), ('creator', 'Ruth'), ('date', '1846')]
    """
    told: list[tuple[str, str]] = []
    for element, fields in fields_of.items():
        for field in fields:
            own = values.get(field)
            for value in own if isinstance(own, list) else [own]:
                if value is not None and str(value).strip():
                    text = ("true" if value else "false") if isinstance(value, bool) else str(value)
                    if (element, text) not in told:
                        told.append((element, text))
    return told


def _named(name: str) -> str | None:
    low = name.casefold()
    return next((low[3:] for prefix in _PREFIXES if low.startswith(prefix) and low[3:] in ELEMENTS), None)


def _called(name: str) -> str | None:
    low = name.casefold()
    return next((element for element, names in _CALLED.items() if low in names), None)
