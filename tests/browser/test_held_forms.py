"""What is half written stays while a tab is left, and goes once it is kept or taken back."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect


def away_and_back(page: Page, tab: str, back: str) -> None:
    """To another tab of the same place, by a click as people do, and back."""
    for name in (tab, back):
        button = page.get_by_role("button", name=re.compile(f"^{name}")).first
        button.click()
        expect(button).to_have_attribute("aria-current", "page")


def test_how_records_are_shown_is_held_until_it_is_kept_or_taken_back(page: Page):
    page.goto("/saltmere/records?view=display")
    title = page.get_by_label("Title", exact=True)
    was = title.input_value()
    title.select_option("maker")
    away_and_back(page, "Browse", "In result lists")
    expect(title).to_have_value("maker")
    page.get_by_role("button", name="Take back").click()
    expect(title).to_have_value(was)
    away_and_back(page, "Browse", "In result lists")
    expect(title).to_have_value(was)


def test_corrections_of_an_import_are_held(page: Page, tmp_path_factory: pytest.TempPathFactory):
    file = tmp_path_factory.mktemp("held") / "lamps.csv"
    file.write_text("nr,title,made\n1,Quay lamp,1846\n2,Bow lamp,1850\n")
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files(file)
    kind = page.get_by_label("Kind of made")
    kind.select_option("exact")
    away_and_back(page, "Browse", "Import and export")
    expect(kind).to_have_value("exact")
    page.get_by_role("button", name="Cancel").click()
    away_and_back(page, "Browse", "Import and export")
    expect(page.get_by_label("File to import")).to_be_attached()


def filled(page: Page, label: str, text: str) -> Locator:
    box = page.get_by_label(label, exact=True)
    box.fill(text)
    return box


def test_a_query_is_held_until_it_is_added_and_only_in_memory(page: Page):
    page.goto("/saltmere/judging?set=visitors&view=queries&new=query")
    text = filled(page, "Query text", "brass spyglass")
    away_and_back(page, "Agreement", "Queries")
    page.get_by_role("button", name="Add", exact=True).first.click()
    expect(text).to_have_value("brass spyglass")
    page.reload()
    expect(text).to_have_value("")
    filled(page, "Query text", "brass spyglass")
    page.get_by_role("button", name="Add", exact=True).last.click()
    expect(page.get_by_role("heading", name=re.compile("^Query "))).to_be_visible()
    page.get_by_role("button", name="Add", exact=True).first.click()
    expect(text).to_have_value("")


def test_what_an_expectation_and_a_complaint_say_is_held(page: Page):
    page.goto("/saltmere/judging?set=visitors&view=expectations")
    note = page.get_by_label("Note", exact=False).first
    note.fill("the gallery asks for it")
    away_and_back(page, "Agreement", "Expectations")
    expect(note).to_have_value("the gallery asks for it")
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    expect(page.get_by_label("Results").locator("[data-row]").first).to_be_visible()
    page.get_by_role("button", name="complain").first.click()
    words = filled(page, "Complaint", "no bell that rings")
    page.keyboard.press("Escape")
    expect(words).to_have_count(0)
    page.get_by_role("button", name="complain").first.click()
    expect(words).to_have_value("no bell that rings")


def test_a_word_list_is_held_until_it_is_kept(page: Page):
    page.goto("/saltmere/chains?aside=lists")
    page.get_by_label("Word lists").get_by_role("button", name="words", exact=True).click()
    entries = filled(page, "Entries as CSV", "word\nbarnacle\n")
    away_and_back(page, "Consequences", "Word lists")
    expect(entries).to_have_value("word\nbarnacle\n")
    filled(page, "Name of the list", "crusts")
    page.get_by_role("button", name="Keep", exact=False).first.click()
    expect(page.get_by_role("button", name="@crusts")).to_be_visible()
    page.get_by_label("Word lists").get_by_role("button", name="words", exact=True).click()
    expect(entries).to_have_value("word\n")
