"""The API: true to its document, and in words when something is wrong."""

import os
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pale_harbor.api.routes import LARGEST_BODY
from tests.conftest import ROOT
from tools.write_openapi import openapi_text

SEARCH = "/api/collections/saltmere/search"
MEET = "/api/collections/saltmere/meet"


def problem(response: Any, status: int) -> dict[str, Any]:
    """The problem document of a refusal."""
    assert response.status_code == status, response.text
    assert response.headers["content-type"] == "application/problem+json"
    body = response.json()
    assert body["status"] == status
    assert body["detail"]
    assert "Traceback" not in response.text
    return body


def test_the_committed_openapi_document_is_the_apis_own():
    committed = (ROOT / "frontend/openapi.json").read_text("utf-8")
    assert committed == openapi_text(), "run: python tools/write_openapi.py && npm --prefix frontend run types"


def test_health_tells_that_all_is_well(client: TestClient):
    assert client.get("/api/health").json() == {
        "started": True,
        "ready": True,
        "process": os.getpid(),
        "version": "0.1.0",
        "detail": "the database answers",
    }


def test_a_search_tells_where_every_score_came_from(client: TestClient):
    answer = client.post(SEARCH, json={"query": "lighthouse keepers", "top": 5}).json()
    assert answer["matched"] > 5
    assert [row["rank"] for row in answer["results"]] == [1, 2, 3, 4, 5]
    for row in answer["results"]:
        assert sum(row["source_scores"]) == pytest.approx(row["score"])
        why = client.post(
            "/api/collections/saltmere/why", json={"query": "lighthouse keepers", "key": row["key"]}
        ).json()
        assert why["score"] == row["score"]
        assert sum(part["score"] for part in why["readings"]) == pytest.approx(row["score"])


def test_a_draft_is_searched_without_being_kept(client: TestClient):
    before = client.get("/api/collections/saltmere/rankers").json()
    draft = {"readings": [{"field": "maker", "chain": "words > lower > accents"}]}
    answer = client.post(SEARCH, json={"query": "ASMOE", "ranker": {"document": draft}}).json()
    assert {row["field_values"]["maker"] for row in answer["results"]} == {"Ragnhild Åsmoe"}
    assert client.get("/api/collections/saltmere/rankers").json() == before


def test_a_draft_is_measured_beside_the_kept_ranker(client: TestClient):
    address = "/api/collections/saltmere/judged/visitors/measure"
    kept = client.post(address, json={"measures": ["ndcg@10", "ap"]}).json()
    document = client.get("/api/collections/saltmere/rankers/first").json()["document"]
    same = client.post(address, json={"measures": ["ndcg@10", "ap"], "ranker": {"document": document}}).json()
    assert same["figures"]["measured"] == kept["figures"]["measured"]
    assert (kept["made_of"]["ranker"], same["made_of"]["ranker"]) == ("first", None)


def test_two_texts_meet(client: TestClient):
    chain = "words > lower > stopwords(en) > stem(en)"
    ask = {"record_chain": chain, "query_chain": chain, "text": "The lighthouse keepers", "query": "keeper of horns"}
    answer = client.post(MEET, json=ask).json()
    assert [stage["stage"] for stage in answer["record_stages"]] == ["words", "lower", "stopwords(en)", "stem(en)"]
    assert [mooring["record_tokens"] for mooring in answer["moorings"]] == [[1], []]
    assert answer["record_stages"][2]["dropped"] == [0]


def test_two_texts_and_their_chains_are_shown_up_to_a_size(client: TestClient, monkeypatch: pytest.MonkeyPatch):
    # 1,000 letters by four stages, and four by one.
    monkeypatch.setattr("pale_harbor.api.chains.routes.MOST_LETTERS_SHOWN", 4_004)
    ask = {"record_chain": "words > lower > stem(en) > lower", "query_chain": "words", "query": "fog "}
    assert client.post(MEET, json={**ask, "text": "x" * 1_000}).status_code == 200
    refused = client.post(MEET, json={**ask, "text": "x" * 1_001})
    assert refused.status_code == 422
    assert "are 4,008; 4,004 are shown at most" in refused.json()["detail"]


def test_a_chain_that_cannot_be_read_is_told_beside_the_one_that_can(client: TestClient):
    ask = {"record_chain": "words > stm(en)", "query_chain": "words", "text": "a", "query": "b"}
    answer = client.post(MEET, json=ask).json()
    assert answer["record_problem"]["place"] == {"line": 1, "column": 9, "length": 3}
    assert answer["record_problem"]["nearest"] == "stem"
    assert answer["query_problem"] is None
    assert len(answer["query_stages"]) == 1


def test_every_stage_explains_itself(client: TestClient):
    for stage in client.get("/api/stages").json():
        assert stage["summary"].endswith(".")
        assert stage["example"]


@pytest.mark.parametrize(
    "query", ["", " ", "the of and", "—", "\x00", "\ud800", "ﷺ" * 500, "a " * 5_000, "\u202e" * 100]
)
def test_odd_queries_have_a_sensible_answer(client: TestClient, query: str):
    import json

    body = json.dumps({"query": query})
    response = client.post(SEARCH, content=body, headers={"content-type": "application/json"})
    assert response.status_code == 200, response.text
    assert response.json()["matched"] == len(response.json()["results"]) or response.json()["matched"] > 10


@pytest.mark.parametrize(
    ("body", "where"),
    [
        ({"query": "x" * 10_001}, "query"),
        ({"query": 3}, "query"),
        ({}, "query"),
        ({"query": "x", "top": 0}, "top"),
        ({"query": "x", "top": 10**9}, "top"),
        ({"query": "x", "ranker": {"nmae": "first"}}, "ranker.nmae"),
    ],
)
def test_a_wrong_request_is_told_where(client: TestClient, body: object, where: str):
    assert problem(client.post(SEARCH, json=body), 422)["problems"][0]["where"] == where


def test_a_wrong_ranker_is_told_with_its_path(client: TestClient):
    draft = {"readings": [{"field": "title", "chain": "words", "wieght": 2}]}
    told = problem(client.post(SEARCH, json={"query": "x", "ranker": {"document": draft}}), 422)
    assert told["problems"] == [{"where": "readings[0]", "what": 'unknown key "wieght". Did you mean "weight"?'}]


def test_what_is_not_there_is_not_found(client: TestClient):
    for address in (
        "/api/collections/nowhere",
        "/api/collections/a%00b",
        "/api/collections/saltmere/rankers/none",
        "/api/collections/saltmere/rankers/a%00b",
        "/api/collections/saltmere/judged/none",
        "/api/collections/saltmere/record?key=none",
        "/api/collections/saltmere/record?key=sm00%0001",
        "/api/nothing",
    ):
        problem(client.get(address), 404)


@pytest.mark.parametrize(("version", "status"), [(0, 422), (1, 200), (2**31 - 1, 404), (2**31, 422)])
def test_a_version_is_a_number_that_the_database_can_hold(client: TestClient, version: int, status: int):
    assert client.get(f"/api/collections/saltmere/rankers/first?version={version}").status_code == status
    chosen = {"query": "bell", "ranker": {"name": "first", "version": version}}
    assert client.post(SEARCH, json=chosen).status_code == status


def test_an_unknown_measure_is_told(client: TestClient):
    address = "/api/collections/saltmere/judged/visitors/measure"
    assert "ndcg@k" in problem(client.post(address, json={"measures": ["ncdg@10"]}), 422)["detail"]


@pytest.mark.parametrize("body", [b"{", b"[]", b"null", b"\xff\xfe", b'{"query": "\\ud800', b"[" * 50_000])
def test_a_body_that_is_no_request_is_refused_in_words(client: TestClient, body: bytes):
    response = client.post(SEARCH, content=body, headers={"content-type": "application/json"})
    problem(response, 400 if response.status_code == 400 else 422)


def test_a_body_that_is_too_large_or_of_unknown_length_is_refused(client: TestClient):
    large = b'{"query": "' + b"x" * LARGEST_BODY + b'"}'
    problem(client.post(SEARCH, content=large), 413)
    problem(client.post(SEARCH, content=iter([b"{", b"}"])), 413)


def test_a_stranger_name_for_this_machine_is_refused(client: TestClient):
    assert client.get("/api/health", headers={"host": "evil.example"}).status_code == 400


def test_nothing_may_be_fetched_from_outside(client: TestClient):
    assert "default-src 'self'" in client.get("/api/health").headers["content-security-policy"]


def test_a_chain_is_saved_in_versions(client: TestClient):
    address = "/api/collections/saltmere/chains/tidy"
    assert client.put(address, json={"notation": "words>lower"}).json()["notation"] == "words > lower"
    assert client.put(address, json={"notation": "words"}).json()["version"] == 2
    assert problem(client.put(address, json={"notation": "wrods"}), 422)["place"]["column"] == 1
    expected = {"name": "tidy", "version": 2, "notation": "words", "used_by": []}
    assert expected in client.get("/api/collections/saltmere/chains").json()


_json = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
    max_leaves=6,
)


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(document=_json, query=st.text(max_size=12))
def test_no_draft_however_odd_breaks_the_server(client: TestClient, document: object, query: str):
    import json

    body = json.dumps({"query": query, "ranker": {"document": document}})
    response = client.post(SEARCH, content=body, headers={"content-type": "application/json"})
    assert response.status_code in (200, 422), response.text


WHY_NOT = "/api/collections/saltmere/why-not"


def test_a_misspelt_query_is_asked_why_not_and_mended(client: TestClient):
    found = client.post(WHY_NOT, json={"query": "harpon", "key": "sm0001"}).json()
    assert found["why"]["rank"] is None
    assert found["missing"][0]["near"][0]["said"] == "harpoon"
    suggestion = next(one for one in found["suggestions"] if "slack" in one["words"])
    draft = {"name": "first", "document": suggestion["document"]}
    listed = client.post(SEARCH, json={"query": "harpon", "ranker": draft}).json()
    assert listed["results"][suggestion["rank"] - 1]["key"] == "sm0001"
    said = client.post(
        "/api/collections/saltmere/rankers/differences", json={"before": {"name": "first"}, "after": draft}
    ).json()
    assert said == {
        "differences": [
            {
                "what": "spelling slack",
                "before": "off",
                "after": "by length",
                "words": "spelling slack off to by length",
            }
        ]
    }


def test_a_list_is_narrowed_counted_sorted_and_leafed_through(client: TestClient):
    asked = {
        "query": "bell -school",
        "filters": [{"field": "kind", "one_of": ["object"]}],
        "facets": [{"field": "kind"}, {"field": "year", "step": 50}],
        "sort": ["-year"],
        "top": 5,
        "skip": 5,
    }
    found = client.post(SEARCH, json=asked).json()
    assert found["read_as"] == "bell, without school"
    assert [row["rank"] for row in found["results"]] == [6, 7, 8, 9, 10]
    years = [row["field_values"].get("year", 0) for row in found["results"]]
    assert years == sorted(years, reverse=True)
    assert {row["field_values"]["kind"] for row in found["results"]} == {"object"}
    kinds = {one["value"]: one["count"] for one in found["facets"]["kind"]}
    assert kinds["object"] == found["matched"] < sum(kinds.values())


def test_fields_that_are_not_there_are_named(client: TestClient):
    for wrong in ({"filters": [{"field": "kid", "has": True}]}, {"sort": ["kid"]}, {"facets": [{"field": "kid"}]}):
        refused = client.post(SEARCH, json={"query": "bell", **wrong})
        assert refused.status_code == 422
        assert refused.json()["problems"][0]["where"] == "kid"
        assert 'Did you mean "kind"?' in refused.json()["problems"][0]["what"]


def test_pooled_readings_signals_and_lifts_are_explained(client: TestClient):
    document = {
        "readings": [{"field": f, "chain": "words > lower > stem(en)"} for f in ("title", "description")],
        "combine": {"how": "pooled"},
        "signals": [{"field": "visitor_requests", "shape": "log", "scale": 10, "weight": 0.2}],
        "rules": [{"do": {"lift": ["sm0001"], "by": 2}, "reason": "on show"}],
    }
    draft = {"document": document}
    for row in client.post(SEARCH, json={"query": "harpoon head", "ranker": draft}).json()["results"]:
        why = client.post(
            "/api/collections/saltmere/why", json={"query": "harpoon head", "key": row["key"], "ranker": draft}
        ).json()
        assert (why["score"], why["rank"]) == (row["score"], row["rank"])
        total = sum(term["score"] for term in why["pool"]) + why["signals"][0]["amount"]
        assert total * (2 if row["key"] == "sm0001" else 1) == pytest.approx(why["score"])
        assert sum(row["source_scores"]) == pytest.approx(row["score"])


def test_a_ranker_with_wrong_fields_says_where(client: TestClient):
    document = {
        "readings": [{"field": "title", "chain": "words"}],
        "signals": [{"field": "visitor_request", "shape": "log"}],
        "rules": [{"do": {"look_in": "makr"}}],
    }
    refused = client.post(SEARCH, json={"query": "bell", "ranker": {"document": document}}).json()
    assert [one["where"] for one in refused["problems"]] == ["signals[0].field", "rules[0].do.look_in"]


def test_a_draft_is_kept_over_http_and_one_that_cannot_be_told_again_is_refused(client: TestClient):
    path = "/api/collections/saltmere/drafts"
    document = {"readings": [{"field": "title", "chain": "words"}]}
    base = {"ranker": "first", "version": 1}
    own = client.post(path, json={**base, "document": document}).json()["id"]
    for bad in ('{"a": "\\ud800"}', f'{{"a": {10**30}}}'):
        body = f'{{"ranker": "first", "version": 1, "document": {bad}}}'
        headers = {"content-type": "application/json"}
        assert client.post(path, content=body, headers=headers).status_code == 422
        assert client.put(f"{path}/{own}", content=f'{{"document": {bad}}}', headers=headers).status_code == 422
    assert client.put(f"{path}/{own}", json={"document": {"a": "\x00"}}).status_code == 200
    (told,) = (one for one in client.get(path).json() if one["id"] == own)
    assert (told["document"], told["says"]) == ({"a": "\x00"}, [])
    assert told["problem"]
    assert client.post(path, json={"ranker": "first", "version": 99, "document": document}).status_code == 404
    assert client.delete(f"{path}/{own}").status_code == 204
    assert client.put(f"{path}/{own}", json={"document": document}).status_code == 404
