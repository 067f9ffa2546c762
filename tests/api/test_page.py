"""The page as it is served: one file for every place, its parts by content, nothing else of the disk."""

import re
from collections.abc import Generator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from pale_harbor.api.app import make_app


@pytest.fixture
def client(tmp_path: Path) -> Generator[TestClient]:
    page = tmp_path / "dist"
    (page / "assets").mkdir(parents=True)
    (page / "index.html").write_text("<!doctype html><head></head>the page")
    (page / "favicon.svg").write_text("<svg/>")
    (page / "assets" / "index-abc.js").write_text("1")
    (tmp_path / "secret").write_text("a secret")
    with TestClient(make_app(None, page), base_url="http://127.0.0.1:7340") as opened:
        yield opened


@pytest.mark.parametrize("path", ["/", "/saltmere/ranking", "/a/b/c", "/secret", "/..%2fsecret", "/favicon.svg%2f.."])
def test_every_place_is_the_page(client: TestClient, path: str):
    answer = client.get(path)
    assert answer.text.endswith("</head>the page")
    assert answer.headers["cache-control"] == "no-store"


def test_the_page_s_own_styles_say_a_word_that_is_another_one_at_every_visit(client: TestClient):
    visits = [client.get("/saltmere/ranking") for _ in range(2)]
    words = [re.findall(r'<meta name="style-nonce" nonce="([\w-]{22})" />', one.text) for one in visits]
    assert words[0] != words[1]
    for visit, (word,) in zip(visits, words, strict=True):
        policy = visit.headers["content-security-policy"]
        assert f"style-src 'self' 'nonce-{word}'" in policy
        assert "default-src 'self';" in policy
        # Of attributes of style alone, which the browser's own editing writes.
        assert policy.count("unsafe") == 1
        assert "style-src-attr 'unsafe-inline'" in policy


def test_parts_are_served_and_what_is_not_there_is_not_found(client: TestClient):
    assert client.get("/assets/index-abc.js").text == "1"
    assert client.get("/favicon.svg").text == "<svg/>"
    for path in ("/assets/none.js", "/assets/..%2f..%2fsecret", "/api/none"):
        answer = client.get(path)
        assert answer.status_code == 404
        assert "secret" not in answer.text


def test_without_a_workbench_the_server_says_it_is_not_ready(client: TestClient):
    assert client.get("/api/health").json()["ready"] is False


def test_below_a_path_files_are_named_from_it_whether_the_proxy_takes_it_off_or_not(tmp_path: Path):
    page = tmp_path / "dist"
    (page / "assets").mkdir(parents=True)
    (page / "index.html").write_text('<head></head><script src="./assets/index-abc.js"></script>')
    (page / "assets" / "index-abc.js").write_text("1")
    with TestClient(make_app(None, page, below="/search"), base_url="http://127.0.0.1:7340") as client:
        for path in ("/search", "/search/", "/search/saltmere/ranking", "/", "/saltmere/ranking", "/searchlight"):
            text = client.get(path).text
            assert '<script src="/search/assets/index-abc.js">' in text
            assert '<meta name="base-path" content="/search" />' in text
        for path in ("/search/assets/index-abc.js", "/assets/index-abc.js"):
            assert client.get(path).text == "1"
        assert client.get("/search/api/alive").json() == client.get("/api/alive").json()
        # What merely begins like it is another place.
        assert client.get("/searchlight/api/alive").headers["content-type"].startswith("text/html")
    with TestClient(make_app(None, page), base_url="http://127.0.0.1:7340") as client:
        assert '<script src="/assets/index-abc.js">' in client.get("/saltmere").text
