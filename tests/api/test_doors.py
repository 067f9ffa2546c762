"""What the server refuses before it looks at it, and how it hands out the page's parts."""

import gzip
import re
from collections.abc import Generator
from pathlib import Path

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from pale_harbor.api.app import ROOMS, make_app
from pale_harbor.api.routes import LARGEST_BODY
from pale_harbor.work.workbench import Workbench


@pytest.fixture
def doors(bench: Workbench) -> Generator[TestClient]:
    with TestClient(
        make_app(bench, Path("/nonexistent")), base_url="http://127.0.0.1:7340", raise_server_exceptions=False
    ) as opened:
        yield opened


def sized(size: int) -> bytes:
    """A JSON object of so many bytes."""
    return b'{"' + b"x" * (size - 6) + b'":1}'


@pytest.mark.parametrize(
    ("method", "path", "largest"),
    [
        ("POST", "/api/collections/coast/search", LARGEST_BODY),
        ("PUT", "/api/collections/coast/rankers/run", LARGEST_BODY),
        ("PUT", "/api/collections/coast/rankers/files", LARGEST_BODY),
        ("PUT", "/api/collections/coast/chains/uploads", LARGEST_BODY),
        ("PUT", "/api/collections/coast/word-lists/sea", 20_000_000),
        ("POST", "/api/collections/coast/judged/visitors/list", 64_000_000),
    ],
)
def test_each_route_says_how_much_a_request_may_hold(doors: TestClient, method: str, path: str, largest: int):
    headers = {"content-type": "application/json"}
    assert doors.request(method, path, content=sized(largest), headers=headers).status_code in (404, 422)
    refused = doors.request(method, path, content=sized(largest + 1), headers=headers)
    assert refused.status_code == 413
    assert refused.headers["content-type"] == "application/problem+json"
    assert refused.json()["detail"] == (
        f"A request may hold {largest:,} bytes at most here, and must say its Content-Length."
    )


@pytest.mark.parametrize(
    ("asked_by", "refused"), [("cross-site", True), ("same-site", True), ("same-origin", False), ("none", False)]
)
def test_a_page_of_another_site_may_change_nothing(doors: TestClient, asked_by: str, refused: bool):
    headers = {"sec-fetch-site": asked_by}
    answer = doors.post("/api/collections/none/search", json={"query": "fog"}, headers=headers)
    assert answer.status_code == (403 if refused else 404)
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert doors.get("/api/health", headers=headers).status_code == 200
    assert (doors.delete("/api/collections/none", headers=headers).status_code == 403) is refused


@pytest.mark.parametrize(
    ("origin", "asked_by", "refused"),
    [
        ("http://127.0.0.1:7340", None, False),
        ("HTTP://127.0.0.1:7340", None, False),
        (None, None, False),
        ("http://127.0.0.1:7341", None, True),
        ("https://127.0.0.1:7340", None, True),
        ("http://elsewhere.example", None, True),
        ("null", None, True),
        # Where a browser says by whom it was asked, that is what counts.
        ("null", "same-origin", False),
        ("http://127.0.0.1:7340", "cross-site", True),
    ],
)
def test_a_browser_that_says_only_where_its_page_is_from_is_believed(
    doors: TestClient, origin: str | None, asked_by: str | None, refused: bool
):
    headers = {name: value for name, value in (("origin", origin), ("sec-fetch-site", asked_by)) if value}
    answer = doors.post("/api/collections/none/search", json={"query": "fog"}, headers=headers)
    assert answer.status_code == (403 if refused else 404)
    # Looking is free: what it shows, other pages cannot read.
    assert doors.get("/api/health", headers=headers).status_code == 200


@pytest.mark.parametrize("host", ["127.0.0.1", "127.0.0.1:9", "localhost:7340", "LOCALHOST", "[::1]:7340", "[::1]"])
def test_the_server_answers_to_its_own_names(doors: TestClient, host: str):
    assert doors.get("/api/health", headers={"host": host}).status_code == 200


@pytest.mark.parametrize(
    "host", ["testserver", "harbor.example", "127.0.0.1.harbor.example", "[::2]", "localhost:x", ""]
)
def test_the_server_answers_to_no_other_name(doors: TestClient, host: str):
    answer = doors.get("/api/health", headers={"host": host})
    assert answer.status_code == 400
    assert answer.headers["content-type"] == "application/problem+json"
    assert "its own names" in answer.json()["detail"]


def test_every_answer_says_what_a_browser_may_make_of_it(doors: TestClient):
    for path in ("/api/health", "/api/none"):
        headers = doors.get(path).headers
        assert (headers["x-content-type-options"], headers["referrer-policy"]) == ("nosniff", "same-origin")
        assert headers["cross-origin-opener-policy"] == headers["cross-origin-resource-policy"] == "same-origin"
        assert "unsafe" not in headers["content-security-policy"]


def test_what_is_held_in_memory_is_told(doors: TestClient):
    told = doors.get("/api/memory").json()
    assert told["resident_bytes"] > 10_000_000
    assert 0 < told["open_files"] < told["most_open_files"]
    assert {one["name"] for one in told["caches"]} >= {"indexes", "looked up", "columns", "rankers"}


@pytest.mark.parametrize(
    ("accepted", "encoding", "content"),
    [
        ("br, gzip", "br", b"brotli"),
        ("gzip, deflate", "gzip", b"plain js"),
        ("gzip;q=0.5", "gzip", b"plain js"),
        ("identity", None, b"plain js"),
        ("", None, b"plain js"),
    ],
)
def test_parts_of_the_page_come_compressed_and_are_kept_for_good(
    tmp_path: Path, accepted: str, encoding: str | None, content: bytes
):
    assets = tmp_path / "assets"
    assets.mkdir()
    (tmp_path / "index.html").write_text("the page")
    (assets / "index-abc.js").write_bytes(b"plain js")
    (assets / "index-abc.js.gz").write_bytes(gzip.compress(b"plain js"))
    (assets / "index-abc.js.br").write_bytes(b"brotli")
    (assets / "font-abc.woff2").write_bytes(b"font")
    with TestClient(make_app(None, tmp_path), base_url="http://127.0.0.1:7340") as client:
        with client.stream("GET", "/assets/index-abc.js", headers={"accept-encoding": accepted}) as answer:
            raw = b"".join(answer.iter_raw())
        assert answer.headers.get("content-encoding") == encoding
        assert (gzip.decompress(raw) if encoding == "gzip" else raw) == content
        assert answer.headers["cache-control"] == "public, max-age=31536000, immutable"
        assert answer.headers["content-type"].startswith("text/javascript")
        assert answer.headers["vary"] == "Accept-Encoding"
        assert client.get("/assets/font-abc.woff2").content == b"font"
        assert client.get("/assets/none.js", headers={"accept-encoding": accepted}).status_code == 404
        assert client.post("/assets/index-abc.js", headers={"accept-encoding": accepted}).status_code == 405


def test_no_two_endpoints_have_one_address_or_one_name():
    # The first of two would be asked, and nobody would hear of the other.
    routes = [route for room in ROOMS for route in room.router.routes if isinstance(route, APIRoute)]
    assert len(routes) > 100
    addresses = [
        (re.sub(r"{\w+}", "{}", route.path), method) for route in routes for method in sorted(route.methods or ())
    ]
    assert sorted(addresses) == sorted(set(addresses))
    names = [route.name for route in routes]
    assert sorted(names) == sorted(set(names))
