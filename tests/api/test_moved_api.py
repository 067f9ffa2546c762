"""What moved between two rankers on one judged query, over HTTP."""

from typing import Any

from fastapi.testclient import TestClient

MOVED = "/api/collections/saltmere/judged/visitors/moved"
SEARCH = "/api/collections/saltmere/search"


def listed(client: TestClient, query: str, ranker: dict[str, Any]) -> list[str]:
    answer = client.post(SEARCH, json={"query": query, "ranker": ranker, "top": 10}).json()
    return [row["key"] for row in answer["results"]]


def test_what_came_and_went_is_the_difference_of_both_first_pages(client: TestClient):
    document = client.get("/api/collections/saltmere/rankers/first").json()["document"]
    document["readings"][0]["weight"] = 0.2
    before, after = {"name": "first"}, {"document": document}
    shown = client.get("/api/collections/saltmere/judged/visitors").json()
    query = next(one for one in shown["queries"] if one["query"] == "old patience ferry")
    moved = client.post(MOVED, json={"query_id": query["query_id"], "before": before, "after": after}).json()
    first, second = (listed(client, query["query"], ranker) for ranker in (before, after))
    assert first != second
    assert {one["key"] for one in moved["came"]} == set(second) - set(first)
    assert {one["key"] for one in moved["went"]} == set(first) - set(second)
    for one in moved["went"]:
        assert first[one["before"] - 1] == one["key"]
        assert one["grade"] == query["grades"].get(one["key"])


def test_a_locked_or_unknown_query_is_not_looked_at(client: TestClient):
    answer = client.post(MOVED, json={"query_id": "no such query"})
    assert answer.status_code == 404
    assert "no open query" in answer.json()["detail"]
