"""Records over HTTP: uploads, imports and changes; what a stranger sends is bounded."""

from collections.abc import Generator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from pale_harbor.api.app import make_app
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.pictures import Picture, put_pictures
from pale_harbor.work.workbench import Workbench
from tests.api.jobs import ended
from tests.loading import load_rows


@pytest.fixture
def client(bench: Workbench) -> Generator[TestClient]:
    with TestClient(make_app(bench), base_url="http://127.0.0.1:7340") as opened:
        yield opened


def imported(client: TestClient, name: str, content: bytes, plan: dict[str, Any] | None = None) -> dict[str, Any]:
    """An import that is through."""
    upload = client.post("/api/uploads", params={"name": name}, content=content).json()["upload"]
    seen = client.post("/api/previews", json={"source": {"upload": upload}, "plan": plan or {}}).json()
    begun = client.post("/api/collections/coast/imports", json={"source": {"upload": upload}, "plan": seen["plan"]})
    assert begun.status_code == 200, begun.text
    done = ended(client, f"/api/imports/{begun.json()['id']}")
    assert done["state"] in ("done", "failed")
    return done


def test_a_file_goes_from_upload_to_search(client: TestClient):
    done = imported(client, "../../Fog Bells.csv", b"id,title\na,Fog bell\nb,Lamp\nc,too,many\n")
    assert (done["name"], done["report"]["added"], done["rows_rejected"]) == ("Fog Bells.csv", 2, 1)
    page = client.get(f"/api/imports/{done['id']}/rejected").json()
    assert page["rows"] == [
        {"row_number": 3, "line": 4, "reason": "3 cells, but the header has 2.", "raw": "c,too,many\n"}
    ]
    found = client.post("/api/collections/coast/search", json={"query": "bell"}).json()
    assert [result["key"] for result in found["results"]] == ["a"]
    kept = client.get("/api/collections/coast").json()
    assert (kept["records"], kept["rejected"], kept["default_ranker"]) == (2, 1, "start")
    assert kept["display"]["title"] == "title"


def test_a_record_that_is_put_is_found_at_once(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Lamp"}])

    def keys(query: str) -> list[str]:
        answer = client.post("/api/collections/coast/search", json={"query": query}).json()
        return [result["key"] for result in answer["results"]]

    assert keys("bell") == []
    changed = client.post("/api/collections/coast/records", json={"records": [{"id": "b", "title": "Fog bell"}]}).json()
    assert (changed["added"], changed["revision"]) == (1, 2)
    assert keys("bell") == ["b"]
    client.post("/api/collections/coast/records/delete", json={"keys": ["b", "nobody"]})
    assert keys("bell") == []
    gone = client.get("/api/collections/coast/deleted").json()
    assert [record["key"] for record in gone["records"]] == ["b"]
    state = {"key": "b", "ended_revision": gone["records"][0]["ended_revision"]}
    client.post("/api/collections/coast/records/restore", json=state)
    assert keys("bell") == ["b"]
    earlier = client.get("/api/collections/coast/record/earlier", params={"key": "b"}).json()
    assert [state["ended_by"] for state in earlier] == ["deletion"]


def test_pages_of_records_are_narrowed_and_sorted(client: TestClient, bench: Workbench, tmp_path: Path):
    rows = [{"id": f"k{i}", "title": f"Bell 100% {'_' * i}", "n": 10 - i} for i in range(4)]
    load_rows(bench.pool, tmp_path, [*rows, {"id": "none", "title": "Lamp", "n": "text"}])

    def keys(**asked: Any) -> list[str]:
        page = client.get("/api/collections/coast/records", params=asked).json()
        return [record["key"] for record in page["records"]]

    assert keys() == ["k0", "k1", "k2", "k3", "none"]
    assert keys(descending=True, count=2) == ["none", "k3"]
    assert keys(sort="n") == ["k3", "k2", "k1", "k0", "none"]
    assert keys(sort="n", descending=True)[:2] == ["k0", "k1"]
    assert keys(words="100%") == ["k0", "k1", "k2", "k3"]
    assert keys(words="__") == ["k2", "k3"]
    assert keys(words="LAMP") == ["none"]
    assert keys(words="lamp", field="n") == []
    assert keys(words="K1") == ["k1"]
    assert keys(words="'; drop table records; --\x00") == []


def test_the_profile_readings_and_passages_of_records(client: TestClient, bench: Workbench, tmp_path: Path):
    rows = [{"id": f"k{i}", "title": "MÃ¼ller rang the bell. He left."} for i in range(3)]
    load_rows(bench.pool, tmp_path, rows)
    (field,) = [f for f in client.get("/api/collections/coast/profile").json()["fields"] if f["name"] == "title"]
    assert (field["filled"], field["distinct"]) == (3, 1)
    assert field["oddities"][0]["kind"] == "mojibake suspects"
    assert field["oddities"][0]["keys"] == ["k0", "k1", "k2"]
    rule = {"by": "sentences", "size": 1}
    tried = client.post("/api/collections/coast/passages", json={"field": "title", "rule": rule}).json()
    assert (tried["tried"], tried["cut"], tried["passages"]) == (3, 3, 6)
    put = client.put("/api/collections/coast/fields/title", json={"kind": "text", "role": "title", "passages": rule})
    assert put.status_code == 200
    made = client.get("/api/collections/coast/record/readings", params={"key": "k0"}).json()
    assert made["passages"]["title"][0]["stretches"] == [[0, 22], [23, 31]]
    tokens = {reading["field"]: reading["values"][0]["tokens"] for reading in made["readings"]}
    assert tokens["title"][0]["text"] == "ma¼ller" or tokens["title"][0]["text"].startswith("ma")


@pytest.mark.parametrize(
    ("method", "path", "body", "told"),
    [
        ("put", "/fields/id", {"kind": "exact", "role": None, "passages": None}, "The key of a collection is settled"),
        ("put", "/fields/nope", {"kind": "text", "role": None, "passages": None}, 'has no field "nope"'),
        (
            "put",
            "/fields/title",
            {"kind": "text", "role": None, "passages": {"by": "size", "size": 2, "overlap": 2}},
            "the overlap less than the size",
        ),
        ("put", "/display", {"title": "titel"}, "These fields are not there."),
        ("post", "/records", {"records": [{"title": "no key"}]}, "These records cannot be kept"),
        ("post", "/copy", {"name": "coast"}, 'There is a collection "coast" already'),
        ("put", "/name", {"name": "Not A Name"}, "cannot be a name"),
        ("delete", "?confirm=cost", None, "nothing was dropped"),
    ],
)
def test_what_cannot_be_done_is_told_in_words(
    client: TestClient, bench: Workbench, tmp_path: Path, method: str, path: str, body: Any, told: str
):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog"}])
    answer = client.request(method, f"/api/collections/coast{path}", json=body)
    assert answer.status_code in (404, 422)
    assert told in answer.json()["detail"]


def test_an_export_is_a_file(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog"}])
    answer = client.get("/api/collections/coast/export", params={"format": "csv"})
    assert answer.text == "id,title\r\na,Fog\r\n"
    assert answer.headers["content-disposition"] == 'attachment; filename="coast.csv"'
    assert client.get("/api/collections/coast/export", params={"format": "xml"}).status_code == 422


def test_a_picture_may_run_nothing(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a"}])
    with bench.pool.connection() as connection:
        coast = collection_named(connection, "coast")
        put_pictures(connection, coast.id, [Picture("bell.svg", "image/svg+xml", b"<svg><script/></svg>")])
    answer = client.get("/api/collections/coast/pictures/bell.svg")
    assert answer.headers["content-security-policy"] == "default-src 'none'; style-src 'unsafe-inline'; sandbox"
    assert answer.headers["content-type"] == "image/svg+xml"
    assert client.get("/api/collections/coast/pictures/none.svg").status_code == 404


def test_a_query_on_a_database_goes_in_like_a_file(client: TestClient, bench: Workbench):
    query = "select 'a' as nr, 'Fog bell' as title, 2.50 as weight union all select 'b', null, 7"
    source = {"address": str(bench.pool.conninfo), "query": query}
    seen = client.post("/api/previews", json={"source": source}).json()
    assert (seen["format"], seen["looked_at"], seen["rejected"]) == ("PostgreSQL", 2, 0)
    assert [(field["name"], field["kind"], field["role"]) for field in seen["plan"]["fields"]] == [
        ("nr", "exact", "key"), ("title", "text", "title"), ("weight", "number", None),
    ]  # fmt: skip
    begun = client.post("/api/collections/coast/imports", json={"source": source, "plan": seen["plan"]}).json()
    assert ended(client, f"/api/imports/{begun['id']}")["report"]["added"] == 2
    wrong = client.post("/api/previews", json={"source": source | {"query": "select nothing"}})
    assert wrong.status_code == 422
    assert 'column "nothing" does not exist' in wrong.json()["detail"]


def test_a_page_of_another_site_may_change_nothing(client: TestClient):
    strange = {"Sec-Fetch-Site": "cross-site", "Content-Type": "text/plain"}
    answer = client.post("/api/uploads", params={"name": "x.csv"}, content=b"id\na\n", headers=strange)
    assert answer.status_code == 403
    assert answer.json()["detail"] == "Pages of other sites may not change anything here."
    own = {"Sec-Fetch-Site": "same-origin"}
    assert client.post("/api/uploads", params={"name": "x.csv"}, content=b"id\na\n", headers=own).status_code == 200


def test_a_field_may_have_any_name(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "size/cm?": "12"}])
    body = {"kind": "text", "role": None, "passages": None}
    assert client.put("/api/collections/coast/fields/size%2Fcm%3F", json=body).status_code == 200
    kinds = {field["name"]: field["kind"] for field in client.get("/api/collections/coast").json()["fields"]}
    assert kinds["size/cm?"] == "text"


def test_an_upload_that_is_not_there_is_told(client: TestClient):
    for upload in ("f" * 32, "../../etc/passwd", ""):
        answer = client.post("/api/previews", json={"source": {"upload": upload}})
        assert answer.status_code == 404
        assert answer.json()["detail"] == "This upload is no longer there. Drop the file again."
    assert client.post("/api/previews", json={"source": {}}).status_code == 422
    assert client.get("/api/imports/77").status_code == 404


def test_an_import_that_is_asked_about_waits_and_can_be_undone(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": f"b{i}", "title": "Fog bell"} for i in range(4)])
    upload = client.post("/api/uploads", params={"name": "less.csv"}, content=b"id,title\nb0,Lamp\n").json()["upload"]
    source, plan = {"upload": upload}, {"key": "id", "replace": True}

    def begun(asks: bool) -> dict[str, Any]:
        body = {"source": source, "plan": plan, "asks": asks}
        job = client.post("/api/collections/coast/imports", json=body).json()["id"]
        return ended(client, f"/api/imports/{job}")

    def records() -> int:
        return client.get("/api/collections/coast").json()["records"]

    left = begun(asks=True)
    counts = {"records": 4, "added": 0, "updated": 1, "unchanged": 0, "deleted": 3, "emptied": {}}
    assert (left["state"], left["outlook"], left["undoable"]) == ("undecided", counts, False)
    path = f"/api/imports/{left['id']}"
    assert client.post(f"{path}/resume").status_code == 422
    assert client.post(f"{path}/undo").status_code == 422
    assert client.post(f"{path}/cancel").json()["state"] == "cancelled"
    assert records() == 4

    # More than a tenth would go: it waits although nobody wanted to be asked.
    path = f"/api/imports/{begun(asks=False)['id']}"
    assert client.post(f"{path}/go-on", json={"deletions": 2}).status_code == 422
    assert client.post(f"{path}/go-on", json={"deletions": 3}).status_code == 200
    done = ended(client, path)
    assert (done["state"], done["undoable"], records()) == ("done", True, 1)
    assert client.post(f"{path}/undo").json() == {"restored": 4, "removed": 0, "kept": 0}
    assert records() == 4
    undone = client.get(path).json()
    assert (undone["undoable"], undone["undone"]) == (False, {"restored": 4, "removed": 0, "kept": 0})


def test_deleted_records_are_restored_by_revision_or_by_key(client: TestClient, bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": f"b{i}", "title": "Fog bell"} for i in range(4)])
    client.post("/api/collections/coast/records/delete", json={"keys": ["b0", "b1"]})
    client.post("/api/collections/coast/records/delete", json={"keys": ["b2"]})
    gone = client.get("/api/collections/coast/deleted").json()
    assert [(one["revision"], one["records"]) for one in gone["deletions"]] == [(3, 1), (2, 2)]
    restore = "/api/collections/coast/deleted/restore"
    assert client.post(restore, json={"ended_revision": 2}).json()["added"] == 2
    assert client.post(restore, json={"keys": ["b2"]}).json()["added"] == 1
    assert client.get("/api/collections/coast/deleted").json() == {"records": [], "found": 0, "deletions": []}
    for body in ({}, {"keys": ["b2"], "ended_revision": 2}, {"keys": []}):
        assert client.post(restore, json=body).status_code == 422


CALLED = [
    {"id": "sm1", "title": "Fog bell"},
    {"id": "sm10", "title": "Bell of the fog signal"},
    {"id": "bell", "title": "Lamp"},
    {"id": "%x", "title": ["Two titles", "Bell"]},
    {"id": "none", "place": "quay"},
]


@pytest.mark.parametrize(
    ("words", "keys"),
    [
        ("sm1", ["sm1", "sm10"]),
        ("SM1", ["sm1", "sm10"]),
        # By its key, then titles with the word, the shorter first.
        ("bell", ["bell", "sm1", "%x", "sm10"]),
        (" fog b ", ["sm1", "sm10"]),
        ("bell fog", ["sm1", "sm10"]),
        ("ell", []),
        ("two", ["%x"]),
        ("BÉLL o", ["sm10"]),
        # Letters that patterns and queries are made of mean themselves.
        ("%", ["%x"]),
        ("_", []),
        ('-fog OR "', []),
        ("none", ["none"]),
        ("\x00", []),
        ("  ", []),
    ],
)
def test_a_record_is_called_by_its_key_or_its_title(
    client: TestClient, bench: Workbench, tmp_path: Path, words: str, keys: list[str]
):
    load_rows(bench.pool, tmp_path, CALLED)
    found = client.get("/api/collections/coast/called", params={"words": words})
    assert [one["key"] for one in found.json()] == keys


def test_a_record_without_a_title_is_called_by_its_key_and_few_are_told(
    client: TestClient, bench: Workbench, tmp_path: Path
):
    load_rows(bench.pool, tmp_path, CALLED)
    at = "/api/collections/coast/called"
    assert client.get(at, params={"words": "none"}).json() == [{"key": "none", "title": "none"}]
    assert len(client.get(at, params={"words": "b", "most": 2}).json()) == 2
    assert client.get(at, params={"words": "b", "most": 51}).status_code == 422
    assert client.get(at, params={"words": "x" * 201}).status_code == 422
    assert client.get("/api/collections/nobody/called", params={"words": "b"}).status_code == 404
