"""Drafts, baselines and judged queries across the places: what is seen in one is seen in all."""

import re

from playwright.sync_api import Page, expect

from tests.browser.addresses import weighing


def meter(page: Page):
    return page.get_by_label("Judged meter")


def test_the_meter_follows_the_draft_from_place_to_place(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    expect(meter(page).get_by_label(re.compile(r"[1-9]\d* gained, [1-9]\d* lost"))).to_be_visible()
    said = meter(page).get_by_role("link").text_content() or ""
    for place in ("Measures", "Chains", "Ranking"):
        page.get_by_role("navigation", name="Places").get_by_role("link", name=place).click()
        expect(page).to_have_url(re.compile(f"/{place.lower()}.*weight%22%3A0.5"))
        expect(meter(page).get_by_role("link")).to_have_text(said)


def test_a_stroke_of_the_waterline_opens_its_query(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    strokes = page.get_by_role("group", name="Judged queries, from gain to loss").get_by_role("button")
    expect(strokes.first).to_be_visible()
    spoken = strokes.evaluate_all("all => all.map(b => b.ariaLabel)")
    labels = [label.replace("\u2212", "-").removesuffix("; an expectation is broken") for label in spoken]
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
    page.goto("about:blank")  # whatever it still asks for is let go before the collection goes
    assert page.request.delete("/api/collections/aquay?confirm=aquay").ok
    page.goto("/")
    expect(page).to_have_url(re.compile("/saltmere/ranking"))


def test_a_draft_survives_the_logo_and_a_closed_window_and_is_offered_again(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell&ranker=first:1")
    weight = page.get_by_label("Weight of title, as a number")
    bar = page.get_by_label("Draft", exact=True)
    with page.expect_response(lambda r: r.url.endswith("/drafts") and r.request.method == "POST"):
        weight.fill("2.25")
        weight.press("Enter")
    expect(bar).to_contain_text("Draft of first 1, not kept")
    # What is gone on with is the same draft, not another one.
    with page.expect_response(lambda r: "/drafts/" in r.url and r.request.method == "PUT"):
        weight.fill("2.5")
        weight.press("Enter")
    page.get_by_role("link", name="Pale Harbor").click()
    left = page.get_by_label("Drafts that were left")
    expect(left).to_contain_text("A draft of first 1 was left")
    expect(left).to_contain_text("title weight 3 to 2.5")
    page.goto("about:blank")
    page.goto("/saltmere/records")
    left.get_by_role("button", name="Take it up").click()
    expect(bar).to_contain_text("Draft of first 1, not kept")
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Ranking").click()
    expect(weight).to_have_value("2.5")
    with page.expect_response(lambda r: "/drafts/" in r.url and r.request.method == "DELETE"):
        bar.get_by_role("button", name="Discard").click()
    expect(weight).to_have_value("3")
    drafts = page.request.get("/api/collections/saltmere/drafts").json()
    assert not any(one["says"] == ["title weight 3 to 2.5"] for one in drafts)
    # Discarding is a change like others.
    left.get_by_role("button", name="Undo the last change of the draft").click()
    expect(weight).to_have_value("2.5")
    page.get_by_label("Draft", exact=True).get_by_role("button", name="Discard").click()


def test_undo_spans_places(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell&ranker=first:1")
    weight = page.get_by_label("Weight of title, as a number")
    weight.fill("2.75")
    weight.press("Enter")
    expect(page.get_by_label("Draft", exact=True)).to_be_visible()
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Measures").click()
    expect(page).to_have_url(re.compile("/measures.*weight"))
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Draft", exact=True)).to_be_hidden()
    expect(page).not_to_have_url(re.compile("[?&]d="))
    page.keyboard.press("Control+Shift+z")
    expect(page).to_have_url(re.compile("weight%22%3A2.75"))
    page.get_by_label("Draft", exact=True).get_by_role("button", name="Undo").click()
    expect(page).not_to_have_url(re.compile("[?&]d="))


def test_keeping_tells_of_a_version_that_was_kept_meanwhile(page: Page):
    request, path = page.request, "/api/collections/saltmere/rankers"
    document = request.get(f"{path}/first?version=1").json()["document"]
    assert request.put(f"{path}/quick", data={"document": document}).ok
    page.goto("/saltmere/ranking?q=fog+bell&ranker=quick:1")
    weight = page.get_by_label("Weight of title, as a number")
    weight.fill("6")
    weight.press("Enter")
    turned = document | {"readings": document["readings"][:2]}
    assert request.put(f"{path}/quick", data={"document": turned, "note": "fewer readings"}).ok
    page.get_by_role("button", name="Keep as a new version").click()
    knobs = page.get_by_label("Knobs")
    expect(knobs).to_contain_text("quick:2 was kept meanwhile: fewer readings")
    page.get_by_label("Why this version is kept").fill("titles\nfirst")
    knobs.get_by_role("button", name="Keep this one all the same").click()
    expect(knobs).to_contain_text("Kept as quick 3.")
    page.keyboard.press("v")
    kept = page.get_by_role("listitem", name="quick 3")
    expect(kept).to_contain_text("title weight")
    expect(kept.get_by_role("row")).to_have_count(4)
    kept.get_by_role("button", name="in other words").click()
    kept.get_by_label("Why quick 3 was kept").fill("a heavier title")
    kept.get_by_role("button", name="say so").click()
    expect(kept).to_contain_text("“a heavier title”")


def test_a_draft_is_kept_as_another_ranker(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell&ranker=first:1")
    weight = page.get_by_label("Weight of title, as a number")
    weight.fill("5.5")
    weight.press("Enter")
    name = page.get_by_label("Name of the ranker")
    expect(name).to_have_value("first")
    name.fill("blended")
    page.get_by_role("button", name="Keep as another ranker").click()
    expect(page.get_by_label("Knobs")).to_contain_text('There is a ranker "blended" already')
    name.fill("titles")
    page.get_by_role("button", name="Keep as another ranker").click()
    expect(page.get_by_label("Knobs")).to_contain_text("Kept as titles 1.")
    expect(page.get_by_label("Baseline")).to_have_value("titles:1")
