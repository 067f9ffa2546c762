"""Corrections over HTTP."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import problem

SALTMERE = "/api/collections/saltmere"
# What visitors of the demo typed badly, and what they meant.
SLIPS = {
    "harpon": "harpoon",
    "sextent": "sextant",
    "tatoos": "tattoos",
    "lightouse clockwork": "lighthouse clockwork",
    "baromiter": "barometer",
    "compas for a boat": "compass for a boat",
    "herrring barell": "herring barrel",
    "lobstr creel": "lobster creel",
    "sailmakers bensh": "sailmakers bench",
    "gansy": "gansey",
}


def corrections(client: TestClient, **more: Any) -> dict[str, Any]:
    document = client.get(f"{SALTMERE}/rankers/first").json()["document"]
    return {"name": "first", "document": {**document, "corrections": more}}


@pytest.mark.parametrize(("said", "meant"), SLIPS.items())
def test_the_slips_of_the_demo_are_mended(client: TestClient, said: str, meant: str):
    told = client.post(f"{SALTMERE}/corrections", json={"query": said, "ranker": corrections(client)}).json()
    assert told["query"] == meant


def test_no_right_query_is_changed_and_misspelled_ones_are_found(client: TestClient):
    body = {"ranker": corrections(client), "judged_set": "visitors", "made_up": 60}
    told = client.post(f"{SALTMERE}/corrections/measured", json=body).json()
    assert told["right_changed"] == 0
    assert told["right_touched"] == 0
    misspelled = [one for one in told["queries"] if one["query"] in SLIPS]
    assert len(misspelled) == 9
    assert all(one["is_told"] for one in misspelled)
    assert sum(one["corrected"] for one in misspelled) / 9 >= 0.65
    assert sum(one["mended"] for one in told["slips"]) >= 0.8 * 60
    assert told["compared"]["interval"]["low"] > 0
    problem(client.post(f"{SALTMERE}/corrections/measured", json={**body, "made_up": 2_001}), 422)
    problem(client.post(f"{SALTMERE}/corrections/measured", json={**body, "judged_set": "none"}), 404)


def test_a_search_tells_it_and_takes_it_where_the_ranker_says_so(client: TestClient):
    asked = {"query": "sextent", "ranker": corrections(client, take="nothing")}
    found = client.post(f"{SALTMERE}/search", json=asked).json()
    assert found["did_you_mean"]["taken"]
    assert found["matched"] == found["did_you_mean"]["finds"] > 0
    # The why is that of the list which is shown.
    why = client.post(f"{SALTMERE}/why", json={**asked, "key": found["results"][0]["key"]}).json()
    assert why["rank"] == 1
    as_said = client.post(f"{SALTMERE}/search", json={**asked, "as_said": True}).json()
    assert as_said["matched"] == 0
    assert not as_said["did_you_mean"]["taken"]
    right = client.post(f"{SALTMERE}/search", json={**asked, "query": "sextant"}).json()
    assert right["did_you_mean"] is None
