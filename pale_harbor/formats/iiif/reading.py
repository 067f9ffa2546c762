"""Manifests of others: which pages a thing has, and in which order (IIIF Presentation API 2.1 and 3.0)."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any, Final
from urllib.parse import unquote, urlsplit

import orjson

from pale_harbor.errors import BadInput

LARGEST_MANIFEST: Final = 50_000_000
_MOST_CANVASES: Final = 50_000
# Of the address of a part of a picture: region, size, rotation, quality and format.
_PARTS_OF_IMAGE: Final = 4


@dataclass(frozen=True, slots=True)
class CanvasRead:
    """A page. label: what it is called, None where nobody says; names: of files that may be of it, the likeliest first,
    without folders and formats."""

    label: str | None
    names: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ManifestRead:
    """A thing with its pages in order. title: None where it tells none."""

    title: str | None
    canvases: tuple[CanvasRead, ...]


def manifest_in(content: bytes) -> ManifestRead:
    """What a manifest says. Raises BadInput where it is none.

    >>> manifest_in(b'{"type": "Manifest", "items": [{"id": "https://quay.example/p3", "label": {"en": ["iii"]}}]}')
    ManifestRead(title=None, canvases=(CanvasRead(label='iii', names=('p3', 'iii')),))
    """
    if len(content) > LARGEST_MANIFEST:
        raise BadInput(f"it is longer than {LARGEST_MANIFEST:,} bytes.")
    try:
        told = orjson.loads(content)
    except orjson.JSONDecodeError as error:
        raise BadInput(f"it is no JSON: {error}.") from error
    kind = str(told.get("type") or told.get("@type") or "") if isinstance(told, dict) else ""
    if kind == "Manifest":
        canvases = _objects(told.get("items"))
    elif kind == "sc:Manifest":
        first = next(_objects(told.get("sequences")), {})
        canvases = _objects(first.get("canvases"))
    else:
        raise BadInput(f'it is no manifest of IIIF: its type is "{kind[:60]}", and "Manifest" was looked for.')
    pages: list[CanvasRead] = []
    for canvas in canvases:
        if len(pages) == _MOST_CANVASES:
            raise BadInput(f"it has more than {_MOST_CANVASES:,} pages.")
        pages.append(CanvasRead(_label(canvas.get("label")), tuple(dict.fromkeys(_names(canvas)))))
    if not pages:
        raise BadInput("it names no pages.")
    return ManifestRead(_label(told.get("label")), tuple(pages))


def _objects(value: Any) -> Iterator[dict[str, Any]]:
    items = value if isinstance(value, list) else [value]
    return (one for one in items if isinstance(one, dict))


def _names(canvas: dict[str, Any]) -> Iterator[str]:
    """Names of files that may be of a page: of its words, its picture, the canvas itself, and what it is called."""
    for beside in (*_objects(canvas.get("seeAlso")), *_objects(canvas.get("annotations"))):
        yield from _name(beside.get("id") or beside.get("@id"))
    for body in _bodies(canvas):
        for service in _objects(body.get("service")):
            yield from _name(service.get("id") or service.get("@id"))
        yield from _name(body.get("id") or body.get("@id"))
    yield from _name(canvas.get("id") or canvas.get("@id"))
    label = _label(canvas.get("label"))
    if label is not None:
        yield from _name(label)


def _bodies(canvas: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """What is painted on a page, by either version."""
    for page in _objects(canvas.get("items")):
        for annotation in _objects(page.get("items")):
            for body in _objects(annotation.get("body")):
                yield body
                yield from _objects(body.get("items"))
    for annotation in _objects(canvas.get("images")):
        yield from _objects(annotation.get("resource"))


def _name(address: Any) -> Iterator[str]:
    """The name that an address ends with, and the one that it has before it says which part of a picture is meant.

    >>> list(_name("https://quay.example/iiif/log%2F003.jpg/full/max/0/default.jpg"))
    ['003', 'default']
    """
    if not isinstance(address, str) or not address.strip():
        return
    path = urlsplit(address).path or address
    parts = [unquote(one) for one in path.rstrip("/").split("/") if one]
    if len(parts) > _PARTS_OF_IMAGE:
        yield _stem(parts[-1 - _PARTS_OF_IMAGE])
    if parts:
        yield _stem(parts[-1])


def _stem(name: str) -> str:
    own = PurePosixPath(name).name
    path = PurePosixPath(own)
    # 12.5 is a name, 12.jpg is one with a format.
    return path.stem if path.suffix[1:].isalnum() and not path.suffix[1:].isdecimal() else own


def _label(value: Any) -> str | None:
    """What something is called: a text, texts by language, or texts with their language beside.

    >>> _label({"none": ["12r"]}), _label([{"@value": "12r", "@language": "en"}]), _label("  "), _label(None)
    ('12r', '12r', None, None)
    """
    if isinstance(value, str):
        return value.strip() or None
    if isinstance(value, list):
        return next((found for one in value if (found := _label(one)) is not None), None)
    if isinstance(value, dict):
        if "@value" in value:
            return _label(value["@value"])
        return next((found for one in value.values() if (found := _label(one)) is not None), None)
    return None
