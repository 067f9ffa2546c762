"""A query while it is being typed: its list, the player, and a judged set letter by letter."""

import re

from playwright.sync_api import Page, expect

FIRST = "/saltmere/ranking?q=sextant&ranker=first:1"


def test_a_query_is_played_letter_by_letter_and_the_wanted_record_is_followed(page: Page):
    page.goto(FIRST)
    results = page.get_by_label("Results")
    wanted = results.locator("[data-row]").first
    key = wanted.get_attribute("data-row")
    page.keyboard.press("t")
    player = page.get_by_role("region", name="Letter by letter")
    letters = player.get_by_role("group", name=re.compile("^Letters")).get_by_role("button")
    expect(letters).to_have_count(7)
    # Whole words only: it is found by its last letter.
    expect(player).to_contain_text(f"{key} is among the first ten from letter 7 on")
    player.get_by_role("button", name="Take the last word for a beginning").click()
    expect(player).to_contain_text(re.compile(f"{key} is among the first ten from letter [1-5] on"))
    expect(page.get_by_role("button", name=re.compile("^As typed"))).to_contain_text("from 1 letter")
    # Back by a key: the list is that of what is typed by then.
    letters.nth(6).focus()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(letters.nth(4)).to_be_focused()
    expect(letters.nth(4)).to_have_attribute("aria-pressed", "true")
    expect(results).to_contain_text("read as “sexta”")
    expect(results.locator("mark").first).to_contain_text(re.compile("sexta", re.IGNORECASE))
    page.keyboard.press("Home")
    expect(results).to_contain_text("read as “s”")
    expect(page.get_by_label("Query", exact=True)).to_have_value("sextant")


def test_it_plays_by_itself_and_pauses(page: Page):
    page.goto(f"{FIRST}&typed=yes&at=5")
    player = page.get_by_role("region", name="Letter by letter")
    letters = player.get_by_role("group", name=re.compile("^Letters")).get_by_role("button")
    expect(letters.nth(4)).to_have_attribute("aria-pressed", "true")
    player.get_by_role("button", name="Play").click()
    expect(letters.nth(6)).to_have_attribute("aria-pressed", "true")
    expect(player.get_by_role("button", name="Play")).to_be_visible()
    # Who types on is at the end again.
    page.get_by_label("Query", exact=True).fill("sextants")
    expect(letters).to_have_count(8)
    expect(letters.nth(7)).to_have_attribute("aria-pressed", "true")


def test_a_judged_set_is_typed_and_each_query_can_be_played(page: Page):
    page.goto("/saltmere/measures?view=letters&ranker=first:1")
    view = page.get_by_role("region", name="Letters until found")
    expect(view).to_contain_text("This ranker takes whole words only", timeout=60_000)
    expect(view.get_by_role("img")).to_have_accessible_name(re.compile("half of them by letter"))
    view.get_by_label("Found is among the first").select_option("1")
    expect(page).to_have_url(re.compile("among=1"))
    expect(view.get_by_role("columnheader", name="letters")).to_be_visible(timeout=60_000)
    view.get_by_role("table").get_by_role("link").first.click()
    expect(page.get_by_role("region", name="Letter by letter")).to_contain_text("letter")
