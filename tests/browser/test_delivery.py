"""Delivery: publishing, keys, and what visitors asked."""

import re
from collections.abc import Generator
from typing import Any

import orjson
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import Command
from tests.conftest import ROOT

HOME = "/api/collections/saltmere/delivery"


@pytest.fixture
def delivery(page: Page) -> Generator[Page]:
    """The page, with the demo's own ranker live and no rules, as it was before."""
    yield page
    page.goto("about:blank")
    assert page.request.put(f"{HOME}/settings", data={}).ok
    if page.request.get(HOME).json()["candidate"]:
        assert page.request.post(f"{HOME}/candidate/ended", data={}).ok
    live = page.request.get(HOME).json()["live"]
    if (live["ranker"], live["version"]) != ("first", 1):
        assert page.request.post(f"{HOME}/live", data={"ranker": "first", "version": 1}).ok


def test_another_version_goes_live_and_back(delivery: Page):
    page = delivery
    page.goto("/saltmere/delivery")
    now = page.get_by_role("region", name="Live now")
    expect(now).to_contain_text("first 1")
    form = page.get_by_role("form", name="Publish a version")
    form.get_by_label("Version").select_option("blended:1")
    form.get_by_label("Why").fill("Meaning beside words")
    form.get_by_role("button", name="Publish").click()
    expect(now).to_contain_text("blended 1")
    expect(now).to_contain_text("Meaning beside words")
    history = page.get_by_role("region", name="Published before").get_by_role("row")
    expect(history.nth(1)).to_contain_text("Meaning beside words")
    # One key is enough.
    page.keyboard.press("b")
    expect(now).to_contain_text("first 1")
    expect(history.nth(1)).to_contain_text("Back from blended:1.")
    page.goto("/saltmere/measures?view=diary")
    expect(page.get_by_role("list", name="Diary")).to_contain_text("blended:1 is live")


def test_a_broken_rule_is_seen_before_and_needs_a_reason(delivery: Page):
    page = delivery
    page.goto("/saltmere/delivery")
    rules = page.get_by_role("form", name="What has to hold")
    rules.get_by_label(re.compile("^Rules")).fill("ndcg@10 may not drop\ntag:none rr > 0")
    rules.get_by_label("Checked on the judged set").select_option("visitors")
    rules.get_by_role("button", name="Keep these").click()
    expect(rules).to_contain_text("Kept.")
    rules.get_by_label(re.compile("^Rules")).fill("ndcg@10 >= 0.99")
    rules.get_by_role("button", name="Keep these").click()
    form = page.get_by_role("form", name="Publish a version")
    form.get_by_label("Version").select_option("blended:1")
    expect(form.get_by_role("list", name="Guard rules")).to_contain_text("× broken: ndcg@10 >= 0.99")
    form.get_by_role("button", name="Publish").click()
    expect(form.get_by_role("alert")).to_contain_text("guard rules are broken")
    form.get_by_label("It is to be published all the same, because").fill("The exhibition opens tomorrow.")
    form.get_by_role("button", name="Publish").click()
    expect(page.get_by_role("region", name="Live now")).to_contain_text("although guard rules are broken")


def test_a_key_is_shown_once_asks_and_is_revoked(page: Page, address: str):
    page.goto("/saltmere/delivery?view=keys")
    page.get_by_role("button", name="A key for a site").click()
    form = page.get_by_role("form", name="A key for a site")
    form.get_by_label("What it is for").fill("reading room")
    form.get_by_label(re.compile("^Sites whose pages")).fill("https://www.saltmere.example")
    form.get_by_label("maker is shown").uncheck()
    form.get_by_role("button", name="Make the key").click()
    shown = page.get_by_role("status").filter(has_text="Shown this once").locator("code").inner_text()
    line = page.get_by_role("row").filter(has_text="reading room")
    expect(line).to_contain_text("https://www.saltmere.example")
    row = page.request.get(f"/v1/saltmere/search?query=fog+bell&key={shown}").json()["results"][0]
    assert "maker" not in row["fields"]
    # Changed, and as it was in the form again.
    line.get_by_role("button", name="Change reading room").click()
    edit = page.get_by_role("form", name="Change reading room")
    expect(edit.get_by_label("maker is shown")).not_to_be_checked()
    edit.get_by_label("maker is shown").check()
    edit.get_by_role("button", name="Keep it so").click()
    expect(line).to_contain_text("sees every field")
    line.get_by_role("button", name="Revoke reading room").click()
    line.get_by_role("button", name="Leave reading room as it is").click()
    assert page.request.get(f"/v1/saltmere/search?query=fog+bell&key={shown}").status == 200
    line.get_by_role("button", name="Revoke reading room").click()
    line.get_by_role("button", name="Revoke reading room for good").click()
    expect(line).to_contain_text("nothing any more")
    assert page.request.get(f"/v1/saltmere/search?query=fog+bell&key={shown}").status == 401
    page.reload()
    expect(page.get_by_text("Shown this once")).to_have_count(0)


@pytest.fixture(scope="module")
def visited(command: Command, address: str) -> dict[str, Any]:
    """Made-up visitors have been here."""
    came = command("visitors", "saltmere", "--set", "visitors", "--visitors", "60", "--days", "5", "--json")
    assert came.returncode == 0, came.stderr
    return orjson.loads(came.stdout)


def test_what_visitors_asked_becomes_a_judged_query_by_one_key(page: Page, visited: dict[str, Any], board: Page):
    assert visited["visitors"] == 60
    assert page.request.get("/v1/saltmere/search?query=x").status == 401
    page.goto("/saltmere/delivery?view=past&set=board&order=unjudged")
    table = page.get_by_role("region", name="Queries")
    rows = table.get_by_role("row")
    if rows.count() > 1:
        expect(rows.nth(1)).to_have_attribute("aria-current", "true")
    page.goto("/saltmere/delivery?view=past&set=board")
    expect(rows.nth(1)).to_be_visible()
    page.keyboard.press("j")
    expect(rows.nth(2)).to_have_attribute("aria-current", "true")
    query = rows.nth(2).get_by_role("link").inner_text()
    page.keyboard.press("q")
    expect(page.get_by_role("status").filter(has_text=f"“{query}” is in board.")).to_be_visible()
    kept = page.request.get("/api/collections/saltmere/judged/board/queries").json()
    assert query in [one["query"] for one in kept]


def test_clicks_suggest_and_a_sample_is_drawn(page: Page, visited: dict[str, Any]):
    page.goto("/saltmere/delivery?view=clicks")
    expect(
        page.get_by_role("table", name="Suggested grades").or_(page.get_by_text("Nothing was clicked"))
    ).to_be_visible()
    page.goto("/saltmere/delivery?view=past&days=30")
    page.get_by_role("button", name="A judged set of a sample").click()
    dialog = page.get_by_role("dialog", name="A judged set of a sample")
    dialog.get_by_label(re.compile("^Name")).fill("sampled")
    dialog.get_by_label("Queries").fill("20")
    dialog.get_by_role("button", name="Draw it").click()
    expect(page).to_have_url(re.compile(r"/saltmere/judging\?.*set=sampled"))
    kept = page.request.get("/api/collections/saltmere/judged/sampled/queries").json()
    assert len(kept) == 20
    assert {tag for one in kept for tag in one["tags"]} <= {"head", "middle", "tail"}
    page.goto("about:blank")
    assert page.request.delete("/api/collections/saltmere/judged/sampled").ok


def test_judges_are_asked_to_confirm_what_clicks_suggest(page: Page, visited: dict[str, Any], board: Page):
    key = page.request.post(f"{HOME}/keys/visitors", data={"label": "clicks"}).json()["shown"]
    head = {"Authorization": f"Bearer {key}"}
    for number in range(8):
        asked = {"query": "Fog  Bell", "session": f"confirming-{number}", "top": 3}
        told = page.request.post("/v1/saltmere/search", data=asked, headers=head).json()
        for kind in ("click", "success"):
            event = {"query_id": told["query_id"], "kind": kind, "record": told["results"][0]["key"]}
            assert page.request.post("/v1/saltmere/events", data=event, headers=head).ok
    page.goto("/saltmere/delivery?view=clicks&set=board")
    expect(page.get_by_role("row").filter(has_text="fog bell").first).to_be_visible()
    page.get_by_role("button", name="Have judges confirm").click()
    dialog = page.get_by_role("dialog", name="Have judges confirm")
    dialog.get_by_label("Who judges").fill("Maud Ferrin")
    dialog.get_by_role("button", name="Make the task").click()
    expect(dialog.get_by_role("status")).to_contain_text("ready")
    page.goto(dialog.get_by_role("link", name="judge them").get_attribute("href") or "")
    expect(page.get_by_role("article", name="Record")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text("query 1 of ")
    kept = page.request.get("/api/collections/saltmere/judged/board/queries").json()
    assert "fog bell" in [" ".join(one["query"].lower().split()) for one in kept]


def test_what_was_asked_becomes_past_queries(page: Page, visited: dict[str, Any]):
    before = page.request.get("/api/collections/saltmere/past-queries").json()
    page.goto("/saltmere/delivery?view=past&days=30")
    page.get_by_role("button", name="Use for suggestions").click()
    dialog = page.get_by_role("dialog", name="Use for suggestions")
    # Refused: it is said, and nothing is lost.
    dialog.get_by_label(re.compile("^Visitors who asked it")).fill("1000")
    dialog.get_by_role("button", name="Take them").click()
    expect(dialog.get_by_role("alert")).to_contain_text("nothing is kept that 1000 visitors asked")
    assert page.request.get("/api/collections/saltmere/past-queries").json() == before
    dialog.get_by_label(re.compile("^Visitors who asked it")).fill("1")
    dialog.get_by_role("button", name="Take them").click()
    expect(page.get_by_role("status").filter(has_text="past quer")).to_be_visible()
    after = page.request.get("/api/collections/saltmere/past-queries").json()
    assert after["kept"]["source"].startswith("what visitors asked in 30 days")
    assert page.request.put(
        "/api/collections/saltmere/past-queries",
        data={"source": "demo", "text": (ROOT / "demo/past-queries.tsv").read_text(encoding="utf-8")},
    ).ok


def test_a_candidate_is_offered_and_ended(delivery: Page):
    page = delivery
    page.goto("/saltmere/delivery")
    panel = page.get_by_role("region", name="Candidate")
    panel.get_by_label("Version").select_option("blended:1")
    panel.get_by_label(re.compile("^Share of visitors")).fill("50")
    panel.get_by_role("button", name="Offer it").click()
    expect(panel).to_contain_text("blended 1 meets 50 % of visitors")
    expect(panel).to_contain_text("No visitor has preferred one to the other yet.")
    panel.get_by_role("button", name="End it").click()
    expect(panel.get_by_role("button", name="Offer it")).to_be_visible()


def test_the_page_for_visitors_and_its_two_lines(page: Page):
    page.goto("/saltmere/delivery?view=page")
    page.get_by_label("A visitor’s key").fill("some-key")
    expect(page.get_by_role("link", name="Open the visitor’s page")).to_have_attribute(
        "href", re.compile(r"/visit/saltmere\?key=some-key$")
    )
    expect(page.locator("pre")).to_contain_text('<harbor-search collection="saltmere" key="some-key">')
