"""Judging and comparing over HTTP: what goes in comes out, secrets stay in, and refusals are in words."""

from datetime import UTC, datetime
from typing import Any

import pytest
from fastapi.testclient import TestClient

SET = "/api/collections/saltmere/judged/own"
QUERIES = "q1\tfog bell\nq2\tharpoon\n"


@pytest.fixture(scope="module")
def own(client: TestClient) -> TestClient:
    """A judged set of this file's own beside the demo's."""
    files = {"queries": QUERIES, "judgments": "q1 0 sm0029 3\nq1 0 sm0001 0\n"}
    answer = client.put(f"{SET}/files", json=files)
    assert answer.json() == {"queries": 2, "grades": 2, "revision": 1, "unknown_records": []}
    return client


def refused(answer: Any) -> str:
    assert answer.status_code in (404, 422), answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    return answer.json()["detail"]


def test_the_demos_set_is_summed_up(client: TestClient):
    found = {one["name"]: one for one in client.get("/api/collections/saltmere/judged").json()}
    visitors = found["visitors"]
    assert (visitors["queries"], visitors["locked"], visitors["grades"]) == (124, 25, 3961)
    assert (visitors["settling"], visitors["expectations"]) == ("median", 3)
    assert all(visitors["meanings"])


def test_everyday_looking_shows_no_locked_query(client: TestClient):
    shown = client.get("/api/collections/saltmere/judged/visitors").json()
    every = client.get("/api/collections/saltmere/judged/visitors/queries").json()
    assert (len(shown["queries"]), shown["locked"], len(every)) == (99, 25, 124)
    locked = {one["query_id"] for one in every if one["locked"]}
    assert locked.isdisjoint(one["query_id"] for one in shown["queries"])


def test_a_set_is_made_filled_changed_and_dropped(client: TestClient):
    made = "/api/collections/saltmere/judged/passing"
    assert client.post(made, json={"locked_share": 0}).status_code == 200
    assert "already" in refused(client.post(made, json={}))
    added = client.post(f"{made}/queries", json={"query": "net needle", "need": "One.", "tags": ["a"]}).json()
    assert added["query_id"] == "q1"
    assert client.post(f"{made}/list", json={"text": "rope\t7\nnet needle\t3\n"}).json()["added"] == 1
    client.put(f"{made}/queries/q2", json={"query": "ropes", "asked": 9})
    client.post(f"{made}/lock", json={"share": 0.5})
    listed = client.get(f"{made}/queries").json()
    assert [(one["query"], one["asked"]) for one in listed] == [("net needle", 3), ("ropes", 9)]
    assert sum(one["locked"] for one in listed) == 1
    assert client.delete(f"{made}/queries/q2").status_code == 204
    assert "has no query" in refused(client.delete(f"{made}/queries/q2"))
    assert client.delete(made).status_code == 204
    assert "There is no judged set" in refused(client.get(made))


def test_files_go_out_in_each_form_as_attachments(own: TestClient):
    columns = own.get(f"{SET}/files/judgments?form=columns")
    assert columns.text == "q1 0 sm0001 0\nq1 0 sm0029 3\n"
    assert columns.headers["content-disposition"] == 'attachment; filename="own-judgments.txt"'
    assert own.get(f"{SET}/files/queries?form=columns").text == QUERIES
    assert own.get(f"{SET}/files/queries?form=csv").text.splitlines()[0].startswith("query_id,query,need,tags")
    assert own.get(f"{SET}/files/queries?form=xml").status_code == 422


def test_files_with_another_scale_are_refused_until_it_is_told(own: TestClient):
    files = {"queries": QUERIES, "judgments": "q1 0 sm0029 4\n"}
    other = "/api/collections/saltmere/judged/scaled/files"
    answer = own.put(other, json=files)
    assert refused(answer) == "The judgments cannot be used."
    assert answer.json()["problems"][0]["what"].startswith("its grades are 4. Say what they are here with a scale")
    assert own.put(other, json=files | {"scale": "4=3"}).json()["grades"] == 1
    own.delete("/api/collections/saltmere/judged/scaled")


def test_a_judge_judges_by_link_and_two_say_it_at_once(own: TestClient):
    task = {"name": "a task", "judges": ["Ada", "Bo"], "sides": [{"ranker": {"name": "first"}}], "depth": 3, "twice": 1}
    made = own.post(f"{SET}/tasks", json=task).json()[0]
    ada, bo = (judge["path"] for judge in made["judges"])
    desk = own.get(f"/api{ada}").json()
    assert (desk["judge"], desk["collection"], desk["judged_set"], desk["closed"]) == ("Ada", "saltmere", "own", False)
    query = desk["queries"][0]
    records = own.get(f"/api{ada}/queries/{query['query_id']}").json()
    assert [one["key"] for one in records] == query["record_keys"]
    for path, grade in ((ada, 3), (bo, 1), (ada, 3)):
        said = {
            "query_id": query["query_id"],
            "record_key": query["record_keys"][0],
            "grade": grade,
            "at": datetime(2031, 5, 17, tzinfo=UTC).isoformat(),
        }
        assert own.post(f"/api{path}/said", json={"said": [said]}).status_code == 200
    assert own.get(f"/api{ada}").json()["said"][0]["grade"] == 3
    assert [judge["judged"] for judge in own.get(f"{SET}/tasks").json()[0]["judges"]] == [1, 1]
    standing = own.get(f"{SET}/standing").json()
    assert [(one["query_id"], len(one["given"])) for one in standing["conflicts"]] == [(query["query_id"], 2)]
    settle = {"query_id": query["query_id"], "record_key": query["record_keys"][0], "grade": 2}
    assert own.post(f"{SET}/settle", json=settle).json()["conflicts"][0]["counts"] == 2
    assert own.post(f"{SET}/tasks/{made['id']}/close", json={"closed": True}).json()[0]["closed"]
    assert "This task is closed" in refused(own.post(f"/api{ada}/said", json={"said": [said]}))
    assert own.delete(f"{SET}/tasks/{made['id']}").json() == []
    assert "leads to no judging task" in refused(own.get(f"/api{ada}"))


def test_what_a_judge_sends_must_make_sense(own: TestClient):
    said = {"query_id": "q1", "record_key": "sm0001", "grade": 3, "at": "2031-05-17T09:30:00"}
    assert own.post("/api/judge/nobody/said", json={"said": [said]}).status_code == 422
    zoned = said | {"at": "2031-05-17T09:30:00Z"}
    assert own.post("/api/judge/nobody/said", json={"said": [zoned | {"grade": 4}]}).status_code == 422
    assert own.post("/api/judge/nobody/said", json={"said": [zoned]}).status_code == 404


def test_a_measurement_tells_its_rules_bands_unjudged_and_broken(client: TestClient):
    path = "/api/collections/saltmere/judged/visitors/measure"
    asked = {"ranker": {"name": "first"}, "measures": ["ndcg@10", "rr"]}
    usual = client.post(path, json=asked).json()
    assert usual["figures"]["bands"] == {}
    assert len(usual["figures"]["measured"]["per_query"]) == 99
    assert [one["expectation"]["kind"] for one in usual["figures"]["broken"]] == ["among_first", "more_than"]
    more = client.post(path, json=asked | {"how": {"unjudged": "left_out", "weighted": True}}).json()
    assert more["figures"]["measured"]["means"]["ndcg@10"] != usual["figures"]["measured"]["means"]["ndcg@10"]
    banded = client.post(path, json=asked | {"how": {"bands": True}}).json()
    assert banded["figures"]["measured"]["means"] == usual["figures"]["measured"]["means"]
    assert banded["figures"]["bands"]["rr"]["worst"] == pytest.approx(usual["figures"]["measured"]["means"]["rr"])
    assert banded["figures"]["bands"]["rr"]["best"] > usual["figures"]["measured"]["means"]["rr"]
    assert client.post(path, json=asked | {"how": {"ties": "perhaps"}}).status_code == 422


def test_runs_are_listed_and_measured_again(client: TestClient):
    path = "/api/collections/saltmere/judged/visitors"
    now = client.post(f"{path}/measure", json={"ranker": {"name": "first"}, "measures": ["ap"]}).json()
    run = next(one for one in client.get(f"{path}/runs").json() if one["ranker"] == "first")
    again = client.post(
        f"{path}/runs/{run['id']}/measure", json={"measures": ["ap"], "revision": now["made_of"]["judged_revision"]}
    )
    assert again.json()["figures"]["measured"]["means"] == now["figures"]["measured"]["means"]


def test_rankers_are_compared_and_the_owner_gets_a_page(client: TestClient):
    path = "/api/collections/saltmere/judged/visitors"
    old, first = {"outside": "old-search-box"}, {"ranker": {"name": "first"}}
    found = client.post(
        f"{path}/overview", json={"sides": [old, first], "measures": ["ndcg@10"], "how": {"bands": True}}
    ).json()
    assert [row["name"] for row in found["rows"]] == ["old-search-box", "first:1"]
    gain, p_value, corrected = found["rows"][1]["against_first"]["ndcg@10"]
    assert gain > 0.1
    assert p_value <= corrected < 0.01
    head = client.post(f"{path}/compare", json={"first": old, "second": first}).json()
    assert head["comparison"]["gain"] == pytest.approx(gain)
    assert head["comparison"]["queries"] == sum(head["comparison"][name] for name in ("gained", "lost", "tied")) == 99
    assert head["part"] == "open"
    page = client.post(f"{path}/owner-page", json={"first": old, "second": first}).json()
    assert page["facts"]["verdict"] == "Yes, it is better."
    assert page["markdown"].startswith("# Is the proposed search better than today's?")
    decided = client.post(
        "/api/collections/saltmere/diary",
        json={"title": "Take it.", "body": "Far better.", "details": {"rankers": page["names"]}},
    ).json()
    assert decided["kind"] == "decision"
    page = client.post(f"{path}/owner-page", json={"first": old, "second": first}).json()
    assert [one["title"] for one in page["facts"]["decisions"]] == ["Take it."]


def test_what_an_outside_rankers_headers_hold_is_told_to_nobody(own: TestClient):
    document = {"kind": "service", "address": "http://127.0.0.1:9/{query}", "keys": "[]", "headers": ["X-Key"]}
    answer = own.put(
        "/api/collections/saltmere/outside/secret", json={"document": document, "secrets": {"X-Key": "open sesame"}}
    )
    assert answer.status_code == 200
    for text in (answer.text, own.get("/api/collections/saltmere/outside").text):
        assert "X-Key" in text
        assert "sesame" not in text
    wrong = own.put("/api/collections/saltmere/outside/secret", json={"document": document | {"keys": "a..b"}})
    assert "cannot be used" in refused(wrong)
    assert own.delete("/api/collections/saltmere/outside/secret").status_code == 204


def test_a_run_file_comes_in_over_http(own: TestClient):
    run = {"judged_set": "own", "text": "q1 Q0 sm0029 1 2.5 x\nq7 Q0 a 1 1 x\n", "file": "run.txt"}
    assert own.put("/api/collections/saltmere/outside/brought/run", json=run).json() == {
        "lists": 1,
        "unknown_queries": ["q7"],
    }
    kept = next(one for one in own.get("/api/collections/saltmere/outside").json() if one["name"] == "brought")
    assert (kept["kind"], kept["lists"]) == ("file", {"own": 1})
    own.delete("/api/collections/saltmere/outside/brought")


def test_a_complaint_is_a_query_a_grade_and_an_expectation(own: TestClient):
    complaint = {
        "query": "harpon",
        "complaint": "She found nothing.",
        "record_key": "sm0001",
        "grade": 3,
        "kind": "among_first",
        "number": 3,
    }
    query_id = own.post(f"{SET}/complaints", json=complaint).json()["query_id"]
    expected = own.get(f"{SET}/expectations").json()
    assert [(one["query_id"], one["said"]) for one in expected] == [(query_id, "sm0001 among the first 3")]
    assert own.delete(f"{SET}/expectations/{expected[0]['id']}").json() == []
    assert "no record" in refused(own.post(f"{SET}/complaints", json=complaint | {"record_key": "nothing"}))


NUL = "a\x00b"
ITEM = {"query_id": "q2", "record_key": "sm0029"}


@pytest.mark.parametrize(
    ("method", "path", "body", "where"),
    [
        ("post", "/queries", {"query": NUL}, "query"),
        ("post", "/queries", {"query": " \t"}, "query"),
        ("post", "/queries", {"query": "bell", "tags": [NUL]}, "tags.0"),
        ("post", "/queries", {"query": "bell", "language": NUL}, "language"),
        ("post", "/complaints", {"query": "bell", "complaint": NUL}, "complaint"),
        ("post", "/tasks", {"name": "t", "judges": [NUL]}, "judges.0"),
        ("post", "/settle", {"query_id": "q1", "record_key": NUL, "grade": 1}, "record_key"),
    ],
)
def test_what_cannot_be_kept_is_refused_at_its_place(own: TestClient, method: str, path: str, body: Any, where: str):
    answer = own.request(method, SET + path, json=body)
    assert (answer.status_code, answer.json()["problems"][0]["where"]) == (422, where)


def test_a_name_that_nothing_can_have_is_refused_in_words(own: TestClient):
    answer = own.put(f"{SET}/queries/a%00b", json={"query": "bell"})
    assert answer.status_code == 422
    assert "NUL character" in answer.json()["detail"]


def test_an_id_that_is_too_long_is_refused_and_not_cut(own: TestClient):
    assert own.put(f"{SET}/queries/{'q' * 201}", json={"query": "bell"}).status_code == 422
    assert not [one for one in own.get(f"{SET}/queries").json() if one["query_id"].startswith("qq")]


@pytest.mark.parametrize("at", ["9999-12-31T23:59:59-12:00", "0001-01-01T00:00:00+12:00", "1899-12-31T23:59:59Z"])
def test_a_moment_that_no_clock_shows_is_refused(own: TestClient, at: str):
    made = own.post(f"{SET}/tasks", json={"name": "t", "judges": ["Ada"], "same": ["Ada"], "items": [ITEM]}).json()
    path = made[0]["judges"][0]["path"]
    answer = own.post(f"/api{path}/said", json={"said": [ITEM | {"grade": 3, "at": at}]})
    assert (answer.status_code, answer.json()["problems"][0]["where"]) == (422, "said.0.at")
    assert own.get(f"/api{path}").json()["said"] == []
