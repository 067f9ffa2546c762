"""The search endpoint: what a site's pages get for a key, and what nobody gets."""

import csv
import io
from collections.abc import Generator
from pathlib import Path
from typing import Any, cast
from uuid import UUID, uuid4

import orjson
import pytest
from fastapi.testclient import TestClient
from openapi_spec_validator import validate
from structlog.testing import capture_logs

from pale_harbor.api.app import make_app
from pale_harbor.api.rights import TABLE
from pale_harbor.errors import Unavailable
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.pictures import Picture, put_pictures
from pale_harbor.work.delivery import keeping, publishing
from pale_harbor.work.delivery.rates import Rates
from pale_harbor.work.people.people import make_person
from pale_harbor.work.running.hurry import Hurry
from pale_harbor.work.workbench import Workbench
from tests.api.people import ADDRESS, PASSWORD
from tests.delivery import FOR_ALL, READINGS, key_for, open_market
from tests.loading import load_rows

SITE = "https://market.example"


class Site:
    """A page of a site that shows a key. origin: of the page, None for a program."""

    def __init__(self, browser: TestClient, key: str | None, origin: str | None = None) -> None:
        self.browser, self.key, self.origin = browser, key, origin

    def ask(self, method: str, path: str, headers: dict[str, str] | None = None, **more: Any) -> Any:
        own = {} if self.key is None else {"Authorization": f"Bearer {self.key}"}
        if self.origin is not None:
            own |= {"Origin": self.origin, "Sec-Fetch-Site": "cross-site"}
        return self.browser.request(method, f"/v1/market{path}", headers=own | (headers or {}), **more)

    def get(self, path: str, headers: dict[str, str] | None = None, **params: Any) -> Any:
        return self.ask("GET", path, headers, params=params)

    def found(self, **params: Any) -> list[str]:
        answer = self.get("/search", **params)
        assert answer.status_code == 200, answer.text
        return [row["key"] for row in answer.json()["results"]]


def forget_keys(browser: Any) -> None:
    """What changed is heard of at once, and not a second later."""
    browser.app.state.server.delivery.keys.forget()


@pytest.fixture
def market(bench: Workbench, tmp_path: Path) -> Workbench:
    return open_market(bench, tmp_path)


@pytest.fixture
def browser(market: Workbench) -> Generator[TestClient]:
    app = make_app(market, Path("/nonexistent"))
    with TestClient(app, base_url=ADDRESS, raise_server_exceptions=False) as opened:
        yield opened


@pytest.fixture
def page(market: Workbench, browser: TestClient) -> Site:
    return Site(browser, key_for(market, FOR_ALL | {"origins": [SITE]}), SITE)


def test_a_list_as_a_page_gets_it(page: Site):
    answer = page.get("/search", query="eel", facet="place", top=1)
    told = answer.json()
    assert UUID(told.pop("query_id")).version == 4
    assert told.pop("elapsed_ms") >= 0
    assert told == {
        "ranker": {"name": "stalls", "version": 1},
        "found": 2,
        "rows": 2,
        "results": [
            {
                "rank": 1,
                "key": "s1",
                "fields": {"id": "s1", "name": "Smoked eel", "place": "Quay", "price": 12},
                "marks": {"name": [[7, 10]]},
                "passages": [],
                "others": 0,
            }
        ],
        "facets": {"place": [{"value": "Quay", "count": 1}, {"value": "Yard", "count": 1}]},
        "did_you_mean": None,
        "notes": [],
        "nearly": None,
        "left_out": [],
    }


def test_an_address_says_all_that_a_body_says(page: Site, market: Workbench, tmp_path: Path):
    assert page.found(query="eel twine", filter="place:Quay") == ["s1", "s3"] or page.found(
        query="eel twine", filter="place:Quay"
    ) == ["s3", "s1"]
    both = page.ask("GET", "/search?query=eel+twine&filter=place:Quay&filter=place:Yard&sort=-price").json()
    assert [row["key"] for row in both["results"]] == ["s2", "s1", "s3", "s4"]
    assert page.found(query="eel", range="price:20..") == ["s2"]
    assert page.found(query="eel", range="price:..20") == ["s1"]
    assert page.found(query="eel", range="price:12..12") == ["s1"]
    widths = page.get("/search", query="eel", facet="price:10").json()["facets"]["price"]
    assert [one["count"] for one in widths if one["count"]] == [1, 1]
    body = {
        "query": "eel twine",
        "filters": [{"field": "place", "one_of": ["Quay", "Yard"]}],
        "sort": ["-price"],
    }
    by_body = page.ask("POST", "/search", content=orjson.dumps(body)).json()
    assert [row["key"] for row in by_body["results"]] == [row["key"] for row in both["results"]]


@pytest.mark.parametrize(
    ("said", "where"),
    [
        ("query=eel&filter=place", "filter"),
        ("query=eel&range=price:20", "range"),
        ("query=eel&top=0", "top"),
        ("query=eel&top=101", "top"),
        ("query=eel&skip=-1", "skip"),
        ("query=eel&session=short", "session"),
        ("query=eel&query=twine", "query"),
        ("query=eel&colour=red", "colour"),
        ("query=eel&filter=staff:reliable", "filters"),
        ("query=eel&sort=-staff", "sort"),
        ("query=eel&facet=staff", "facets"),
    ],
)
def test_what_is_wrong_is_told_with_its_place(page: Site, said: str, where: str):
    answer = page.ask("GET", f"/search?{said}")
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["problems"][0]["where"] == where


@pytest.mark.parametrize(
    ("method", "path", "told"),
    [
        ("GET", "/search?q=eel", "nothing here has this name. Known: query, filter, range, facet, sort, top, skip,"),
        ("GET", "/search?filters=x", 'nothing here has this name. Did you mean "filter"?'),
        ("GET", "/completions?query=eel", "is missing."),
        ("GET", "/correction?querry=eel", "is missing."),
        ("POST", "/search", 'nothing here has this name. Did you mean "filters"?'),
    ],
)
def test_a_name_that_nothing_here_has_is_told_with_one_that_something_has(
    page: Site, method: str, path: str, told: str
):
    answer = page.ask(method, path, content=b'{"filter": []}' if method == "POST" else None)
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["what"].startswith(told)


def test_while_it_is_typed_a_beginning_finds(page: Site):
    assert page.found(query="smo") == []
    typed = page.get("/typed", query="smo", session="a-visitor")
    assert [row["key"] for row in typed.json()["results"]] == ["s1"] or typed.json()["results"] == []


def test_completions_a_correction_and_one_record(page: Site):
    told = page.get("/completions", typed="smo").json()
    while told["gathering"]:
        told = page.get("/completions", typed="smo").json()
    assert [one["text"] for one in told["completions"]] == ["Smoked eel"]
    assert page.get("/correction", query="eel").json() == {"correction": None}
    record = page.get("/records/s1").json()
    assert record == {"key": "s1", "fields": {"id": "s1", "name": "Smoked eel", "place": "Quay", "price": 12}}
    assert page.get("/records/s9").status_code == 404


def test_nothing_without_a_key_and_with_one_that_is_none(browser: TestClient, market: Workbench):
    for key in (None, "x" * 43):
        answer = Site(browser, key).get("/search", query="eel")
        assert (answer.status_code, answer.headers["www-authenticate"]) == (401, "Bearer")
        assert answer.json()["title"] == "No key"
    # Whether there is such a collection is told to nobody.
    key = key_for(market, {})
    for collection in ("market", "nowhere"):
        told = browser.get(f"/v1/{collection}/search?query=eel").json()["detail"]
        assert told == Site(browser, None).get("/search", query="eel").json()["detail"]
    elsewhere = browser.get("/v1/nowhere/search?query=eel", headers={"Authorization": f"Bearer {key}"})
    assert elsewhere.status_code == 401


def test_a_key_may_stand_in_the_address(browser: TestClient, market: Workbench):
    assert browser.get(f"/v1/market/search?query=eel&key={key_for(market, {})}").json()["found"] == 3


def test_pages_of_sites_that_are_not_named_may_not_ask(browser: TestClient, market: Workbench, page: Site):
    answer = page.get("/search", query="eel")
    assert answer.headers["access-control-allow-origin"] == SITE
    assert "ETag" in answer.headers["access-control-expose-headers"]
    assert "Origin" in answer.headers["vary"]
    assert answer.headers["cross-origin-resource-policy"] == "cross-origin"
    other = Site(browser, page.key, "https://elsewhere.example").get("/search", query="eel")
    assert other.status_code == 403
    assert "https://elsewhere.example" in other.json()["detail"]
    # It may read why, and nothing else.
    assert other.headers["access-control-allow-origin"] == "*"
    unknown = Site(browser, "x" * 43, "https://elsewhere.example").get("/search", query="eel")
    assert (unknown.status_code, unknown.headers["access-control-allow-origin"]) == (401, "*")
    wrong = page.get("/search", query="eel", filter="nothing:1")
    assert (wrong.status_code, wrong.headers["access-control-allow-origin"]) == (422, SITE)
    # The page that is served here, and programs.
    assert Site(browser, page.key, ADDRESS).get("/search", query="eel").status_code == 200
    assert Site(browser, page.key, None).get("/search", query="eel").status_code == 200


def test_before_a_key_is_shown_pages_are_told_whether_any_lets_them_ask(page: Site):
    asking = {"Access-Control-Request-Method": "POST", "Access-Control-Request-Headers": "authorization"}
    told = page.browser.options("/v1/market/search", headers={"Origin": SITE, **asking})
    assert (told.status_code, told.headers["access-control-allow-origin"]) == (204, SITE)
    assert "Authorization" in told.headers["access-control-allow-headers"]
    for origin in ("https://elsewhere.example", ""):
        other = page.browser.options("/v1/market/search", headers={"Origin": origin, **asking})
        assert (other.status_code, "access-control-allow-origin" in other.headers) == (204, False)


def test_what_has_not_changed_is_not_sent_again(page: Site, market: Workbench, tmp_path: Path):
    first = page.get("/search", query="eel")
    etag = first.headers["etag"]
    again = page.get("/search", {"If-None-Match": f'"other", {etag}'}, query="eel")
    assert (again.status_code, again.content, again.headers["etag"]) == (304, b"", etag)
    assert page.get("/search", {"If-None-Match": etag}, query="traps").status_code == 200
    assert page.get("/search", {"If-None-Match": etag, "Accept": "text/csv"}, query="eel").status_code == 200
    record = page.get("/records/s1")
    assert page.get("/records/s1", {"If-None-Match": record.headers["etag"]}).status_code == 304
    load_rows(market.pool, tmp_path, [{"id": "s7", "name": "Eel pie"}], "market")
    forget_keys(page.browser)
    assert page.get("/search", {"If-None-Match": etag}, query="eel").status_code == 200


def test_what_was_answered_from_former_records_is_sent_again_once_the_new_ones_are_ready(
    page: Site, market: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    before = page.get("/search", query="eel").headers["etag"]
    record_before = page.get("/records/s1").headers["etag"]
    load_rows(market.pool, tmp_path, [{"id": "s1", "name": "Eel pie"}], "market")
    forget_keys(page.browser)

    def not_yet(_collection: Any) -> Any:
        raise Unavailable("no room on the disk")

    with monkeypatch.context() as held:
        held.setattr(market, "opened_as", not_yet)
        meanwhile, record = page.get("/search", query="eel"), page.get("/records/s1")
    assert meanwhile.json()["results"][0]["fields"]["name"] == "Smoked eel"
    assert (meanwhile.headers["etag"], record.headers["etag"]) == (before, record_before)
    for path, etag, said in (("/search", before, {"query": "eel"}), ("/records/s1", record_before, {})):
        assert page.get(path, {"If-None-Match": etag}, **said).status_code == 200


def test_an_answer_that_time_cut_short_is_not_taken_for_the_whole_one(page: Site, monkeypatch: pytest.MonkeyPatch):
    def none_left(_: Hurry) -> float:
        return 0.0

    with monkeypatch.context() as held:
        held.setattr(Hurry, "seconds_left", none_left)
        late = page.get("/search", query="eel", facet="place")
    assert late.json()["left_out"] == ["facets"]
    assert "etag" not in late.headers
    noted = page.get("/search", query="~ eel " + "(" * 40)
    assert (bool(noted.json()["notes"]), "etag" in noted.headers) == (True, False)
    assert "etag" in page.get("/search", query="eel", facet="place").headers


def test_requests_are_counted_by_what_was_asked_and_not_by_what_was_said(page: Site):
    page.get("/search", query="eel")
    page.get("/nowhere", query="eel")
    told = page.browser.get("/metrics").text
    assert 'paleharbor_requests_total{endpoint="world_search",status="200"} 1.0' in told
    assert "paleharbor_asked_lost_total 0.0" in told
    assert "paleharbor_asked_waiting " in told
    assert "eel" not in told


def test_rows_alone_as_csv_and_as_json_lines(page: Site):
    as_csv = page.get("/search", {"Accept": "text/csv"}, query="eel")
    assert as_csv.headers["content-type"].startswith("text/csv")
    rows = list(csv.DictReader(io.StringIO(as_csv.text)))
    assert [(row["id"], row["name"], row["price"]) for row in rows] == [
        ("s1", "Smoked eel", "12"),
        ("s2", "Eel traps", "30"),
    ]
    lines = page.get("/search", {"Accept": "application/x-ndjson"}, query="eel").text.splitlines()
    assert [orjson.loads(line)["key"] for line in lines] == ["s1", "s2"]
    assert page.get("/search", {"Accept": "text/csv;q=0.5, application/json"}, query="eel").json()["found"] == 2
    assert page.get("/search", {"Accept": "image/png"}, query="eel").status_code == 406


def test_long_answers_are_compressed_for_whoever_reads_that(page: Site, market: Workbench, tmp_path: Path):
    load_rows(market.pool, tmp_path, [{"id": f"t{n}", "name": f"Tar, barrel {n}"} for n in range(60)], "market")
    forget_keys(page.browser)
    answer = page.get("/search", {"Accept-Encoding": "gzip"}, query="tar", top=60)
    while answer.json()["found"] < 60:
        answer = page.get("/search", {"Accept-Encoding": "gzip"}, query="tar", top=60)
    assert answer.headers["content-encoding"] == "gzip"
    assert "content-encoding" not in page.get("/records/s1", {"Accept-Encoding": "gzip"}).headers


def test_whoever_asks_too_often_is_told_when_to_ask_again(browser: TestClient, market: Workbench):
    cast("Any", browser.app).state.server.delivery.rates = Rates(clock=lambda: 30.5)
    site = Site(browser, key_for(market, {"per_minute_each": 2}))
    told = [site.get("/search", query="eel") for _ in range(3)]
    assert [one.status_code for one in told] == [200, 200, 429]
    assert told[0].headers["ratelimit-policy"] == '"each";q=2;w=60, "key";q=6000;w=60'
    assert told[0].headers["ratelimit"].startswith('"each";r=1;t=30')
    assert told[2].headers["retry-after"] == "30"
    assert "2 requests a minute may be sent by one address with this key" in told[2].json()["detail"]


def test_an_event_is_kept_before_it_is_answered(page: Site, market: Workbench):
    query_id = page.get("/search", query="eel", session="a-visitor").json()["query_id"]
    event = {"query_id": query_id, "kind": "click", "record": "s2"}
    for _ in range(2):
        # As a page sends it while it is left: plain text, without a preflight.
        told = page.ask("POST", "/events", {"Content-Type": "text/plain"}, content=orjson.dumps(event))
        assert (told.status_code, told.content) == (204, b"")
    with market.pool.connection() as connection:
        assert connection.execute(
            "select query, shown from asked_queries join asked_events on query_id = id where kind = 'click'"
        ).fetchall() == [("eel", ["s1", "s2"])]


@pytest.mark.parametrize(
    "event",
    [
        {"query_id": "eel", "kind": "click", "record": "s1"},
        {"query_id": str(uuid4()), "kind": "bought", "record": "s1"},
        {"query_id": str(uuid4()), "kind": "click", "record": ""},
        {"query_id": str(uuid4()), "kind": "click", "record": "s\x00"},
        {"query_id": str(uuid4()), "kind": "click"},
        [],
    ],
)
def test_an_event_that_means_nothing_is_refused(page: Site, event: Any):
    assert page.ask("POST", "/events", content=orjson.dumps(event)).status_code == 422


@pytest.mark.parametrize("content", [b"{", b"\xff", b'{"query": "\xed\xa0\x80"}'])
def test_a_body_that_is_no_json_is_refused(page: Site, content: bytes):
    answer = page.ask("POST", "/search", content=content)
    assert (answer.status_code, answer.json()["detail"]) == (422, "The request is no JSON.")


def test_a_body_that_is_too_long_or_does_not_say_how_long_it_is_is_refused(page: Site):
    assert page.ask("POST", "/search", content=b" " * 100_001).status_code == 413

    def pieces() -> Generator[bytes]:
        yield b"{}"

    assert page.ask("POST", "/search", content=pieces()).status_code == 413


def test_pictures_of_records_that_may_be_seen(browser: TestClient, market: Workbench, tmp_path: Path):
    with market.pool.connection() as connection:
        own = collection_named(connection, "market").id
        pictures = [Picture(f"{name}.svg", "image/svg+xml", b"<svg/>") for name in ("eel", "secret")]
        put_pictures(connection, own, pictures)
    load_rows(market.pool, tmp_path, [{"id": "s1", "name": "Eel", "photo": "eel.svg", "place": "Quay"}], "market")
    market.change_field("market", "photo", "exact", "picture", None)
    seen = Site(browser, key_for(market, {"shown": ["name", "photo"]}))
    answer = seen.get("/pictures/eel.svg")
    assert (answer.content, answer.headers["content-type"]) == (b"<svg/>", "image/svg+xml")
    assert "sandbox" in answer.headers["content-security-policy"]
    assert seen.get("/pictures/secret.svg").status_code == 404
    assert Site(browser, key_for(market, {"shown": ["name"]})).get("/pictures/eel.svg").status_code == 404
    elsewhere = {"shown": ["name", "photo"], "filters": [{"field": "place", "one_of": ["Yard"]}]}
    assert Site(browser, key_for(market, elsewhere)).get("/pictures/eel.svg").status_code == 404


def test_the_endpoints_own_document_names_what_the_key_may_name(page: Site):
    told = page.get("/openapi.json").json()
    validate(told)
    assert set(told["components"]["schemas"]["Fields"]["properties"]) == {"id", "name", "place", "price"}
    assert "staff" not in orjson.dumps(told).decode()
    names = ("search", "typed", "completions", "correction", "records/{record}", "pages/{record}", "about", "events")
    assert set(told["paths"]) == {f"/v1/market/{one}" for one in names}
    assert told["servers"] == [{"url": ADDRESS}]


def test_addresses_that_there_are_not(page: Site):
    for path in ("/everything", "/search/", ""):
        answer = page.get(path)
        assert (answer.status_code, answer.headers["content-type"]) == (404, "application/problem+json")
    assert page.ask("DELETE", "/search").status_code == 405


def test_nothing_is_live_is_told(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "name": "Tar"}], "market")
    bench.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    key = key_for(bench, {})
    with TestClient(make_app(bench, Path("/nonexistent")), base_url=ADDRESS) as browser:
        answer = Site(browser, key).get("/search", query="tar")
        assert answer.status_code == 404
        assert "Publish one in Delivery" in answer.json()["detail"]


def test_a_visitors_key_is_good_for_nothing_else(browser: TestClient, market: Workbench):
    make_person(market.pool, "nora", "Nora Vane", PASSWORD, keeper=True)
    shown = {"Authorization": f"Bearer {key_for(market, {})}"}
    for path in ("/api/collections", "/api/collections/market", "/api/me/keys", "/metrics", "/api/memory"):
        assert browser.get(path, headers=shown).status_code in (401, 405), path
    assert browser.post("/api/collections/market/search", json={"query": "eel"}, headers=shown).status_code == 401


def test_a_programs_key_has_its_role_in_its_collection_and_no_account(browser: TestClient, market: Workbench):
    reader = keeping.make_program_key(market, "market", "nightly", "reader", None).shown
    engineer = keeping.make_program_key(market, "market", "loader", "engineer", None).shown
    market.make_collection("fair")
    make_person(market.pool, "nora", "Nora Vane", PASSWORD, keeper=True)

    def status(key: str, method: str, path: str, **more: Any) -> int:
        return browser.request(method, path, headers={"Authorization": f"Bearer {key}"}, **more).status_code

    search = {"json": {"query": "eel"}}
    assert status(reader, "POST", "/api/collections/market/search", **search) == 200
    assert status(reader, "POST", "/api/collections/fair/search", **search) == 404
    ranker = {"json": {"document": {"readings": READINGS[:1]}}}
    assert status(reader, "PUT", "/api/collections/market/rankers/other", **ranker) == 403
    assert status(engineer, "PUT", "/api/collections/market/rankers/other", **ranker) == 200
    assert status(engineer, "POST", "/api/collections/market/delivery/back", json={}) == 403
    assert status(engineer, "GET", "/api/me/visits") == 401
    assert status(engineer, "GET", "/api/people") == 403
    assert [one["name"] for one in _json(browser, reader, "/api/collections")] == ["market"]
    # It asks the workbench, and is no visitor.
    assert Site(browser, engineer).get("/search", query="eel").status_code == 401


def _json(browser: TestClient, key: str, path: str) -> Any:
    return browser.get(path, headers={"Authorization": f"Bearer {key}"}).json()


def test_a_programs_key_may_no_more_than_whoever_made_it_may_by_now(browser: TestClient, market: Workbench):
    make_person(market.pool, "nora", "Nora Vane", PASSWORD, keeper=True)
    signed_in = TestClient(browser.app, base_url=ADDRESS)
    assert signed_in.post("/api/sign-in", json={"name": "nora", "password": PASSWORD}).status_code == 204
    person = {"name": "ivo", "shown": "Ivo Skerry", "password": PASSWORD}
    assert signed_in.post("/api/people", json=person).status_code == 200
    members = "/api/collections/market/members/ivo"
    assert signed_in.put(members, json={"role": "owner"}).status_code == 200
    ivo = TestClient(browser.app, base_url=ADDRESS)
    assert ivo.post("/api/sign-in", json={"name": "ivo", "password": PASSWORD}).status_code == 204
    keys = "/api/collections/market/delivery/keys"
    made = ivo.post(f"{keys}/programs", json={"label": "loader", "role": "owner"})
    assert made.status_code == 200, made.text
    key = {"Authorization": f"Bearer {made.json()['shown']}"}
    ranker = {"document": {"readings": READINGS[:1]}}
    path = "/api/collections/market/rankers/other"
    assert browser.put(path, json=ranker, headers=key).status_code == 200
    # What it changed, Ivo changed.
    assert browser.get(path, headers=key).json()["by_person"] == "Ivo Skerry"
    other = {"name": "una", "shown": "Una Strand", "password": PASSWORD}
    assert signed_in.post("/api/people", json=other).status_code == 200
    # Some owner there has to be.
    assert signed_in.put("/api/collections/market/members/una", json={"role": "owner"}).status_code == 200
    assert signed_in.put(members, json={"role": "reader"}).status_code == 200
    assert browser.put(path, json=ranker, headers=key).status_code == 403
    assert browser.get(path, headers=key).status_code == 200
    assert signed_in.delete(members).status_code == 200
    assert browser.get(path, headers=key).status_code == 401
    # A reader makes no keys at all.
    assert ivo.post(f"{keys}/programs", json={"label": "x", "role": "reader"}).status_code in (403, 404)


def test_every_change_of_delivery_is_an_owners():
    from pale_harbor.work.people.rights import Right

    own = TABLE[Right.OWN]
    for name in ("publish_version", "publish_former", "put_candidate", "make_visitor_key", "revoke_delivery_key"):
        assert name in own


def test_publishing_over_http(browser: TestClient, market: Workbench):
    path = "/api/collections/market/delivery"
    told = browser.get(path).json()
    assert (told["live"]["ranker"], told["live"]["version"], told["candidate"]) == ("stalls", 1, None)
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    assert browser.post(f"{path}/checked", json={"ranker": "stalls"}).json() is None
    assert browser.post(f"{path}/live", json={"ranker": "stalls", "note": "names"}).json()["version"] == 2
    assert browser.post(f"{path}/back", json={}).json()["version"] == 1
    candidate = {"ranker": "stalls", "version": 2, "share": 0.25, "mixed": True}
    assert browser.put(f"{path}/candidate", json=candidate).json()["share"] == 0.25
    assert browser.post(f"{path}/candidate/ended", json={"note": "enough"}).json()["ranker"] is None
    settings = {"rules": "rr > 0.5", "judged_set": None, "kept_days": 30}
    assert browser.put(f"{path}/settings", json=settings).status_code == 422
    assert browser.put(f"{path}/settings", json={"kept_days": 30}).json()["kept_days"] == 30


def test_keys_over_http(browser: TestClient, market: Workbench):
    path = "/api/collections/market/delivery/keys"
    made = browser.post(f"{path}/visitors", json={"label": "the page", "terms": FOR_ALL}).json()
    assert Site(browser, made["shown"]).found(query="eel") == ["s1", "s2"]
    (told,) = browser.get(path).json()
    assert (told["id"], told["label"], told["terms"]) == (made["id"], "the page", FOR_ALL)
    assert made["shown"] not in browser.get(path).text
    changed = {"label": "the page", "terms": {}}
    assert browser.put(f"{path}/{made['id']}", json=changed).status_code == 204
    assert Site(browser, made["shown"]).found(query="eel") == ["s1", "s2", "s3"]
    assert browser.delete(f"{path}/{made['id']}").status_code == 204
    assert Site(browser, made["shown"]).get("/search", query="eel").status_code == 401
    assert browser.delete(f"{path}/{made['id']}").status_code == 404


def test_what_changed_it_is_noted(browser: TestClient, market: Workbench):
    publishing.publish(market, "market", "stalls", 1, "again")
    browser.post("/api/collections/market/delivery/live", json={"ranker": "stalls", "note": "by http"})
    noted = browser.get("/api/collections/market/changes").json()
    assert noted[0]["what"].startswith("Makes a version of a ranker live")


def test_a_key_in_a_path_is_in_no_log(market: Workbench, browser: Any, monkeypatch: pytest.MonkeyPatch):
    def fails(*_: object) -> None:
        raise RuntimeError("nobody foresaw it")

    key = key_for(market, FOR_ALL)
    monkeypatch.setattr(browser.app.state.server.delivery.harvesting, "begun", fails)
    with capture_logs() as told:
        assert browser.get(f"/v1/market/keys/{key}/oai?verb=Identify").status_code == 500
    assert [one["path"] for one in told if one["event"] == "unforeseen error"] == ["/v1/market/keys/…/oai"]
    assert key not in str(told)
