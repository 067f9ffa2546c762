"""The curve of a knob: what turning it would do to the judged queries, before it is turned."""

import json
import re

from playwright.sync_api import Locator, Page, Request, expect

from tests.browser.test_waiting import MEASURES, HeldBack

TURNS = re.compile(r"/judged/[^/]+/turns$")
FIRST = "/saltmere/ranking?q=fog+bell&ranker=first:1"


def paths_of(request: Request) -> list[str]:
    """Whose curves a request asks for, in order."""
    body = json.loads(request.post_data or "{}")
    return list(dict.fromkeys(".".join(str(step) for step in turn["path"]) for turn in body["turns"]))


def test_a_curve_promises_what_the_turned_knob_then_does(page: Page):
    page.goto(FIRST)
    weight = page.get_by_label("Weight of title", exact=True)
    curve = page.get_by_role("img", name=re.compile("^nDCG@10 over Weight of title: from 0.* to 0.*, the best at"))
    expect(curve).to_have_attribute("data-curve", "there")
    promise = page.get_by_role("button", name=re.compile(r"^\+0\.\d{3} at ")).first
    gain, _, best = promise.inner_text().partition(" at ")
    promise.click()
    expect(weight).to_have_value(best)
    expect(page.get_by_role("group", name="Judged meter")).to_contain_text(gain)
    # Turned by itself it asks for no curve anew, and says that there is no more to gain.
    expect(page.get_by_text("at its best").first).to_be_visible()
    # What a program reads out is what the server measures at that place.
    label = curve.get_attribute("aria-label") or ""
    low, high = (float(figure) for figure in re.findall(r"0\.\d{3}", label))
    assert low < high
    choice = {"name": "first", "version": 1}
    turns = [{"path": ["readings", 0, "weight"], "value": value} for value in (0, float(best))]
    answer = page.request.post(
        "/api/collections/saltmere/judged/visitors/turns", data={"ranker": choice, "turns": turns}
    ).json()
    assert [round(one["mean"], 3) for one in answer["turned"]] == [low, high]


def curve_of(page: Page, name: str) -> Locator:
    return page.get_by_role("img", name=re.compile(f"over Weight of {name}:"))


def turned(page: Page, name: str) -> None:
    page.get_by_label(f"Weight of {name}", exact=True).press("ArrowRight")


def test_after_the_waterline_the_knob_in_hand_comes_first(page: Page):
    page.goto(FIRST)
    expect(page.locator("[data-curve=there]")).to_have_count(4)
    asked: list[list[str]] = []
    page.on("request", lambda request: asked.append(paths_of(request)) if TURNS.search(request.url) else None)
    held = HeldBack(page, MEASURES)
    turned(page, "title")
    # Its own curve stands, since everything else does; those of the others are of the draft as it was, and wait.
    expect(page.locator("[data-curve=old]")).to_have_count(3)
    expect(curve_of(page, "title")).to_have_attribute("data-curve", "there")
    page.get_by_label("Weight of maker", exact=True).focus()
    assert asked == []
    held.let_go()
    expect(page.locator("[data-curve=there]")).to_have_count(4)
    assert asked == [["readings.2.weight"], ["readings.1.weight", "readings.3.weight"]]


def test_an_edit_lets_go_of_curves_that_are_being_asked_for(page: Page):
    page.goto(FIRST)
    expect(page.locator("[data-curve=there]")).to_have_count(4)
    page.route(TURNS, lambda _: None)
    with page.expect_request(TURNS):
        turned(page, "title")
    with page.expect_event("requestfailed", lambda request: TURNS.search(request.url) is not None):
        turned(page, "title")


def test_choices_are_bars_that_promise_what_the_choice_then_does(page: Page):
    page.goto(FIRST)
    page.get_by_role("button", name=re.compile("^Matching")).click()
    bars = page.get_by_role("group", name="nDCG@10 by Words needed").get_by_role("button")
    expect(bars).to_have_count(6)
    chosen = page.get_by_role("group", name="nDCG@10 by Readings combined").get_by_role("button", name="pooled")
    promised = (chosen.get_attribute("aria-label") or "").rpartition(": ")[2]
    chosen.click()
    expect(chosen).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("group", name="Judged meter")).to_contain_text(promised)
    at_least_two = bars.nth(2)
    expect(at_least_two).to_have_attribute("aria-label", re.compile(r"^at least 2: 0\.\d{3}$"))


def test_without_a_judged_set_there_is_no_curve(page: Page):
    rows = b"id,name,height\na,Fog,3\nb,Bell,4\n"
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files({"name": "s.csv", "mimeType": "text/csv", "buffer": rows})
    page.get_by_label("Collection to import into").fill("unjudged")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/unjudged/records"))
    page.goto("/unjudged/ranking?q=fog")
    expect(page.get_by_label("Weight of name", exact=True)).to_be_visible()
    expect(page.get_by_label("Results").locator("[data-row]")).to_have_count(1)
    expect(page.locator("[data-curve]")).to_have_count(0)
    page.goto("about:blank")  # whatever it still asks for is let go before the collection goes
    assert page.request.delete("/api/collections/unjudged?confirm=unjudged").ok


def test_a_curve_that_the_server_refuses_says_why(page: Page):
    refusal = {
        "type": "about:blank",
        "title": "Cannot be used",
        "status": 422,
        "detail": "Scores become too large.",
        "problems": [],
        "place": None,
        "expected": [],
        "nearest": None,
    }
    page.route(TURNS, lambda route: route.fulfill(status=422, json=refusal))
    page.goto(FIRST)
    expect(page.get_by_text("No curve: Scores become too large.").first).to_be_visible()
    expect(page.locator("[data-curve]")).to_have_count(0)


def test_a_stage_left_out_does_what_its_bar_promised(page: Page):
    page.goto(FIRST)
    expect(page.locator("[data-curve=there]")).to_have_count(4)
    page.get_by_role("button", name="More of title").click()
    stages = page.get_by_role("region", name="Stages of title")
    stages.get_by_role("button", name="each stage on or off").click()
    # A chain has to cut.
    expect(stages.get_by_role("listitem").filter(has_text="needed")).to_have_text("wordsneeded")
    lower = stages.get_by_role("group", name="nDCG@10 by lower of title")
    expect(lower.get_by_role("button", name="on: 0.504")).to_have_attribute("aria-pressed", "true")
    out = lower.get_by_role("button", name=re.compile(r"^left out: 0\.\d{3}$"))
    promised = (out.get_attribute("title") or "").removeprefix("left out: ")
    expect(lower).to_contain_text(f"earns {0.504 - float(promised):.3f}")
    out.click()
    meter = page.get_by_role("group", name="Judged meter")
    expect(meter).to_contain_text(promised)
    expect(stages.get_by_role("listitem").filter(has_text="lower")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(meter).to_contain_text("0.504")
    expect(lower).to_be_visible()
