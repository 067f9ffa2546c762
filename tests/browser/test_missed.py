"""What is missed, the terms around a word, and the meter by another measure."""

import re

from playwright.sync_api import Page, expect

FIRST = "ranker=first:1"


def test_the_good_records_of_the_open_query_that_are_missed_lead_to_why_not(page: Page):
    page.goto(f"/saltmere/ranking?q=harpon&{FIRST}")
    expect(page.get_by_text("Nothing found")).to_be_visible()
    page.locator("body").press("m")
    missed = page.get_by_role("complementary", name="Missed")
    expect(missed).to_contain_text("recall 0.000: 0 of 26 good records among the first 10, 0 found at all")
    first = missed.get_by_role("list", name="Missed of “harpon”").get_by_role("listitem").first
    expect(first).to_contain_text("not found · It holds no word of the query in any reading.")
    first.get_by_role("button").click()
    expect(page).to_have_url(re.compile("tab=not&key=|key=.*tab=not"))
    expect(page.get_by_test_id("why-not-rank")).to_have_text("It is not in the list.")


def test_a_query_that_nobody_judged_says_so(page: Page):
    page.goto(f"/saltmere/ranking?q=unheard&tab=missed&{FIRST}")
    expect(page.get_by_role("complementary", name="Missed")).to_contain_text("This query is not judged")


def test_what_is_missed_of_the_set_changes_with_its_depth(page: Page):
    page.goto(f"/saltmere/measures?view=missed&{FIRST}")
    told = page.get_by_role("region", name="What is missed")
    expect(told).to_contain_text("among the first 10, over 96 queries with good records")
    expect(told.get_by_role("region").first).to_contain_text("0.000")
    told.get_by_label("How far down a good record may be").select_option("1000")
    expect(told).to_contain_text("among the first 1000, over 96 queries")
    expect(page).to_have_url(re.compile("depth=1000"))
    told.get_by_role("button", name=re.compile(r"^\d+ more$")).first.click()
    told.get_by_role("region", name="harpon", exact=True).get_by_role("heading").get_by_role("button").click()
    expect(page).to_have_url(re.compile(r"/saltmere/ranking\?.*q=harpon"))


def test_the_terms_around_a_word_move_as_slack_is_turned(page: Page):
    page.goto(f"/saltmere/ranking?q=harpon&{FIRST}")
    page.get_by_role("button", name=re.compile("Spelling slack")).click()
    around = page.get_by_role("region", name="Terms around the query’s words")
    row = around.get_by_role("row", name=re.compile("harpoon ")).first
    expect(row).to_contain_text("0.77")
    expect(row).to_have_attribute("data-taken", "false")
    page.get_by_label("Words near a word count too").check()
    expect(row).to_have_attribute("data-taken", "true")
    expect(page.get_by_text("Nothing found")).to_have_count(0)


def test_the_meter_goes_by_the_measure_that_is_chosen_in_every_place(page: Page):
    page.goto(f"/saltmere/ranking?q=harpon&{FIRST}")
    meter = page.get_by_role("group", name="Judged meter")
    shown = meter.get_by_role("link")
    expect(shown).to_contain_text("nDCG@10")
    meter.get_by_label("Measure of the meter").select_option("recall@100")
    expect(shown).to_contain_text("R@100")
    expect(page).to_have_url(re.compile("by=recall"))
    shown.click()
    expect(page.get_by_role("heading", name="R@100 by tag")).to_be_visible()
    mean = page.get_by_test_id("mean-recall@100")
    expect(mean).to_have_text(re.compile(r"^0\.\d{3}$"))
    expect(shown).to_contain_text(mean.inner_text())
