"""IIIF: what viewers get, read by packages that are not ours."""

import io
import subprocess
import sys
from pathlib import Path
from typing import Any

import httpx
import orjson
import pytest
from iiif_validator.validator import TestSuite, ValidationInfo
from PIL import Image

from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.pictures import Picture, put_pictures
from tests.conftest import ROOT
from tests.protocols.conftest import Quay

WIDTH, HEIGHT = 400, 600


def told(address: str, status: int = 200) -> Any:
    answer = httpx.get(address)
    assert answer.status_code == status, answer.text
    return answer.json()


def read_by_a_viewer(manifest: str, query: str, beginning: str) -> Any:
    """What a viewer's own library makes of a manifest and of what it finds."""
    said = subprocess.run(
        ["node", "clients/viewer.mjs", manifest, query, beginning],
        capture_output=True,
        text=True,
        check=True,
        cwd=ROOT / "frontend",
    )
    return orjson.loads(said.stdout)


def test_a_viewers_library_reads_a_thing_and_finds_in_it_by_both_versions(quay: Quay):
    base = quay.at("/iiif")
    seen = read_by_a_viewer(f"{base}/things/log/manifest", "lighthouses", "fres")
    assert (seen["type"], seen["label"]) == ("Manifest", {"none": ["Log of the Kestrel Ness light"]})
    # 2 comes before 10.
    pages = [f"{base}/pages/log%2F{page}.xml" for page in (1, 2, 10)]
    assert [(one["id"], one["width"], one["height"]) for one in seen["canvases"]] == [
        (page, WIDTH, HEIGHT) for page in pages
    ]
    assert [[one["type"] for one in painted] for painted in seen["painted"]] == [["Image"]] * 3
    # By its stem, and of a word that is parted at the end of a line both parts.
    both = [f"{pages[0]}#xywh=220,40,60,20", f"{pages[0]}#xywh=20,80,50,20"]
    for found in (seen["first"], seen["second"]):
        assert not found["error"], found["errorMessage"]
        assert [one.get("on") or one["target"] for one in found["resources"]] == both
        (hit,) = found["hits"]
        told = (hit["before"], hit["match"], hit["after"])
        assert told == ("Wind fresh from the ", "lighthouse", " till noon")
        assert len(hit["annotations"]) == 2
    assert {"fresh"} == {one.get("value") or one["match"] for one in seen["words"]}


def test_a_manifest_tells_what_the_standard_asks_for(quay: Quay):
    base = quay.at("/iiif")
    listed = told(f"{base}/collection")
    labels = {one["label"]["none"][0] for one in listed["items"]}
    assert labels == {"Log of the Kestrel Ness light", "Letters home"}
    log = next(one for one in listed["items"] if one["label"]["none"] == ["Log of the Kestrel Ness light"])
    answer = httpx.get(log["id"])
    assert answer.headers["content-type"].startswith("application/ld+json")
    assert 'profile="http://iiif.io/api/presentation/3/context.json"' in answer.headers["content-type"]
    canvases = answer.json()["items"]
    metadata = {one["label"]["none"][0]: one["value"]["none"][0] for one in answer.json()["metadata"]}
    assert (metadata["maker"], metadata["year"]) == ("Orla Fenn", "1846")
    painted = canvases[0]["items"][0]["items"][0]
    assert painted["motivation"] == "painting"
    assert painted["target"] == canvases[0]["id"]
    image = Image.open(io.BytesIO(httpx.get(painted["body"]["id"]).content))
    assert (image.format, image.size) == ("JPEG", (WIDTH, HEIGHT))
    small = Image.open(io.BytesIO(httpx.get(answer.json()["thumbnail"][0]["id"]).content))
    assert max(small.size) == 200
    # The text of a page, line by line.
    lines = told(canvases[0]["annotations"][0]["id"])
    assert [one["body"]["value"] for one in lines["items"]] == ["Wind fresh from the light", "house till noon"]
    assert lines["items"][0]["target"].startswith(f"{canvases[0]['id']}#xywh=20,40,")


def test_what_is_found_is_told_as_annotations_with_the_words_around(quay: Quay):
    base = quay.at("/iiif")
    found = told(f"{base}/things/log/search/2?q=lighthouses&user=orla")
    assert found["@context"] == "http://iiif.io/api/search/2/context.json"
    assert found["ignored"] == ["user"]
    assert found["partOf"]["total"] == 2
    (note,) = found["annotations"][0]["items"]
    assert note["motivation"] == "contextualizing"
    assert [one["source"] for one in note["target"]] == [one["id"] for one in found["items"]]
    (quote,) = note["target"][0]["selector"]
    assert (quote["prefix"], quote["exact"], quote["suffix"]) == ("Wind fresh from the ", "lighthouse", " till noon")


def test_a_thing_is_searched_alone_and_all_of_them_together(quay: Quay):
    base = quay.at("/iiif")
    everywhere = told(f"{base}/search/2?q=fog+bell")
    canvases = {one["target"].partition("#")[0] for one in everywhere["items"]}
    assert {one.rpartition("/")[2] for one in canvases} == {"log%2F10.xml", "letters%2Fa%20b.xml"}
    within = told(f"{base}/things/letters/search/2?q=fog+bell")
    assert {one["target"].partition("#")[0] for one in within["items"]} == {f"{base}/pages/letters%2Fa%20b.xml"}
    # A phrase over the end of a line is one hit with two boxes.
    assert [one["body"]["value"] for one in within["items"]] == ["fog bell", "fog bell"]
    assert told(f"{base}/things/nothing/search/2?q=fog")["items"] == []
    assert "said by" in told(f"{base}/search/2", 400)["detail"]
    assert told(f"{base}/search/3?q=fog", 404)["status"] == 404
    assert told(f"{base}/search/2?q=fog&skip=10000")["items"] == []
    for wrong in ("skip=10001", "skip=-1", "skip=x", "first=1000000"):
        assert told(f"{base}/search/2?q=fog&{wrong}", 400)["status"] == 400


def test_words_that_begin_so_are_told_with_how_often_they_stand_there(quay: Quay):
    base = quay.at("/iiif")
    terms = told(f"{base}/autocomplete/2?q=f")
    assert [(one["value"], one["total"]) for one in terms["items"]] == [("fog", 2), ("fresh", 1), ("from", 1)]
    assert terms["items"][0]["service"][0]["id"] == f"{base}/search/2?q=fog"
    within = told(f"{base}/things/log/autocomplete/1?q=FO")
    assert [(one["match"], one["count"]) for one in within["terms"]] == [("fog", 1)]
    assert told(within["terms"][0]["url"])["resources"]


def test_many_pages_come_in_parts_that_lead_on(quay: Quay, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.api.delivery.protocols.iiif._PAGES_AT_ONCE", 1)
    base = quay.at("/iiif")
    first = told(f"{base}/search/2?q=fog")
    assert first["startIndex"] == 0
    assert "total" not in first["partOf"]
    second = told(first["next"]["id"])
    assert second["startIndex"] == len(first["items"]) == 1
    assert "next" not in second
    assert {one["target"] for one in first["items"]}.isdisjoint(one["target"] for one in second["items"])
    assert told(told(f"{base}/search/1?q=fog")["next"])["startIndex"] == 1


def test_many_things_come_in_parts(quay: Quay, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.api.delivery.protocols.iiif._THINGS_AT_ONCE", 1)
    whole = told(quay.at("/iiif/collection"))
    parts = [told(one["id"]) for one in whole["items"]]
    assert [len(one["items"]) for one in parts] == [1, 1]
    assert parts[0]["items"] != parts[1]["items"]
    assert told(quay.at("/iiif/collection/0"), 404)["status"] == 404


def test_parts_of_pictures_are_sent_as_level_1_asks(quay: Quay):
    base = f"{quay.at('/iiif')}/images/log%2F1.png"
    information = httpx.get(f"{base}/info.json")
    assert (information.json()["width"], information.json()["height"]) == (WIDTH, HEIGHT)
    assert information.json()["profile"] == "level1"
    assert information.json()["id"] == base
    redirected = httpx.get(base)
    assert (redirected.status_code, redirected.headers["location"]) == (303, f"{base}/info.json")

    def size(asked: str) -> tuple[int, int]:
        answer = httpx.get(f"{base}/{asked}")
        assert answer.status_code == 200, answer.text
        return Image.open(io.BytesIO(answer.content)).size

    assert size("full/max/0/default.jpg") == (400, 600)
    assert size("square/max/0/default.jpg") == (400, 400)
    assert size("10,20,100,50/max/0/default.png") == (100, 50)
    assert size("350,550,100,100/max/0/default.png") == (50, 50)
    assert size("pct:25,0,50,10/max/0/gray.jpg") == (200, 60)
    assert size("full/100,/0/default.jpg") == (100, 150)
    assert size("full/,300/0/default.jpg") == (200, 300)
    assert size("full/100,100/0/default.jpg") == (100, 100)
    assert size("full/!100,100/0/default.jpg") == (67, 100)
    assert size("full/pct:50/90/bitonal.png") == (300, 200)
    assert size("full/^800,/0/default.webp") == (800, 1200)
    for wrong in (
        *("full/401,/0/default.jpg", "full/0,/0/default.jpg", "full/,/0/default.jpg", "400,0,10,10/max/0/default.jpg"),
        *("full/max/45/default.jpg", "full/max/0/default.tif", "0,0,0,10/max/0/default.jpg", "full/!10,/0/default.jpg"),
        *("full/^4097,1/0/default.jpg", "some/max/0/default.jpg", "full/full/0/default.jpg", "full/max/0/sepia.jpg"),
    ):
        assert httpx.get(f"{base}/{wrong}").status_code == 400, wrong
    assert httpx.get(f"{quay.at('/iiif')}/images/nothing.png/info.json").status_code == 404


def test_a_part_shows_what_stands_there(quay: Quay):
    # "Wind": a bar from 20 to 60 across, from 40 to 60 down.
    base = f"{quay.at('/iiif')}/images/log%2F1.png"
    inside = Image.open(io.BytesIO(httpx.get(f"{base}/20,40,40,20/max/0/default.png").content)).convert("L")
    assert inside.getextrema() == (0, 0)
    beside = Image.open(io.BytesIO(httpx.get(f"{base}/0,0,20,40/max/0/default.png").content)).convert("L")
    assert beside.getextrema() == (255, 255)
    turned = Image.open(io.BytesIO(httpx.get(f"{base}/0,30,80,40/max/90/default.png").content)).convert("L")
    # Turned to the right, what was on the left is above.
    assert turned.getpixel((20, 5)) == 255
    assert turned.getpixel((20, 25)) == 0


def test_keys_say_what_viewers_see(quay: Quay):
    hidden = {"filters": [{"field": "maker", "one_of": ["Ruth"]}]}
    base = quay.at("/iiif", hidden)
    assert [one["label"]["none"] for one in told(f"{base}/collection")["items"]] == [["Letters home"]]
    assert told(f"{base}/things/log/manifest", 404)["status"] == 404
    assert told(f"{base}/search/2?q=keeper")["items"] == []
    assert told(f"{base}/pages/log%2F1.xml/text", 404)["status"] == 404
    assert httpx.get(f"{base}/images/log%2F1.png/info.json").status_code == 404
    # Without the text no page is told of; without the picture no picture.
    textless = quay.at("/iiif", {"shown": ["title", "thing", "picture", "page"]})
    manifest = told(f"{textless}/things/log/manifest")
    assert "annotations" not in manifest["items"][0]
    assert told(f"{textless}/pages/log%2F1.xml/text", 404)["status"] == 404
    pictureless = quay.at("/iiif", {"shown": ["title", "thing", "text", "page"]})
    assert [one["items"] for one in told(f"{pictureless}/things/log/manifest")["items"]] == [[], [], []]
    assert told(quay.at("/iiif/collection", {"shown": ["title", "text"]}), 404)["status"] == 404
    assert httpx.get(f"{quay.server}/v1/quay/keys/nobody/iiif/collection").status_code == 401
    assert httpx.get(f"{quay.server}/v1/quay/iiif/collection").status_code == 401
    by_header = {"Authorization": f"Bearer {quay.key()}"}
    assert httpx.get(f"{quay.server}/v1/quay/iiif/collection", headers=by_header).status_code == 200


def test_rates_are_counted_whatever_the_protocol(quay: Quay):
    base = quay.at("", {"per_minute": 3, "per_minute_each": 3})
    statuses = [
        httpx.get(f"{base}{path}").status_code
        for path in ("/iiif/collection", "/sru", "/oai?verb=Identify", "/iiif/search/2?q=fog")
    ]
    assert statuses == [200, 200, 200, 429]


def test_the_validator_of_the_image_api_is_content(quay: Quay):
    # A picture of a hundred squares whose colours the validator knows.
    squares = Image.new("RGB", (1000, 1000))
    for across, column in enumerate(ValidationInfo().colorInfo):
        for down, colour in enumerate(column):
            squares.paste(colour, (100 * across, 100 * down, 100 * across + 100, 100 * down + 100))
    made = io.BytesIO()
    squares.save(made, "PNG")
    with quay.bench.pool.connection() as connection:
        own = collection_named(connection, "quay").id
        put_pictures(connection, own, [Picture("log/2.png", "image/png", made.getvalue())])
    base = quay.at("/iiif/images", {"origins": ["*"]})
    server, _, prefix = base.removeprefix("http://").partition("/")
    validator = Path(sys.executable).parent / "iiif-validate.py"
    asked = ["--server", server, "--prefix", prefix, "--identifier", "log%2F2.png", "--version=3.0"]
    # It refuses !w,h that are larger than the region; the standard has these give as much as there is (4.2).
    tests = TestSuite(ValidationInfo()).list_tests("3.0")
    own = [name for name, one in tests.items() if one["level"] <= 1 and name != "size_noup"]
    asked += [f"--test={name}" for name in own]
    said = subprocess.run([sys.executable, str(validator), *asked], capture_output=True, text=True, check=False)
    assert said.returncode == 0, said.stdout + said.stderr
    assert f"Done ({len(own)} tests, 0 failures)" in said.stdout + said.stderr
    assert len(own) >= 20
