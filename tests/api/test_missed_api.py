"""What is missed and what is near a word, over HTTP."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import problem

AT = "/api/collections/saltmere"
MISSED = f"{AT}/judged/visitors/missed"
FIRST = {"name": "first", "version": 1}


def test_what_is_missed_of_one_query_is_what_is_missed_of_it_in_the_set(client: TestClient):
    whole = client.post(MISSED, json={"ranker": FIRST}).json()
    assert (whole["depth"], len(whole["queries"])) == (10, 96)
    one = next(query for query in whole["queries"] if query["query"] == "harpon")
    assert (one["good"], one["found"], one["recall"]) == (26, 0, 0.0)
    alone = client.post(MISSED, json={"ranker": FIRST, "query_ids": [one["query_id"]]}).json()["queries"]
    assert [query["query_id"] for query in alone] == [one["query_id"]]
    # Of one query every reason is told; of many each has its share.
    assert [record["key"] for record in alone[0]["records"]][:20] == [record["key"] for record in one["records"]]
    assert (len(alone[0]["records"]), len(one["records"]), one["unexplained"]) == (26, 20, 6)


@pytest.mark.parametrize("body", [{"depth": 0}, {"depth": 1_001}, {"query_ids": ["x" * 201]}, {"depth": 2**70}])
def test_what_a_stranger_asks_of_what_is_missed_is_bounded(client: TestClient, body: dict[str, Any]):
    assert client.post(MISSED, json=body).status_code == 422


def test_a_query_or_a_set_that_is_not_there_is_told(client: TestClient):
    told = problem(client.post(MISSED, json={"query_ids": ["nobody"]}), 404)
    assert told["detail"] == '"visitors" has no open query "nobody".'
    assert client.post(f"{AT}/judged/none/missed", json={}).status_code == 404


def test_the_terms_near_a_word_are_told_for_a_draft(client: TestClient):
    near = client.post(f"{AT}/near-words", json={"query": "harpon", "ranker": FIRST}).json()
    assert near[0]["term"] == "harpon"
    assert near[0]["near"][0]["around"]["text"] == "harpoon"
    assert near[0]["near"][0]["worth"] is None
    assert client.post(f"{AT}/near-words", json={"query": "", "ranker": FIRST}).json() == []
    assert client.post(f"{AT}/near-words", json={"query": "x" * 10_001}).status_code == 422
