"""Queries as they are typed, over HTTP."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import problem

SALTMERE = "/api/collections/saltmere"


@pytest.fixture
def typing(client: TestClient) -> dict[str, Any]:
    """The demo's first ranker, with beginnings."""
    document = client.get(f"{SALTMERE}/rankers/first").json()["document"]
    return {"name": "first", "document": {**document, "typing": {}}}


def found(client: TestClient, query: str, ranker: dict[str, Any], **more: Any) -> int:
    return client.post(f"{SALTMERE}/search", json={"query": query, "ranker": ranker, **more}).json()["matched"]


def test_a_search_is_told_that_it_is_being_typed(client: TestClient, typing: dict[str, Any]):
    assert found(client, "barom", typing) == 0
    assert found(client, "barom", typing, typed=True) > 0
    # How it is done is part of the ranker: one that knows no beginnings finds words alone.
    assert found(client, "barom", {"name": "first", "version": 1}, typed=True) == 0


def test_why_goes_by_the_list_that_is_typed(client: TestClient, typing: dict[str, Any]):
    asked = {"query": "barom", "ranker": typing, "typed": True}
    first = client.post(f"{SALTMERE}/search", json=asked).json()["results"][0]
    why = client.post(f"{SALTMERE}/why", json={**asked, "key": first["key"]}).json()
    terms = [term for part in why["readings"] for term in part["terms"]]
    assert {(term["kind"], term["term"], term["worth"]) for term in terms} == {("beginning", "barom*", 0.7)}
    # The letters that were matched are marked: those of the whole word.
    start, end = first["marks"]["title"][0]
    assert first["field_values"]["title"][start:end].lower().startswith("barom")


def test_a_query_is_played(client: TestClient, typing: dict[str, Any]):
    body = {"query": "barom", "ranker": typing, "wanted": "sm0021", "first": 2}
    letters = client.post(f"{SALTMERE}/letters", json=body).json()["letters"]
    assert [one["typed"] for one in letters] == ["b", "ba", "bar", "baro", "barom"]
    assert letters[-1]["rank"] == 1 + letters[-1]["keys"].index("sm0021")
    assert len(letters[-1]["keys"]) == 2
    problem(client.post(f"{SALTMERE}/letters", json={**body, "first": 0}), 422)


def test_a_judged_set_is_typed_by_a_draft_and_its_baseline(client: TestClient, typing: dict[str, Any]):
    body = {"ranker": typing, "against": {"name": "first", "version": 1}, "first": 10}
    told = client.post(f"{SALTMERE}/judged/visitors/letters", json=body).json()
    assert told["compared"]["second"] == told["letters"] < told["compared"]["first"]
    # A tenth of a letter is no luck here: the interval of the difference is below nothing.
    assert told["compared"]["interval"]["high"] < 0
    # Locked queries are not looked at.
    locked = client.get(f"{SALTMERE}/judged/visitors").json()["locked"]
    assert locked > 0
    assert not {one["query_id"] for one in told["queries"]} & {"q83", "q88"}
    problem(client.post(f"{SALTMERE}/judged/nobody/letters", json=body), 404)
