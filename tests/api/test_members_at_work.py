"""What members do all day, each by their own right: nothing that worked for one engineer alone fails for several."""

from collections.abc import Callable, Generator
from typing import Any

import pytest
from fastapi.routing import APIRoute

from pale_harbor.api.app import ROOMS
from pale_harbor.api.rights import right_needed
from pale_harbor.store.cluster import Cluster
from pale_harbor.work.people.rights import Right
from tests.api import people
from tests.api.people import Town

FERRIES = "/api/collections/ferries"


@pytest.fixture(scope="module")
def town(
    cluster: Cluster, empty_database: Callable[[], str], tmp_path_factory: pytest.TempPathFactory
) -> Generator[Town]:
    with people.town(cluster, empty_database, tmp_path_factory.mktemp("town")) as settled:
        yield settled


PLAIN = {"name": "plain"}
# What a reader asks in an hour.
LOOKS: list[tuple[str, str, Any]] = [
    ("POST", "/search", {"query": "tidewick", "ranker": PLAIN}),
    ("POST", "/why", {"query": "tidewick", "key": "f0", "ranker": PLAIN}),
    ("POST", "/why-not", {"query": "tidewick", "key": "f1", "ranker": PLAIN}),
    ("POST", "/judged/riders/measure", {"ranker": PLAIN, "measures": ["ndcg@10"]}),
    ("POST", "/judged/riders/overview", {"sides": [{"ranker": PLAIN}], "measures": ["ndcg@10"]}),
    ("POST", "/consequences", {"field": "route", "record_chain": "words > lower", "query_chain": "words"}),
    ("GET", "/records", None),
    ("GET", "/record?key=f0", None),
    ("GET", "/profile", None),
    ("GET", "/export", None),
    ("GET", "/judged/riders/queries", None),
    ("GET", "/judged/riders/files/judgments", None),
    ("GET", "/judged/riders/standing", None),
    ("GET", "/rankers", None),
    ("GET", "/diary", None),
]


@pytest.mark.parametrize(("method", "path", "body"), LOOKS)
@pytest.mark.parametrize("who", ["reader", "engineer", "owner", "keeper"])
def test_whoever_may_look_sees(town: Town, who: str, method: str, path: str, body: Any):
    answer = town.browsers[who].request(method, FERRIES + path, json=body)
    assert answer.status_code == 200, answer.text


def test_every_plain_look_answers_somebody_as_it_answers_nobody_else(town: Town):
    failed: list[str] = []
    for room in ROOMS:
        for route in room.router.routes:
            if not isinstance(route, APIRoute) or route.name == "events" or "GET" not in (route.methods or ()):
                continue
            path = "/api" + route.path.replace("{collection}", "ferries").replace(":path", "")
            path = path.replace("/collections/{name}", "/collections/ferries").replace("judged/{name}", "judged/riders")
            path = path.replace("rankers/{name}", "rankers/plain")
            if "{" in path or right_needed(route.name) is not Right.LOOK:
                continue
            answer = town.browsers["reader"].get(path)
            if answer.status_code >= 500:
                failed.append(f"{route.name}: {answer.text}")
    assert failed == []


def test_two_engineers_on_one_draft_see_that_the_other_was_there(town: Town):
    engineer, owner = town.browsers["engineer"], town.browsers["owner"]
    document = engineer.get(f"{FERRIES}/rankers/plain").json()["document"]
    path = f"{FERRIES}/drafts"
    begun = engineer.post(path, json={"ranker": "plain", "version": 1, "document": document}).json()
    first = owner.put(f"{path}/{begun['id']}", json={"document": document, "known": begun["revision"]})
    assert first.json() == {"revision": begun["revision"] + 1}
    refused = engineer.put(f"{path}/{begun['id']}", json={"document": {}, "known": begun["revision"]})
    assert refused.status_code == 409
    assert refused.json()["detail"].startswith("The owner changed this draft meanwhile.")
    (draft,) = engineer.get(path).json()
    assert (draft["document"], draft["by_person"], draft["revision"]) == (document, "The owner", 2)
    # Whoever knows of it goes on with it.
    assert engineer.put(f"{path}/{begun['id']}", json={"document": {}, "known": 2}).json() == {"revision": 3}
    assert engineer.get(path).json()[0]["by_person"] == "The engineer"
    engineer.delete(f"{path}/{begun['id']}")
    assert engineer.put(f"{path}/{begun['id']}", json={"document": {}, "known": 3}).status_code == 404


def test_two_engineers_on_one_record_do_not_write_over_each_other(town: Town):
    engineer, owner = town.browsers["engineer"], town.browsers["owner"]
    seen = engineer.get(f"{FERRIES}/record", params={"key": "f1"}).json()
    record = seen["field_values"]
    known = {"f1": seen["revision"]}
    path = f"{FERRIES}/records"
    first = owner.post(path, json={"records": [record | {"remarks": "also by night"}], "known": known})
    assert first.json()["updated"] == 1
    refused = engineer.post(path, json={"records": [record | {"remarks": "closed"}], "known": known})
    assert refused.status_code == 409
    assert refused.json()["detail"].startswith('The owner changed the record "f1" meanwhile.')
    assert engineer.get(f"{FERRIES}/record", params={"key": "f1"}).json()["field_values"]["remarks"] == "also by night"
    now = {"f1": first.json()["revision"]}
    assert engineer.post(path, json={"records": [record], "known": now}).json()["updated"] == 1
    earlier = engineer.get(f"{FERRIES}/record/earlier", params={"key": "f1"}).json()
    assert [one["by_person"] for one in earlier] == ["The engineer", "The owner"]
    owner.post(f"{path}/delete", json={"keys": ["f1"]})
    gone = engineer.post(path, json={"records": [record], "known": {"f1": first.json()["revision"] + 1}})
    assert (gone.status_code, gone.json()["detail"].startswith('The owner deleted the record "f1"')) == (409, True)
    # Whoever says nothing of what they saw puts it as it is.
    assert engineer.post(path, json={"records": [record]}).json()["added"] == 1
