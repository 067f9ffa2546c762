"""Tunings over HTTP: knobs are offered, a tuning is begun, followed, stopped, forgotten."""

import re
from typing import Any

from fastapi.testclient import TestClient

from tests.api.jobs import ended

TUNINGS = "/api/collections/saltmere/tunings"
BEGIN = "/api/collections/saltmere/judged/visitors/tunings"
PLAN = {"ranker": "first", "version": 1, "knobs": ["readings.title.weight=1,3,6"], "folds": 3}


def begun(client: TestClient, **more: Any) -> int:
    answer = client.post(BEGIN, json=PLAN | more)
    assert answer.status_code == 200, answer.text
    return int(answer.json()["id"])


def test_knobs_are_offered_as_they_are_asked_for(client: TestClient):
    offered = client.post("/api/collections/saltmere/tuning-knobs", json={"name": "first"}).json()
    assert offered[0] == {
        "name": "title weight",
        "place": "readings[0].weight",
        "values": "0.3, 0.75, 1.5, 2.25, 3, 4.5, 6, 9, 12",
        "standing": "3",
        "is_usual": True,
    }
    lines = [f"{one['place']}={one['values']}" for one in offered]
    assert client.post(BEGIN, json=PLAN | {"knobs": lines, "seconds": 1}).status_code == 200


def test_words_needed_and_chains_are_offered_and_left_alone(client: TestClient):
    offered = client.post("/api/collections/saltmere/tuning-knobs", json={"name": "first"}).json()
    others = {one["place"]: one for one in offered if not one["is_usual"]}
    assert list(others)[:2] == ["need", "readings[0].chain"]
    assert (others["need"]["standing"], others["need"]["values"]) == ("any", "any, all")
    chain = others["readings[0].chain"]
    values = re.split(r" \| |, ", chain["values"])
    assert values[0] == chain["standing"] == "nfkc > words > lower > accents > stopwords(en) > stem(en)"
    # Without each stage but the one that cuts, then the saved chains.
    assert values[1:6] == [
        "words > lower > accents > stopwords(en) > stem(en)",
        "nfkc > words > accents > stopwords(en) > stem(en)",
        "nfkc > words > lower > stopwords(en) > stem(en)",
        "nfkc > words > lower > accents > stem(en)",
        "nfkc > words > lower > accents > stopwords(en)",
    ]
    assert all(one.startswith("@") for one in values[6:])
    assert len(values) <= 12


def test_a_tuning_is_done_by_the_server_and_told_with_its_report(client: TestClient):
    number = begun(client, rails=["index at most 1x"])
    told = ended(client, f"{TUNINGS}/{number}")
    assert told["state"] == "done"
    report = told["report"]
    assert report["queries"] == 99
    assert [one["name"] for one in report["knobs"]] == ["title weight"]
    assert report["rails"] == [{"text": "index at most 1x", "holds": True}]
    # The mean of a knob is what a turn of it gives.
    turns = client.post(
        "/api/collections/saltmere/judged/visitors/turns",
        json={
            "ranker": {"name": "first"},
            "turns": [{"path": ["readings", 0, "weight"], "value": v} for v in (1, 3, 6)],
        },
    ).json()
    assert report["knobs"][0]["means"] == [one["mean"] for one in turns["turned"]]
    assert report["before"] == turns["standing"]["mean"]
    listed = client.get(TUNINGS).json()
    assert listed[0]["id"] == number
    assert (listed[0]["report"], listed[0]["said"]) == (None, told["said"])
    page = client.get(f"{TUNINGS}/{number}/page").json()["markdown"]
    assert page.startswith("# first:1 tuned on visitors of saltmere")
    assert client.delete(f"{TUNINGS}/{number}").status_code == 204
    gone = client.get(f"{TUNINGS}/{number}")
    assert gone.status_code == 404
    assert "has no tuning" in gone.json()["detail"]


def test_a_tuning_is_stopped_and_keeps_what_it_found(client: TestClient):
    number = begun(
        client, way="random", most=20_000, knobs=["readings.title.b=0..1/0.01", "readings.description.b=0..1/0.01"]
    )
    assert client.post(f"{TUNINGS}/{number}/stop").status_code == 200
    told = ended(client, f"{TUNINGS}/{number}")
    assert told["state"] == "done"
    assert told["report"]["ended"] == "it was stopped"


def test_what_cannot_be_tuned_is_refused_in_words(client: TestClient):
    for more, says in (
        ({"knobs": ["weight"]}, "is no knob"),
        ({"knobs": [{"path": ["readings", 0, "weight"]}]}, "knobs"),
        ({"rails": ["tag:nothing rr >= 1"]}, "no open query has the tag"),
        ({"ranker": "nobody"}, "nobody"),
        ({"folds": 1}, "folds"),
    ):
        answer = client.post(BEGIN, json=PLAN | more)
        assert answer.status_code in (404, 422), (more, answer.text)
        assert says in answer.text
