"""Pages that a machine read over HTTP."""

from collections.abc import Generator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from pale_harbor.api.app import make_app
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.workbench import Workbench
from tests.pages import LOG, logbook, picture


@pytest.fixture
def browser(bench: Workbench, tmp_path: Path) -> Generator[TestClient]:
    import_now(bench.pool, "logs", FileSource(Source(logbook(tmp_path / "scans"))), ImportPlan())
    with TestClient(make_app(bench), base_url="http://127.0.0.1:7340") as client:
        yield client


def page(browser: TestClient) -> Any:
    answer = browser.get("/api/collections/logs/page", params={"key": "log/2.xml"})
    assert answer.status_code == 200
    return answer.json()


def test_a_page_comes_with_its_places(browser: TestClient):
    found = page(browser)
    assert (found["picture"], found["field"], found["width"], found["height"]) == ("log/2.png", "text", 400, 600)
    assert found["places"][1] == [4, 10, 60, 40, 60, 20, 0, 0.9]
    assert found["text"][4:10] == "keeper"


def test_its_picture_is_there_whole_and_small(browser: TestClient):
    whole = browser.get("/api/collections/logs/pictures/log%2F2.png")
    assert (whole.headers["content-type"], whole.content) == ("image/png", picture(LOG["log/2"]))
    small = browser.get("/api/collections/logs/pictures/log%2F2.png", params={"small": True})
    assert (small.headers["content-type"], len(small.content) < 10_000) == ("image/jpeg", True)


def test_a_word_is_put_right_once(browser: TestClient):
    found = page(browser)
    word = {"key": "log/2.xml", "seen": found["revision"], "start": 4, "end": 10, "letters": "captain"}
    assert browser.post("/api/collections/logs/page/word", json=word).json()["updated"] == 1
    now = page(browser)
    assert now["text"].startswith("The captain wound")
    assert now["places"][1] == [4, 11, 60, 40, 60, 20, 0, 1.0]
    assert browser.post("/api/collections/logs/page/word", json=word).status_code == 409
    answer = browser.post("/api/collections/logs/search", json={"query": "captain"}).json()
    assert [row["key"] for row in answer["results"]] == ["log/2.xml"]


def test_a_list_holds_references_and_no_boxes(browser: TestClient):
    (row,) = browser.post("/api/collections/logs/search", json={"query": "keeper"}).json()["results"]
    assert len(row["field_values"]["places"]) < 120
    assert row["marks"]["text"] == [[4, 10]]


def test_a_judge_sees_the_pages_that_they_are_asked_about_and_no_others(browser: TestClient):
    # By the link alone, wherever they sit.
    path = "/api/collections/logs/judged/keepers"
    files = {"queries": "q1\tkeeper\n", "judgments": "q1 0 log/2.xml 1\n"}
    assert browser.put(f"{path}/files", json=files).status_code == 200
    task = {"name": "all", "judges": ["Maud"], "items": [{"query_id": "q1", "record_key": "log/2.xml"}]}
    made = browser.post(f"{path}/tasks", json=task)
    assert made.status_code == 200, made.text
    link = f"/api/judge/{made.json()[0]['judges'][0]['path'].removeprefix('/judge/')}"
    found = browser.get(f"{link}/page", params={"key": "log/2.xml"})
    assert found.json() == page(browser)
    whole = browser.get(f"{link}/picture", params={"key": "log/2.xml"})
    assert whole.content == picture(LOG["log/2"])
    small = browser.get(f"{link}/picture", params={"key": "log/2.xml", "small": True})
    assert small.headers["content-type"] == "image/jpeg"
    for what in ("page", "picture"):
        assert browser.get(f"{link}/{what}", params={"key": "log/1.xml"}).status_code == 404
        assert browser.get(f"/api/judge/nobody/{what}", params={"key": "log/2.xml"}).status_code == 404


@pytest.mark.parametrize("letters", ["", "\x00", "a" * 501])
def test_letters_that_cannot_be_kept_are_refused(browser: TestClient, letters: str):
    word = {"key": "log/2.xml", "seen": 1, "start": 4, "end": 10, "letters": letters}
    assert browser.post("/api/collections/logs/page/word", json=word).status_code == 422
