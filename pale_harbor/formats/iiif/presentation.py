"""Manifests and collections (IIIF Presentation API 3.0, https://iiif.io/api/presentation/3.0/)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.formats.iiif.addresses import Addresses, region

_CONTEXT: Final = "http://iiif.io/api/presentation/3/context.json"
# The longer side of what stands for a page in a viewer's list.
_THUMBNAIL: Final = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class CanvasTold:
    """A page. width, height: in the units that its words stand in; picture, None where there is none, and picture_type,
    its media type. has_text: whether what was read on it may be told."""

    key: str
    label: str
    width: float
    height: float
    picture: str | None
    picture_type: str | None
    has_text: bool


@dataclass(frozen=True, slots=True)
class LineTold:
    """A line that was read: its letters and the rectangle around it, as x, y, width and height."""

    letters: str
    box: tuple[float, float, float, float]


def manifest(
    addresses: Addresses, thing: str, title: str, told: Mapping[str, str], pages: Sequence[CanvasTold]
) -> dict[str, Any]:
    """A thing with its pages in their order. told: what is known of it, by name. Pages whose size nobody knows are left
    out: a canvas has one."""
    canvases = [_canvas(addresses, page) for page in pages if page.width >= 1 and page.height >= 1]
    thumbnail = next((one["thumbnail"] for one in canvases if "thumbnail" in one), None)
    return {
        "@context": _CONTEXT,
        "id": addresses.manifest(thing),
        "type": "Manifest",
        "label": language_map(title),
        "metadata": [{"label": language_map(name), "value": language_map(value)} for name, value in told.items()],
        **({} if thumbnail is None else {"thumbnail": thumbnail}),
        "behavior": ["paged"] if len(canvases) > 1 else ["individuals"],
        "partOf": [{"id": addresses.collection(), "type": "Collection"}],
        "service": search_services(addresses, thing),
        "items": canvases,
    }


def collection(addresses: Addresses, title: str, things: Sequence[tuple[str, str]]) -> dict[str, Any]:
    """Things, each by its name and title."""
    items = [
        {"id": addresses.manifest(name), "type": "Manifest", "label": language_map(label)} for name, label in things
    ]
    return _collection(addresses, None, title, items)


def collection_of_parts(addresses: Addresses, title: str, parts: int) -> dict[str, Any]:
    """More things than one answer holds: collections of them, numbered from 1."""
    items = [
        {
            "id": addresses.collection(number),
            "type": "Collection",
            "label": language_map(f"{title}, part {number} of {parts}"),
        }
        for number in range(1, parts + 1)
    ]
    return _collection(addresses, None, title, items)


def part_of_collection(
    addresses: Addresses, title: str, number: int, things: Sequence[tuple[str, str]]
) -> dict[str, Any]:
    """One of these parts."""
    return {**collection(addresses, title, things), "id": addresses.collection(number)}


def text_of_page(addresses: Addresses, key: str, lines: Sequence[LineTold]) -> dict[str, Any]:
    """What was read on a page, line by line, as annotations of it."""
    items = [
        {
            "id": f"{addresses.text(key)}#{number}",
            "type": "Annotation",
            "motivation": "supplementing",
            "body": {"type": "TextualBody", "value": line.letters, "format": "text/plain"},
            "target": region(addresses.canvas(key), *line.box),
        }
        for number, line in enumerate(lines, start=1)
    ]
    return {"@context": _CONTEXT, "id": addresses.text(key), "type": "AnnotationPage", "items": items}


def search_services(addresses: Addresses, thing: str | None) -> list[dict[str, Any]]:
    """Where a thing is searched, by both versions of Content Search."""
    return [
        {
            "id": addresses.search(2, thing),
            "type": "SearchService2",
            "service": [{"id": addresses.autocomplete(2, thing), "type": "AutoCompleteService2"}],
        },
        # As clients of the former version look for it.
        {
            "@context": "http://iiif.io/api/search/1/context.json",
            "@id": addresses.search(1, thing),
            "@type": "SearchService1",
            "profile": "http://iiif.io/api/search/1/search",
            "service": {
                "@id": addresses.autocomplete(1, thing),
                "@type": "AutoCompleteService1",
                "profile": "http://iiif.io/api/search/1/autocomplete",
            },
        },
    ]


def language_map(text: str) -> dict[str, list[str]]:
    """A text of which nobody says in which language it is.

    >>> language_map("Fog")
    {'none': ['Fog']}
    """
    return {"none": [text]}


def image_service(addresses: Addresses, picture: str) -> dict[str, Any]:
    """Where parts of a picture are had."""
    return {"id": addresses.image(picture), "type": "ImageService3", "profile": "level1"}


def _collection(
    addresses: Addresses, part: int | None, title: str, items: Sequence[Mapping[str, Any]]
) -> dict[str, Any]:
    return {
        "@context": _CONTEXT,
        "id": addresses.collection(part),
        "type": "Collection",
        "label": language_map(title),
        "service": search_services(addresses, None),
        "items": list(items),
    }


def _canvas(addresses: Addresses, page: CanvasTold) -> dict[str, Any]:
    canvas = addresses.canvas(page.key)
    size = {"width": round(page.width), "height": round(page.height)}
    told: dict[str, Any] = {"id": canvas, "type": "Canvas", "label": language_map(page.label), **size}
    if page.picture is None:
        return {**told, "items": [], **_annotations(addresses, page)}
    image = addresses.image(page.picture)
    service = [image_service(addresses, page.picture)]
    small = {
        "id": f"{image}/full/!{_THUMBNAIL},{_THUMBNAIL}/0/default.jpg",
        "type": "Image",
        "format": "image/jpeg",
        "service": service,
    }
    body = {"id": f"{image}/full/max/0/default.jpg", "type": "Image", "format": "image/jpeg", **size}
    painting = {
        "id": f"{canvas}/picture/painted",
        "type": "Annotation",
        "motivation": "painting",
        "body": {**body, "service": service},
        "target": canvas,
    }
    painted = {"id": f"{canvas}/picture", "type": "AnnotationPage", "items": [painting]}
    return {**told, "thumbnail": [small], "items": [painted], **_annotations(addresses, page)}


def _annotations(addresses: Addresses, page: CanvasTold) -> dict[str, Any]:
    if not page.has_text:
        return {}
    return {"annotations": [{"id": addresses.text(page.key), "type": "AnnotationPage"}]}
