"""From a complaint to a kept version: find out why a record is missing, mend it, see it arrive, keep it."""

import re

from playwright.sync_api import Page, expect

from tests.browser.addresses import weighing


def rows(page: Page):
    return page.get_by_label("Results").locator("[data-row]")


def knobs(page: Page):
    return page.get_by_label("Knobs")


def test_a_missing_record_is_mended_kept_and_made_the_baseline(page: Page):
    page.goto("/saltmere/ranking?q=harpon&ranker=first:1")
    expect(page.get_by_label("Results")).to_contain_text("Nothing found")
    page.keyboard.press("n")
    key = page.get_by_label("Key or title of a record")
    expect(key).to_be_focused()
    key.fill("sm0001")
    key.press("Enter")
    panel = page.get_by_role("complementary", name="Why not")
    expect(panel).to_contain_text("It is not in the list.")
    expect(panel.get_by_role("region", name="Missing word harpon")).to_contain_text(re.compile(r"harpoon\s*title\s*1"))
    panel.get_by_label("Take into the draft: spelling slack by the length of the word").click()
    # It arrives, on the right letters, and the meter tells what the knob does to the judged queries.
    expect(rows(page).locator("mark").first).to_have_text(re.compile("harpoon", re.IGNORECASE))
    expect(page.get_by_label("Results").locator("[data-row=sm0001]")).to_be_visible()
    expect(panel.get_by_test_id("why-not-rank")).to_contain_text(re.compile(r"It is number \d+ of the list"))
    expect(page.get_by_test_id("draft-differences")).to_contain_text("spelling slack off to by length")
    expect(page.get_by_label("Waterline")).to_contain_text(re.compile(r"[1-9]\d* gained"))
    page.get_by_label("Why this version is kept").fill("visitors misspell harpoon")
    page.get_by_role("button", name="Keep as a new version").click()
    expect(knobs(page)).to_contain_text(re.compile(r"Kept as first \d+"))
    # The difference can be read, and any version set as baseline.
    page.get_by_role("tab", name="Versions").click()
    kept = page.get_by_role("list", name="Kept versions").get_by_role("listitem").first
    expect(kept).to_contain_text("“visitors misspell harpoon”")
    expect(kept.get_by_role("row", name="spelling slack off by length")).to_be_visible()
    expect(kept).to_contain_text("baseline")
    first = page.get_by_label("first 1", exact=True)
    first.get_by_role("button", name="set as baseline").click()
    expect(page).to_have_url(re.compile("ranker=first%3A1"))
    expect(page.get_by_label("Results")).to_contain_text("Nothing found")
    kept.get_by_role("button", name="set as baseline").click()
    expect(page.get_by_label("Results").locator("[data-row=sm0001]")).to_be_visible()
    expect(page.get_by_label("Waterline")).to_contain_text("The draft is the baseline")


def test_every_part_of_a_ranker_has_its_knobs_and_comes_back_by_undo(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell&ranker=first:1")
    expect(rows(page).first).to_be_visible()
    found = page.get_by_label("Results").locator("b").first
    many = found.inner_text()
    page.get_by_role("button", name="Matching").click()
    page.get_by_label("Words needed").select_option("all")
    expect(found).not_to_have_text(many)
    page.get_by_role("button", name="Signals").click()
    page.get_by_label("Add a signal").select_option("visitor_requests")
    expect(page.get_by_role("complementary", name="Why")).to_contain_text("visitor_requests, log")
    page.get_by_role("button", name="More of title").click()
    page.get_by_label("nearness", exact=True).check()
    expect(page.get_by_test_id("draft-differences")).to_contain_text(
        "title nearness weight 1, gap 0, in order; words needed: any to all; new signal: visitor_requests log, 1 added"
    )
    link = page.url
    for _ in range(3):
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Undo").click()
    expect(found).to_have_text(many)
    expect(knobs(page)).to_contain_text("Turn a knob to begin a draft")
    # A link brings the whole draft back.
    page.goto(link)
    expect(page.get_by_test_id("draft-differences")).to_contain_text("words needed: any to all")


def test_a_rule_pins_a_record_and_can_be_switched_off(page: Page):
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    expect(rows(page).first).to_be_visible()
    page.get_by_role("button", name="Rules").click()
    page.get_by_role("button", name="add a rule").click()
    page.get_by_label("Keys of records").fill("")
    page.get_by_label("Add a record by its title").fill("toggle-head harp")
    page.get_by_role("option").filter(has_text="sm0001").click()
    expect(page.get_by_label("Keys of records")).to_have_value("sm0001")
    expect(page.get_by_label("Add a record by its title")).to_have_value("")
    page.get_by_label("Reason for the rule").fill("the whaling exhibition")
    page.get_by_role("button", name="Add it to the draft").click()
    expect(rows(page).first).to_have_attribute("data-row", "sm0001")
    expect(rows(page).first).to_contain_text("pinned")
    expect(page.get_by_label("How the query was read")).to_contain_text("Rule 1 was at work: the whaling exhibition")
    page.get_by_label("Rule 1 on").uncheck()
    expect(rows(page).first).not_to_have_attribute("data-row", "sm0001")


def test_lists_are_narrowed_by_facets_and_leafed_through(page: Page):
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    expect(rows(page).first).to_be_visible()
    page.get_by_label("Count the values of a field").select_option("kind")
    values = page.get_by_role("group", name="Values of kind")
    letters = values.get_by_role("button", name=re.compile("^letter"))
    count = letters.inner_text().split()[-1]
    letters.click()
    expect(page.get_by_label("Results").locator("b").first).to_have_text(count)
    expect(letters).to_have_attribute("aria-pressed", "true")
    page.get_by_label("Drop the filter kind is letter").click()
    page.get_by_role("button", name="next").click()
    expect(rows(page).first).to_contain_text(re.compile(r"^21"))
    expect(page).to_have_url(re.compile("skip=20"))
    page.get_by_label("Order of the list").select_option("-year")
    expect(rows(page).first).to_contain_text(re.compile(r"^1"))


def test_several_drafts_stand_side_by_side_and_two_rows_are_told_apart(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(0.5, 2, 1, 5)}")
    expect(rows(page).nth(3)).to_be_visible()
    second = rows(page).nth(1).get_attribute("data-row") or ""
    page.get_by_label("Compare with another row").select_option(second)
    beside = page.get_by_role("region", name="Two rows side by side")
    expect(beside).to_contain_text("score")
    scores = [float(text) for text in beside.locator("tr").last.locator("td.figure").all_inner_texts()[:2]]
    parts = beside.locator("tbody tr").all()[:-1]
    for column, score in enumerate(scores):
        told = sum(float(part.locator("td.figure").nth(column).inner_text()) for part in parts)
        assert abs(told - score) < 0.002 * (len(parts) + 1)
    page.keyboard.press("p")
    page.keyboard.press("b")
    parked = page.get_by_role("region", name="List of draft of first 1")
    expect(parked).to_contain_text("title weight 3 to 0.5; description weight 1 to 2")
    expect(parked.get_by_role("listitem")).to_have_count(20)
    expect(page.get_by_role("region", name="List of the draft")).to_be_visible()
    page.get_by_label("Take away the list of draft of first 1").click()
    expect(rows(page).first).to_be_visible()


def test_what_was_typed_and_could_not_be_read_is_said(page: Page):
    page.goto("/saltmere/ranking?ranker=first:1&q=%22fog+bell%22+-school+year:1850..1950+(")
    results = page.get_by_label("Results")
    expect(results).to_contain_text("read as exactly “fog bell”, without school, year from 1850 to 1950")
    expect(results).to_contain_text("A parenthesis without its partner was passed over.")


def test_a_readings_chain_is_opened_in_chains(page: Page):
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    page.get_by_role("button", name="More of maker").click()
    page.get_by_role("button", name="open its chain").click()
    expect(page).to_have_url(re.compile(r"/saltmere/chains\?.*field=maker"))
    expect(page.get_by_label("Record chain", exact=True)).to_have_text("nfkc > words > lower > accents")


def test_a_synonym_is_kept_in_a_word_list_and_read_by_the_draft(page: Page):
    page.goto("/saltmere/ranking?q=spyglass&ranker=first:1&tab=not&key=sm0001")
    panel = page.get_by_role("complementary", name="Why not")
    offered = panel.get_by_role("region", name="Synonyms that would bring it in")
    # Three words of the title and three of the description.
    expect(offered.get_by_role("listitem")).to_have_count(6)
    words = offered.get_by_role("listitem").first.locator("span").first.inner_text()
    list_name = words.split("@")[1]
    offered.get_by_role("button", name=f"Take into the draft: {words}").click()
    expect(page.get_by_label("Results").locator("[data-row=sm0001]")).to_be_visible()
    expect(panel.get_by_test_id("why-not-rank")).to_contain_text(re.compile(r"It is number \d+ of the list"))
    expect(page.get_by_test_id("draft-differences")).to_contain_text(f"@{list_name}:")
    # It is a list like any other.
    page.goto("/saltmere/chains?aside=lists")
    expect(page.get_by_role("complementary")).to_contain_text(f"@{list_name}")
