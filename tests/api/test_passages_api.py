"""Passages over HTTP: offsets and plain text, whatever records hold."""

from fastapi.testclient import TestClient

from tests.api.test_api import problem

SALTMERE = "/api/collections/saltmere"
FIRST = {"name": "first", "version": 1}


def test_a_search_gives_passages_and_offsets_as_asked(client: TestClient):
    body = {"query": "sextant lead", "ranker": FIRST, "passages": {"length": 120, "most": 2}, "top": 5}
    rows = client.post(f"{SALTMERE}/search", json=body).json()["results"]
    for row in rows:
        for one in row["passages"]:
            values = row["field_values"][one["field"]]
            whole = "\n".join(values) if isinstance(values, list) else values
            assert whole[one["start"] : one["end"]] == one["text"]
            assert len(one["text"]) <= 2 * 120 + 2
    plain = client.post(f"{SALTMERE}/search", json={**body, "passages": None}).json()["results"]
    assert all(row["passages"] == [] for row in plain)
    units = client.post(f"{SALTMERE}/search", json={**body, "offsets": "utf16"}).json()["results"]
    assert [row["marks"] for row in units] == [row["marks"] for row in rows]
    problem(client.post(f"{SALTMERE}/search", json={**body, "offsets": "bytes"}), 422)
    problem(client.post(f"{SALTMERE}/search", json={**body, "passages": {"length": 39}}), 422)


def test_a_program_gets_the_best_passages_of_a_list(client: TestClient):
    body = {"query": "what did sailors eat", "ranker": {"name": "blended", "version": 1}, "letters": 1_500}
    told = client.post(f"{SALTMERE}/search/passages", json=body).json()
    assert 0 < told["letters"] <= 1_500
    assert told["records"] == 30
    assert len({one["key"] for one in told["passages"]}) > 1
    problem(client.post(f"{SALTMERE}/search/passages", json={**body, "letters": 39}), 422)
