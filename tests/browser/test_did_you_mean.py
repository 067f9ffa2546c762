"""A correction that is told above the list, taken by a press, or taken by itself."""

import re

from playwright.sync_api import Page, expect


def switch_on(page: Page, query: str) -> None:
    page.goto(f"/saltmere/ranking?q={query}&ranker=first:1")
    page.get_by_role("button", name=re.compile("^Did you mean")).click()
    page.get_by_role("checkbox", name="Say what may have been meant").check()


def test_a_correction_is_taken_by_a_press(page: Page):
    switch_on(page, "lightouse clockwork")
    told = page.get_by_label("Correction")
    expect(told).to_contain_text("Did you mean lighthouse clockwork?")
    expect(told).to_contain_text("records hold all of its words, none those that were typed")
    expect(told.locator("mark")).to_have_text("lighthouse")
    told.get_by_role("button").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_label("Query", exact=True)).to_have_value("lighthouse clockwork")
    expect(told).to_have_count(0)
    # Back is the query as it was typed.
    page.go_back()
    expect(page.get_by_label("Query", exact=True)).to_have_value("lightouse clockwork")
    expect(told).to_be_visible()


def test_it_is_taken_by_itself_where_nothing_is_found_and_can_be_refused(page: Page):
    switch_on(page, "sextent")
    expect(page.get_by_label("Correction")).to_contain_text("Did you mean sextant?")
    knobs = page.get_by_role("region", name="Knobs")
    knobs.get_by_label("Taken by itself").select_option("nothing")
    expect(page.get_by_label("Correction")).to_contain_text("this is the list of “sextant”")
    expect(page.get_by_label("Results").locator("[data-row]").first).to_be_visible()
    page.get_by_role("button", name="Search as it was typed").click()
    expect(page.get_by_label("Correction")).to_contain_text("Did you mean sextant?")
    expect(page.get_by_label("Results").locator("[data-row]")).to_have_count(0)
    # Of that very query alone: another one is corrected again.
    page.get_by_label("Query", exact=True).fill("harpon")
    expect(page.get_by_label("Correction")).to_contain_text("this is the list of “harpoon”")


def test_what_corrections_do_is_told_before_they_are_kept(page: Page):
    switch_on(page, "sextent")
    page.get_by_role("button", name="What they do to judged queries and to made-up slips").click()
    told = page.get_by_role("group", name="What corrections do")
    expect(told).to_contain_text("0 of them were right and are told something else.")
    expect(told).to_contain_text(re.compile(r"Of 200 made-up slips \d+ are mended"))
    expect(told.get_by_role("row")).to_have_count(9)
