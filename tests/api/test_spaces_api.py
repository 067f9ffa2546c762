"""Spaces over HTTP on the demo: filled in the background, told as they go, looked into, blended, measured."""

import io
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.jobs import ended

SALTMERE = "/api/collections/saltmere"


@pytest.fixture(scope="module", autouse=True)
def the_demo_spaces(client: TestClient) -> None:
    """Waits until the server has filled the demo's spaces."""
    for name in ("everyday", "house"):
        assert ended(client, f"{SALTMERE}/spaces/{name}")["state"] == "done"


def post(client: TestClient, path: str, body: Any) -> Any:
    response = client.post(f"{SALTMERE}{path}", json=body)
    assert response.status_code == 200, response.text
    return response.json()


def test_the_demo_has_two_spaces(client: TestClient):
    everyday, house = client.get(f"{SALTMERE}/spaces").json()
    assert (everyday["name"], everyday["dimensions"], everyday["asked_by"]) == ("everyday", 256, ["blended"])
    assert everyday["report"]["whole"] == 1554
    assert (house["model"], house["word_vectors"]) == ("learned from 1,554 records", True)


def test_the_demos_blend_beats_words_and_meaning(client: TestClient):
    found = post(client, "/judged/visitors/sides", {"ranker": {"name": "blended"}})
    whole = found["all"]
    assert whole["blended"] > max(whole["words"], whole["meaning"]) + 0.02
    tags = {one["name"]: one for one in found["tags"]}
    assert tags["question in plain words"]["meaning"] > tags["question in plain words"]["words"] + 0.1
    assert tags["code"]["words"] > tags["code"]["meaning"] + 0.1
    assert {one["name"] for one in found["kinds"]} == {"code", "question", "any other"}
    assert len(found["queries"]) == whole["queries"] == 99


def test_a_blended_search_says_where_its_rows_come_from(client: TestClient):
    question = {"query": "how did sailors keep warm", "ranker": {"name": "blended"}, "top": 20}
    found = post(client, "/search", question)
    assert found["lists"] == ["words", "everyday", "house"]
    assert found["kind"] == "question"
    assert [source["kind"] for source in found["sources"]] == ["words", "space", "space"]
    only_meant = [row for row in found["results"] if row["ranks"][0] == 0]
    assert only_meant
    row = only_meant[0]
    why = post(client, "/why", {"query": question["query"], "ranker": question["ranker"], "key": row["key"]})
    assert why["rank"] == row["rank"]
    assert sum(part["part"] for part in why["blend"]["lists"]) == pytest.approx(row["score"])
    lists = post(client, "/lists", {**question, "top": 5})
    assert lists["names"] == ["words", "everyday", "house", "blended"]
    assert [one["key"] for one in lists["lists"][-1]] == [one["key"] for one in found["results"][:5]]


def test_a_space_is_made_filled_and_dropped(client: TestClient):
    document = {"source": {"kind": "packaged"}, "fields": ["title"]}
    made = client.put(f"{SALTMERE}/spaces/titles", json={"document": document})
    assert made.status_code == 200
    done = ended(client, f"{SALTMERE}/spaces/titles")
    assert (done["state"], done["report"]["vectors"]) == ("done", 1554)
    near = post(client, "/spaces/titles/nearest", {"text": "whaling iron", "top": 3})
    assert "whal" in near[0]["field_values"]["title"].lower()
    like = post(client, "/spaces/titles/nearest", {"liked": [near[0]["key"]], "top": 3})
    assert near[0]["key"] not in [one["key"] for one in like]
    seen = post(client, "/spaces/titles/map", {"wanted": {"text": "whaling iron"}})
    assert {point["rank"] for point in seen["points"]} >= {0, 1, 2, 3}
    assert client.put(f"{SALTMERE}/spaces/titles", json={"document": document}).status_code == 422
    assert client.delete(f"{SALTMERE}/spaces/titles").status_code == 204
    assert client.get(f"{SALTMERE}/spaces/titles").status_code == 404


def test_vectors_are_brought_by_upload(client: TestClient):
    assert client.put(f"{SALTMERE}/spaces/own", json={"document": {"source": {"kind": "brought"}}}).status_code == 200
    uploads: list[str] = []
    array = io.BytesIO()
    np.save(array, np.eye(3))
    for name, content in (("v.npy", array.getvalue()), ("keys.txt", b"sm0001\nsm0002\nno such\n")):
        answer = client.post(f"/api/uploads?name={name}", content=content)
        uploads.append(answer.json()["upload"])
    body = {"about": "record", "vectors": uploads[0], "names": uploads[1]}
    brought = post(client, "/spaces/own/brought", body)
    assert (brought["kept"], brought["wrong"]) == (2, ["Line 3: no such is no record's key."])
    assert ended(client, f"{SALTMERE}/spaces/own")["report"]["vectors"] == 2
    client.delete(f"{SALTMERE}/spaces/own")


@pytest.mark.parametrize(
    ("path", "body", "status", "said"),
    [
        ("/spaces/nowhere/nearest", {"text": "x"}, 404, "There is no space"),
        ("/spaces/everyday/nearest", {"text": ""}, 422, "Nothing is looked for"),
        ("/spaces/everyday/nearest", {"liked": ["nobody"]}, 404, "no record with the key"),
        ("/spaces/everyday/nearest", {"liked": ["x"] * 51}, 422, "liked"),
        ("/lists", {"query": "x"}, 422, "asks no space"),
        ("/judged/visitors/sides", {"measure": "magic"}, 422, "There is no measure"),
        ("/judged/visitors/sides", {"ranker": {"name": "first"}}, 422, "asks no space"),
        ("/spaces/everyday/fill", {"later": True}, 422, "later"),
    ],
)
def test_what_cannot_be_done_is_said(client: TestClient, path: str, body: Any, status: int, said: str):
    response = client.post(f"{SALTMERE}{path}", json=body)
    assert response.status_code == status
    assert said in response.text
