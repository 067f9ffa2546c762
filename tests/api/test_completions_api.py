"""Completions and past queries over HTTP."""

from threading import Event
from typing import Any

import pytest
from fastapi.testclient import TestClient

from pale_harbor.work.ranking import completing
from tests.api.test_api import problem

SALTMERE = "/api/collections/saltmere"


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """On a slow machine the first gathering takes longer than anybody waits for it, and is told as under way."""
    monkeypatch.setattr("pale_harbor.api.ranking.completions.PATIENCE_S", None)


@pytest.fixture
def suggesting(client: TestClient) -> dict[str, Any]:
    document = client.get(f"{SALTMERE}/rankers/first").json()["document"]
    recipe = {"sources": [{"asked": 1}, {"values": "title", "by": "visitor_requests"}]}
    return {"name": "first", "document": {**document, "completions": recipe}}


def test_whole_queries_are_suggested(client: TestClient, suggesting: dict[str, Any]):
    body = {"typed": "lighth", "ranker": suggesting, "top": 3}
    told = client.post(f"{SALTMERE}/completions", json=body).json()
    first = told["completions"][0]
    # Two inflections of it were asked too, and the records' own is another suggestion.
    assert (first["text"], first["weight"], first["edits"]) == ("lighthouse", 412, 0)
    assert first["text"][first["start"] : first["end"]] == "lighth"
    assert len(told["completions"]) == 3
    assert told["tried_all"]
    # Asked eleven times, and nothing like it is here.
    penguin = client.post(f"{SALTMERE}/completions", json={**body, "typed": "pengu"}).json()
    assert [one["text"] for one in penguin["completions"] if one["edits"] == 0] == []
    problem(client.post(f"{SALTMERE}/completions", json={**body, "top": 0}), 422)
    problem(client.post(f"{SALTMERE}/completions", json={**body, "more": 1}), 422)


def test_what_there_is_to_suggest_and_what_it_takes(client: TestClient, suggesting: dict[str, Any]):
    told = client.post(f"{SALTMERE}/suggestions", json=suggesting).json()
    assert told["own"]
    assert told["suggestions"] > 1_000
    assert told["past"]["queries"] > 100
    costs = client.post(f"{SALTMERE}/suggestions/costs", json=suggesting).json()
    assert [one["begins"] for one in costs] == ["suggestion", "word"]
    assert costs[0]["bytes"] < costs[1]["bytes"] == told["bytes"]


def test_a_source_is_of_one_kind(client: TestClient, suggesting: dict[str, Any]):
    suggesting["document"]["completions"] = {"sources": [{"values": "title", "phrases": "title"}]}
    found = problem(client.post(f"{SALTMERE}/completions", json={"typed": "l", "ranker": suggesting}), 422)
    assert 'suggestions are "values" or "phrases" of a field' in str(found)
    suggesting["document"]["completions"] = {"sources": [{"values": "titel"}]}
    found = problem(client.post(f"{SALTMERE}/completions", json={"typed": "l", "ranker": suggesting}), 422)
    assert "title" in str(found)


def test_past_queries_go_in_and_away(client: TestClient):
    path = f"{SALTMERE}/past-queries"
    kept = client.get(path).json()
    assert kept["kept"]["source"] == "past-queries.tsv"
    assert kept["first"][0]["query"] == "lighthouse"
    problem(client.put(path, json={"source": "mine.tsv", "text": "fog\tmany"}), 422)
    assert client.get(path).json() == kept
    told = client.put(path, json={"source": "mine.tsv", "text": "fog bell\t3\nrope"}).json()
    assert (told["kept"]["queries"], told["kept"]["asked"]) == (2, 4)
    assert client.delete(path).status_code == 204
    assert client.get(path).json() == {"kept": None, "first": []}
    problem(client.delete(path), 404)
    text = "".join(f"{one['query']}\t{one['asked']}\n" for one in kept["first"])
    client.put(path, json={"source": "past-queries.tsv", "text": text})


def test_while_suggestions_are_gathered_it_is_told_how_far_they_are(
    client: TestClient, suggesting: dict[str, Any], monkeypatch: pytest.MonkeyPatch
):
    go_on = Event()
    gather = completing.gathered_suggestions

    def slowly(opened: Any, recipe: Any, chain: Any, told: Any) -> Any:
        told("values of title", 1, 4)
        assert go_on.wait(20)
        return gather(opened, recipe, chain, told)

    monkeypatch.setattr(completing, "gathered_suggestions", slowly)
    monkeypatch.setattr("pale_harbor.api.ranking.completions.PATIENCE_S", 0.2)
    # A recipe that no other test has gathered.
    recipe = {"sources": [{"values": "title", "worth": 0.77}]}
    own = {"name": "first", "document": {**suggesting["document"], "completions": recipe}}
    body = {"typed": "fog", "ranker": own}
    under = client.post(f"{SALTMERE}/completions", json=body).json()
    assert (under["completions"], under["tried_all"]) == ([], False)
    assert {**under["gathering"], "elapsed_s": 0} == {"doing": "values of title", "done": 1, "of": 4, "elapsed_s": 0}
    told = client.post(f"{SALTMERE}/suggestions", json=own).json()
    assert (told["suggestions"], told["bytes"], told["gathering"]["of"]) == (0, 0, 4)
    go_on.set()
    monkeypatch.setattr("pale_harbor.api.ranking.completions.PATIENCE_S", None)
    found = client.post(f"{SALTMERE}/completions", json=body).json()
    assert found["gathering"] is None
    assert found["completions"]
    assert client.post(f"{SALTMERE}/suggestions", json=own).json()["gathering"] is None
