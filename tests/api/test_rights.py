"""Every endpoint asked by every role, by somebody who is a member of nothing, and by nobody."""

from collections.abc import Callable, Generator
from typing import Any

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from pale_harbor.api.app import ROOMS
from pale_harbor.api.rights import TABLE, right_needed
from pale_harbor.store.cluster import Cluster
from pale_harbor.work.people.rights import Right
from tests.api import people
from tests.api.people import EVERYBODY, Town

ROUTES = [route for room in ROOMS for route in room.router.routes if isinstance(route, APIRoute)]


@pytest.fixture(scope="module")
def town(
    cluster: Cluster, empty_database: Callable[[], str], tmp_path_factory: pytest.TempPathFactory
) -> Generator[Town]:
    with people.town(cluster, empty_database, tmp_path_factory.mktemp("town")) as settled:
        yield settled


def test_the_table_has_every_endpoint_once_and_no_other():
    names = [name for names in TABLE.values() for name in names]
    assert len(names) == len(set(names))
    assert set(names) == {route.name for route in ROUTES} | {"alive", "health", "memory", "metrics"}


def test_an_endpoint_that_the_table_does_not_have_is_not_served():
    with pytest.raises(KeyError):
        right_needed("something new")


def asked(route: APIRoute, browser: TestClient, collection: str) -> Any:
    """A request that goes no further than the check of rights where it is refused, and changes nothing elsewhere.

    Its body is no JSON, and numbers are of nothing.
    """
    given = {
        "collection": collection,
        "name": collection if "/collections/{name}" in route.path else "none",
        "token": "x" * 43,
        "number": 900_000,
    }
    path = "/api" + route.path.replace(":path", "")
    for name in route.param_convertors:
        path = path.replace(f"{{{name}}}", str(given.get(name, "9000000")))
    method = next(iter((route.methods or set()) - {"HEAD"}))
    return browser.request(method, path, content=None if method in ("GET", "DELETE") else b"{")


# Streams never end; signing out would be heeded.
WALKED = [route for route in ROUTES if route.name not in ("events", "sign_out")]


@pytest.mark.parametrize("who", EVERYBODY)
def test_every_endpoint_asks_for_its_right(town: Town, who: str):
    browser = town.browsers[who]
    wrong: list[str] = []
    for route in WALKED:
        right = right_needed(route.name)
        answer = asked(route, browser, "ferries")
        about_a_job = "{job_id}" in route.path or "{reckoning_id}" in route.path
        if who == "nobody":
            expected = right is Right.ANYBODY or answer.status_code == 401
        elif right in EVERYBODY[who] or (about_a_job and answer.status_code == 404):
            # What is wrong with the request itself is told, and nothing of rights.
            expected = answer.status_code not in (401, 403)
        elif who == "stranger" and "/collections/" in route.path:
            # Not even whether it is there.
            expected = answer.status_code == 404
        else:
            expected = answer.status_code == 403
        if not expected:
            wrong.append(f"{route.name}: {answer.status_code} {answer.text[:120]}")
    assert wrong == []


def test_a_collection_that_one_may_not_see_is_as_one_that_is_not_there(town: Town):
    there, not_there = (town.browsers["stranger"].get(f"/api/collections/{name}") for name in ("ferries", "nowhere"))
    assert there.status_code == not_there.status_code == 404
    assert there.json()["detail"].replace("ferries", "nowhere") == not_there.json()["detail"]
    assert town.browsers["stranger"].get("/api/collections").json() == []
    assert [one["name"] for one in town.browsers["reader"].get("/api/collections").json()] == ["ferries"]
    # A judge has tasks, and looks at nothing else.
    assert town.browsers["judge"].get("/api/collections").json() == []


def test_a_refusal_says_which_role_it_needs_and_which_is_ones_own(town: Town):
    refused = town.browsers["reader"].put("/api/collections/ferries/chains/new", json={"notation": "words"})
    assert refused.status_code == 403
    assert refused.json()["detail"] == (
        'This needs the role "engineer" in "ferries"; yours is "reader". Ask an owner of the collection, or a keeper '
        "of the installation."
    )


@pytest.mark.parametrize(
    ("part", "who", "status"),
    [
        ("locked", "engineer", 403),
        ("all", "engineer", 403),
        ("locked", "owner", 200),
        ("open", "reader", 200),
    ],
)
def test_only_an_owner_opens_locked_queries(town: Town, part: str, who: str, status: int):
    owner = town.browsers["owner"]
    assert owner.post("/api/collections/ferries/judged/riders/lock", json={"share": 0.4}).status_code == 200
    body = {"ranker": {"name": "plain"}, "measures": ["ndcg@10"], "how": {"part": part}}
    answer = town.browsers[who].post("/api/collections/ferries/judged/riders/measure", json=body)
    assert answer.status_code == status, answer.text


def test_who_may_change_something_may_not_make_a_collection_unless_a_keeper_says_so(town: Town):
    engineer = town.browsers["engineer"]
    refused = engineer.post("/api/collections", json={"name": "pier"})
    assert refused.status_code == 403
    assert "Ask a keeper" in refused.json()["detail"]
    assert engineer.post("/api/collections/ferries/copy", json={"name": "pier"}).status_code == 403
    allowed = town.browsers["keeper"].put("/api/people/engineer", json={"makes_collections": True})
    assert allowed.json()["makes_collections"]
    assert engineer.post("/api/collections", json={"name": "pier"}).status_code == 200
    # Whoever makes it is its owner, and nobody else a member.
    members = engineer.get("/api/collections/pier/members").json()["members"]
    assert [(one["name"], one["role"]) for one in members] == [("engineer", "owner")]
    assert town.browsers["owner"].get("/api/collections/pier").status_code == 404
    assert engineer.delete("/api/collections/pier", params={"confirm": "pier"}).status_code == 200
    town.browsers["keeper"].put("/api/people/engineer", json={"makes_collections": False})
