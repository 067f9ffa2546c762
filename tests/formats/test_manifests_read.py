"""Manifests of others: both versions, good, odd and hostile."""

from typing import Any

import orjson
import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.iiif.reading import CanvasRead, manifest_in

IMAGE = "https://quay.example/iiif/log%2F003.jpg"


def canvas_3(number: int, **more: Any) -> dict[str, Any]:
    return {
        "id": f"https://quay.example/canvas/{number}",
        "type": "Canvas",
        "label": {"none": [f"p. {number}"]},
        **more,
    }


def read(told: Any) -> tuple[CanvasRead, ...]:
    return manifest_in(orjson.dumps(told)).canvases


def test_version_3_tells_pages_by_their_pictures_and_what_lies_beside():
    body = {"id": f"{IMAGE}/full/max/0/default.jpg", "type": "Image", "service": [{"id": IMAGE}]}
    painted = [{"items": [{"body": body}]}]
    see_also = [{"id": "https://quay.example/alto/0003.xml", "format": "application/xml+alto"}]
    (one,) = read({"type": "Manifest", "items": [canvas_3(1, items=painted, seeAlso=see_also)]})
    assert one.label == "p. 1"
    assert one.names == ("0003", "003", "default", "1", "p. 1")


def test_version_2_tells_them_in_its_own_words():
    resource = {"@id": f"{IMAGE}/full/full/0/default.jpg", "service": {"@id": IMAGE}}
    canvas = {"@id": "https://quay.example/c/7", "label": [{"@value": "7r"}], "images": [{"resource": resource}]}
    told = {"@type": "sc:Manifest", "label": "Log", "sequences": [{"canvases": [canvas]}, {"canvases": []}]}
    manifest = manifest_in(orjson.dumps(told))
    assert manifest.title == "Log"
    assert manifest.canvases == (CanvasRead("7r", ("003", "default", "7", "7r")),)


def test_a_choice_of_pictures_is_looked_through():
    body = {"type": "Choice", "items": [{"id": "https://quay.example/a.jpg"}, {"id": "https://quay.example/b.jpg"}]}
    (one,) = read({"type": "Manifest", "items": [canvas_3(1, items=[{"items": [{"body": body}]}])]})
    assert one.names[:2] == ("a", "b")


@pytest.mark.parametrize(
    ("content", "told"),
    [
        (b"{", "no JSON"),
        (b"[]", "no manifest"),
        (b'{"type": "Collection", "items": []}', '"Collection"'),
        (b'{"type": "Manifest", "items": []}', "names no pages"),
        (b'{"type": "Manifest"}', "names no pages"),
        (b'{"@type": "sc:Manifest", "sequences": []}', "names no pages"),
        (b'{"type": "Manifest", "items": ["x", 7, null]}', "names no pages"),
    ],
)
def test_what_is_none_is_told(content: bytes, told: str):
    with pytest.raises(BadInput, match=told):
        manifest_in(content)


def test_odd_addresses_name_nothing():
    (one,) = read({"type": "Manifest", "items": [{"id": 7, "seeAlso": {"id": ""}, "label": {"en": []}}]})
    assert one == CanvasRead(None, ())
    (bare,) = read({"type": "Manifest", "items": [{"id": "12.5"}]})
    assert bare.names == ("12.5",)


def test_a_manifest_has_fifty_thousand_pages_at_most(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.formats.iiif.reading._MOST_CANVASES", 2)
    assert len(read({"type": "Manifest", "items": [canvas_3(1), canvas_3(2)]})) == 2
    with pytest.raises(BadInput, match="more than 2 pages"):
        read({"type": "Manifest", "items": [canvas_3(1), canvas_3(2), canvas_3(3)]})
