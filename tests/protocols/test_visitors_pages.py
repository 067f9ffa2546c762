"""Scanned pages at the search endpoint: hits with their boxes, and a page with those beside it."""

from typing import Any

import httpx

from pale_harbor.work.records.changes import put_records
from tests.endurance.harbor import until
from tests.protocols.conftest import Quay


def ask(quay: Quay, path: str, terms: dict[str, Any] | None = None, status: int = 200, **said: str) -> Any:
    answer = httpx.get(f"{quay.server}/v1/quay/{path}", params={"key": quay.key(terms), **said})
    assert answer.status_code == status, answer.text
    return answer.json()


def test_hits_of_rows_that_are_pages_come_with_their_boxes(quay: Quay):
    put_records(quay.bench.pool, "quay", [{"file": "note", "title": "A note on lighthouses"}])
    until(lambda: ask(quay, "search", query="lighthouses")["found"] == 2, 20, lambda: "the note is not found")
    rows = {row["key"]: row for row in ask(quay, "search", query="lighthouses", hits="true")["results"]}
    (hit,) = rows["log/1.xml"]["hits"]
    assert hit["boxes"] == [[220, 40, 60, 20], [20, 80, 50, 20]]
    assert (hit["before"], hit["letters"], hit["after"]) == ("Wind fresh from the ", "lighthouse", " till noon")
    text = rows["log/1.xml"]["fields"]["text"]
    assert text[hit["start"] : hit["end"]] == "lighthouse"
    # What is no page tells none, and nobody is told who did not ask.
    assert "hits" not in rows["note"]
    assert all("hits" not in row for row in ask(quay, "search", query="lighthouses")["results"])


def test_a_page_has_its_words_its_hits_and_those_beside_it(quay: Quay):
    page = ask(quay, "pages/log/10.xml", query="fog keeper clock")
    assert (page["title"], page["thing"], page["label"]) == ("Log of the Kestrel Ness light, page 3", "log", "3")
    assert (page["width"], page["height"], page["picture"]) == (400, 600, "log/10.png")
    assert page["text"] == "Fog bell rung all night"
    assert page["words"][0] == [0, 3, 20, 40, 30, 20, 0, 0.9]
    assert [hit["letters"] for hit in page["hits"]] == ["Fog"]
    assert [(one["label"], one["hits"]) for one in page["beside"]] == [("2", 2), ("3", 1)]
    # One that the query does not find has no hits, and is looked at all the same.
    other = ask(quay, "pages/log/1.xml", query="fog")
    assert (other["hits"], [one["label"] for one in other["beside"]]) == ([], ["3"])
    bare = ask(quay, "pages/log/1.xml")
    assert (bare["hits"], bare["beside"]) == ([], [])


def test_a_page_is_told_as_far_as_its_key_sees(quay: Quay):
    ruths = {"filters": [{"field": "maker", "one_of": ["Ruth"]}]}
    ask(quay, "pages/log/1.xml", ruths, 404)
    ask(quay, "pages/log/1.xml", {"shown": ["title"]}, 404)
    ask(quay, "pages/nothing", None, 404)
    # Without the name of its thing it stands alone, and is found alone.
    alone = ask(quay, "pages/log/10.xml", {"shown": ["title", "text"]}, query="fog")
    assert (alone["thing"], alone["picture"], alone["beside"]) == (None, None, [])
    assert [hit["letters"] for hit in alone["hits"]] == ["Fog"]
    ask(quay, "pages/log/1.xml", None, 422, query="x" * 2_001)
    assert ask(quay, "pages/log/1.xml", query="x" * 2_000)["hits"] == []
    values = ask(quay, "records/log/1.xml")["fields"]
    assert "places" not in values


def test_a_small_picture_is_smaller(quay: Quay):
    address = f"{quay.server}/v1/quay/pictures/log/1.png"
    key = quay.key()
    small = httpx.get(address, params={"key": key, "small": "true"})
    assert small.headers["content-type"] == "image/jpeg"
    assert httpx.get(address, params={"key": key}).headers["content-type"] == "image/png"
