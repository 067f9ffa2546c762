"""Drafts, baselines and judged queries across the places: what is seen in one is seen in all."""

import re

from playwright.sync_api import Page, expect

from tests.browser.addresses import weighing


def meter(page: Page):
    return page.get_by_label("Judged meter")


def test_the_meter_follows_the_draft_from_place_to_place(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    expect(meter(page).get_by_label(re.compile(r"[1-9]\d* gained, [1-9]\d* lost"))).to_be_visible()
    said = meter(page).inner_text()
    for place in ("Measures", "Chains", "Ranking"):
        page.get_by_role("navigation", name="Places").get_by_role("link", name=place).click()
        expect(page).to_have_url(re.compile(f"/{place.lower()}.*weight%22%3A0.5"))
        expect(meter(page)).to_have_text(said.replace("\n", ""), use_inner_text=False)


def test_a_stroke_of_the_waterline_opens_its_query(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    strokes = page.get_by_label("Waterline").get_by_role("button")
    expect(strokes.first).to_be_visible()
    labels = [label.replace("\u2212", "-") for label in strokes.evaluate_all("all => all.map(b => b.ariaLabel)")]
    deltas = [float(label.rpartition(": ")[2]) for label in labels]
    assert deltas == sorted(deltas, reverse=True)
    deepest = labels[-1].rpartition(": ")[0]
    strokes.last.click()
    expect(page.get_by_label("Query", exact=True)).to_have_value(deepest)
    page.go_back()
    expect(page.get_by_label("Query", exact=True)).to_have_value("bell")


def test_weights_that_make_no_sense_in_a_link_are_passed_over(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing('x', -1, 1, 5)}")
    expect(page.get_by_label("Weight of title, as a number")).to_have_value("3")
    expect(page.get_by_label("Weight of description, as a number")).to_have_value("1")


def test_a_weight_that_is_no_number_leaves_the_draft_alone(page: Page):
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    box = page.get_by_label("Weight of title, as a number")
    for typed in ("", "many", "-3"):
        box.fill(typed)
        box.press("Enter")
        expect(box).to_have_value("3")
    expect(page).not_to_have_url(re.compile(r"[?&]d="))


def test_a_reading_of_weight_0_takes_no_part(page: Page):
    page.goto(f"/saltmere/ranking?q=asmoe&ranker=first:1&{weighing(0, 0, 1, 0)}")
    expect(page.get_by_role("complementary", name="Why").get_by_test_id("why-part")).to_have_count(1)
    expect(page.get_by_role("complementary", name="Why")).to_contain_text("maker")


def test_a_kept_version_can_be_the_baseline(page: Page, address: str):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(1, 2, 1, 5)}")
    page.get_by_role("button", name="Keep as a new version").click()
    expect(page.get_by_label("Knobs")).to_contain_text(re.compile(r"Kept as first \d+\."))
    baseline = page.get_by_label("Baseline")
    versions = [name for name in baseline.locator("option").all_inner_texts() if name.startswith("first ")]
    assert len(versions) >= 2
    baseline.select_option("first 1")
    expect(page.get_by_label("Weight of title, as a number")).to_have_value("3")
    baseline.select_option(versions[0])
    expect(page.get_by_label("Weight of title, as a number")).to_have_value("1")


def test_a_place_or_collection_that_is_not_there_leads_back(page: Page):
    page.goto("/saltmere/nowhere")
    expect(page).to_have_url(re.compile("/saltmere/ranking"))
    page.goto("/nowhere/ranking")
    expect(page.get_by_text("There is no collection “nowhere”")).to_be_visible()
    page.get_by_role("link", name="Go to the first").click()
    expect(page).to_have_url(re.compile("/saltmere/ranking"))


def test_the_arithmetic_is_copied_as_text(page: Page):
    page.goto("/saltmere/ranking?q=lighthouse+keepers&ranker=first:1")
    why = page.get_by_role("complementary", name="Why")
    expect(why.get_by_test_id("why-score")).to_be_visible()
    why.get_by_role("button", name="Copy").click()
    expect(why.get_by_role("button", name="Copied")).to_be_visible()
    text = page.evaluate("navigator.clipboard.readText()")
    score = why.get_by_test_id("why-score").inner_text()
    assert f"{float(text.splitlines()[0].rpartition(': ')[2]):.3f}" == score


def test_a_server_that_is_gone_is_told_and_its_answer_used_when_it_is_back(page: Page):
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    expect(page.get_by_label("Results").locator("[data-row]").first).to_be_visible()
    page.route(
        "**/search", lambda route: route.fulfill(status=422, json={"status": 422, "title": "x", "detail": "Too odd."})
    )
    page.get_by_label("Query", exact=True).fill("bell fog horn")
    expect(page.get_by_role("alert")).to_contain_text("Too odd.")
    page.unroute("**/search")
    page.get_by_label("Query", exact=True).fill("bell fog horns")
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(page.get_by_label("Results").locator("[data-row]").first).to_be_visible()


def test_a_shared_draft_stands_on_the_version_that_it_was_made_on(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    baseline = page.get_by_label("Baseline")
    was = baseline.input_value()
    page.get_by_label("Weight of title, as a number").fill("0.7")
    page.get_by_label("Weight of title, as a number").press("Enter")
    expect(page).to_have_url(re.compile("ranker=" + was.replace(":", "(%3A|:)")))
    shared = page.url
    # Meanwhile a colleague keeps another version, whose readings are others.
    name = was.split(":")[0]
    kept = page.request.get("/api/collections/saltmere/rankers").json()
    document = next(one["document"] for one in kept if f"{one['name']}:{one['version']}" == was)
    turned = document | {"readings": document["readings"][1:]}
    put = page.request.put(f"/api/collections/saltmere/rankers/{name}", data={"document": turned, "note": "fewer"})
    assert put.ok
    page.goto(shared)
    expect(baseline).to_have_value(was)
    expect(page.get_by_label("Weight of title, as a number")).to_have_value("0.7")
    expect(page.get_by_test_id("draft-differences")).to_have_text(re.compile(r"Draft: title weight [\d.]+ to 0\.7$"))


def test_a_reading_that_is_taken_out_closes_and_opens_no_other(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell&ranker=first:1")
    page.get_by_role("button", name="More of title").click()
    page.get_by_label("Knobs").get_by_role("button", name="take it out").click()
    expect(page.get_by_label("Weight of title", exact=True)).to_have_count(0)
    expect(page.get_by_role("button", name="More of description")).to_have_attribute("aria-expanded", "false")
    expect(page.get_by_label("Knobs").get_by_role("button", name="take it out")).to_have_count(0)


def test_the_bare_address_leads_to_the_collection_last_used(page: Page):
    assert page.request.post("/api/collections", data={"name": "aquay"}).ok
    page.goto("/")
    expect(page).to_have_url(re.compile("/saltmere/ranking"))
    page.goto("/aquay/records")
    expect(page.get_by_label("Collection", exact=True)).to_have_value("aquay")
    page.goto("/")
    expect(page).to_have_url(re.compile("/aquay/ranking"))
    assert page.request.delete("/api/collections/aquay?confirm=aquay").ok
    page.goto("/")
    expect(page).to_have_url(re.compile("/saltmere/ranking"))
