"""What was found on pages, as annotations of them (IIIF Content Search API, versions 2.0 and 1.0,
https://iiif.io/api/search/)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.pages import PageHit
from pale_harbor.formats.iiif.addresses import region

_CONTEXT_2: Final = "http://iiif.io/api/search/2/context.json"
_CONTEXT_1: Final = "http://iiif.io/api/search/1/context.json"
_PRESENTATION_2: Final = "http://iiif.io/api/presentation/2/context.json"
# What the standard lets a client ask by, and nothing here is told apart by.
PASSED_OVER: Final = ("motivation", "date", "user")


@dataclass(frozen=True, slots=True)
class HitTold:
    """Something that was found. canvas: the address of its page; width, height: of that, for what has no box."""

    canvas: str
    width: float
    height: float
    hit: PageHit

    @property
    def regions(self) -> list[str]:
        """Where it stands, each part for itself; the whole page where nobody knows."""
        boxes = [(box.x, box.y, box.width, box.height) for box in self.hit.boxes]
        return [region(self.canvas, *box) for box in boxes or [(0, 0, self.width, self.height)]]


@dataclass(frozen=True, slots=True, kw_only=True)
class HitsTold:
    """A part of all that was found. address: that it was asked by; whole: of all of it; next_part: of what follows,
    None where nothing does. first: how many annotations stand before; ignored: what was asked and passed over."""

    address: str
    whole: str
    next_part: str | None
    first: int
    ignored: Sequence[str]
    hits: Sequence[HitTold]

    @property
    def annotations(self) -> int:
        """How many there are in it."""
        return sum(len(one.regions) for one in self.hits)


@dataclass(frozen=True, slots=True)
class TermTold:
    """A word that begins so. count: how often it stands there; address: what finds it."""

    word: str
    count: int
    address: str


def search_2(told: HitsTold) -> dict[str, Any]:
    """An annotation page by version 2.0. Each hit has a note of the words around it beside."""
    items: list[dict[str, Any]] = []
    notes: list[dict[str, Any]] = []
    for number, one in enumerate(told.hits, start=1):
        own = _annotations_of(told, one, number)
        items += own
        quote = {
            "type": "TextQuoteSelector",
            "prefix": one.hit.before,
            "exact": one.hit.letters,
            "suffix": one.hit.after,
        }
        targets = [{"type": "SpecificResource", "source": note["id"], "selector": [quote]} for note in own]
        notes.append(
            {
                "id": f"{told.address}#around-{number}",
                "type": "Annotation",
                "motivation": "contextualizing",
                "target": targets[0] if len(targets) == 1 else targets,
            }
        )
    part_of: dict[str, Any] = {"id": told.whole, "type": "AnnotationCollection"}
    if told.first == 0 and told.next_part is None:
        part_of["total"] = len(items)
    page: dict[str, Any] = {
        "@context": _CONTEXT_2,
        "id": told.address,
        "type": "AnnotationPage",
        "partOf": part_of,
        "startIndex": told.first,
        "items": items,
        "annotations": [{"id": f"{told.address}#around", "type": "AnnotationPage", "items": notes}],
    }
    if told.ignored:
        page["ignored"] = list(told.ignored)
    if told.next_part is not None:
        page["next"] = {"id": told.next_part, "type": "AnnotationPage"}
    return page


def search_1(told: HitsTold) -> dict[str, Any]:
    """An annotation list by version 1.0, with a hit for whatever was found."""
    resources: list[dict[str, Any]] = []
    hits: list[dict[str, Any]] = []
    for number, one in enumerate(told.hits, start=1):
        own = [
            {
                "@id": f"{told.address}#hit-{number}-{part}",
                "@type": "oa:Annotation",
                "motivation": "sc:painting",
                "resource": {"@type": "cnt:ContentAsText", "chars": one.hit.letters},
                "on": where,
            }
            for part, where in enumerate(one.regions, start=1)
        ]
        resources += own
        hits.append(
            {
                "@type": "search:Hit",
                "annotations": [note["@id"] for note in own],
                "match": one.hit.letters,
                "before": one.hit.before,
                "after": one.hit.after,
            }
        )
    layer: dict[str, Any] = {"@type": "sc:Layer"}
    if told.first == 0 and told.next_part is None:
        layer["total"] = len(resources)
    if told.ignored:
        layer["ignored"] = list(told.ignored)
    page: dict[str, Any] = {
        "@context": [_PRESENTATION_2, _CONTEXT_1],
        "@id": told.address,
        "@type": "sc:AnnotationList",
        "within": layer,
        "startIndex": told.first,
        "resources": resources,
        "hits": hits,
    }
    if told.next_part is not None:
        page["next"] = told.next_part
    return page


def terms_2(address: str, terms: Sequence[TermTold], ignored: Sequence[str]) -> dict[str, Any]:
    """Words that begin so, by version 2.0."""
    items = [
        {
            "type": "Term",
            "value": one.word,
            "total": one.count,
            "service": [{"id": one.address, "type": "SearchService2"}],
        }
        for one in terms
    ]
    page: dict[str, Any] = {"@context": _CONTEXT_2, "id": address, "type": "TermPage", "items": items}
    return page | ({"ignored": list(ignored)} if ignored else {})


def terms_1(address: str, terms: Sequence[TermTold], ignored: Sequence[str]) -> dict[str, Any]:
    """Words that begin so, by version 1.0."""
    listed = [{"match": one.word, "url": one.address, "count": one.count} for one in terms]
    page: dict[str, Any] = {"@context": _CONTEXT_1, "@id": address, "@type": "search:TermList", "terms": listed}
    return page | ({"ignored": list(ignored)} if ignored else {})


def _annotations_of(told: HitsTold, one: HitTold, number: int) -> list[dict[str, Any]]:
    return [
        {
            "id": f"{told.address}#hit-{number}-{part}",
            "type": "Annotation",
            "motivation": "highlighting",
            "body": {"type": "TextualBody", "value": one.hit.letters, "format": "text/plain"},
            "target": where,
        }
        for part, where in enumerate(one.regions, start=1)
    ]
