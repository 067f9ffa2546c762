"""Whole queries suggested in the search box, by keyboard, and the recipe they come from."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

FIRST = "/saltmere/ranking?q=lamp&ranker=first:1"


def switch_on(page: Page, path: str = FIRST) -> None:
    page.goto(path)
    page.get_by_role("button", name=re.compile("^Completions")).click()
    page.get_by_role("checkbox", name="Suggest whole queries").check()
    expect(page.get_by_role("button", name=re.compile("^Completions"))).to_contain_text("from the usual")


def test_a_suggestion_is_taken_by_keyboard(page: Page):
    switch_on(page)
    box = page.get_by_role("combobox", name="Query")
    options = page.get_by_role("listbox", name="Suggestions").get_by_role("option")
    page.keyboard.press("Escape")
    box.fill("")
    box.press_sequentially("lighth")
    expect(options.first).to_have_text("lighthouse")
    expect(options.first.locator("mark")).to_have_text("lighth")
    expect(box).to_have_attribute("aria-expanded", "true")
    # The focus stays in the box; the arrows go through the suggestions and back to what was typed.
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(options.nth(1)).to_have_attribute("aria-selected", "true")
    expect(box).to_have_attribute("aria-activedescendant", options.nth(1).get_attribute("id") or "none")
    expect(box).to_be_focused()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    expect(box).not_to_have_attribute("aria-activedescendant", re.compile(".*"))
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(box).to_have_value("lighthouse keepers")
    expect(options).to_have_count(0)
    expect(page.get_by_label("Results")).to_contain_text("What the life of the people who kept the lights was like")
    # Escape closes, and only then leaves the box.
    box.press_sequentially(" ")
    page.keyboard.press("Backspace")
    expect(options.first).to_be_visible()
    page.keyboard.press("Escape")
    expect(options).to_have_count(0)
    expect(box).to_be_focused()
    page.keyboard.press("ArrowDown")
    expect(options.first).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(box).not_to_be_focused()


def test_a_suggestion_is_taken_by_a_press_and_another_place_has_a_plain_box(page: Page):
    switch_on(page)
    page.get_by_role("combobox", name="Query").fill("shipsb")
    page.get_by_role("combobox", name="Query").fill("votiv")
    page.get_by_role("option", name="votive ship", exact=True).click()
    expect(page.get_by_role("combobox", name="Query")).to_have_value("votive ship")
    page.get_by_role("link", name="Records").click()
    expect(page.get_by_role("searchbox", name="Query")).to_have_value("votive ship")


def test_a_draft_suggests_beside_its_baseline_and_tells_what_it_takes(page: Page):
    switch_on(page)
    page.get_by_role("button", name="Try what is suggested").click()
    panel = page.get_by_role("region", name="What is suggested")
    panel.get_by_label("Typed so far").fill("harb")
    expect(panel).to_contain_text(re.compile(r"[\d,]+ suggestions · [\d,]+ places to begin at"))
    draft, baseline = panel.get_by_role("list").nth(0), panel.get_by_role("list").nth(1)
    expect(draft.get_by_role("listitem")).to_have_count(10)
    expect(baseline.get_by_role("listitem")).to_have_count(10)
    # Past queries taken out of the draft: the baseline still suggests them.
    expect(draft.get_by_role("button", name="harbour master", exact=True)).to_be_visible()
    knobs = page.get_by_role("region", name="Knobs")
    knobs.get_by_role("button", name="Change where they come from").click()
    expect(page.get_by_role("button", name=re.compile("^Completions"))).to_contain_text("from 6 sources")
    knobs.get_by_role("button", name="take out past queries").click()
    expect(draft.get_by_role("button", name="harbour dues", exact=True)).to_have_count(0)
    expect(baseline.get_by_role("button", name="harbour dues", exact=True)).to_be_visible()
    panel.get_by_role("button", name="What it takes to begin at any word").click()
    expect(panel.get_by_role("row")).to_have_count(3)
    # The address holds it.
    page.reload()
    expect(panel.get_by_label("Typed so far")).to_have_value("harb")
    panel.get_by_role("button", name="close").click()
    expect(panel).to_have_count(0)


def test_past_queries_are_loaded_in_place(page: Page, tmp_path: Path):
    switch_on(page)
    knobs = page.get_by_role("region", name="Knobs")
    expect(knobs).to_contain_text(re.compile(r"[\d,]+ queries, asked [\d,]+ times, from past-queries.tsv"))
    wrong = tmp_path / "wrong.tsv"
    wrong.write_text("fog\tmany\n")
    knobs.get_by_label("Past queries file").set_input_files(wrong)
    expect(knobs.get_by_role("alert")).to_contain_text("line 1")
    own = tmp_path / "own.tsv"
    own.write_text("sextant box\t4\nsextant\t9\n")
    knobs.get_by_label("Past queries file").set_input_files(own)
    expect(knobs).to_contain_text("2 queries, asked 13 times, from own.tsv")
    knobs.get_by_role("button", name="forget them").click()
    expect(knobs).to_contain_text("None is loaded.")
