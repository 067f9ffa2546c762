"""Everything is found by a few letters, a record by its title, and what is in view can be done by hand and by key."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

FIRST = "ranker=first:1"


def test_the_palette_finds_a_view_an_action_a_ranker_a_query_and_a_record(page: Page):
    page.goto(f"/saltmere/records?{FIRST}")
    expect(page.get_by_role("table").first).to_be_visible()
    page.keyboard.press("Control+k")
    box = page.get_by_role("combobox", name=re.compile("^Find a place"))
    expect(box).to_be_focused()
    found = page.get_by_role("listbox", name="Found").get_by_role("option")
    expect(found.first).to_contain_text("Records")
    box.fill("head to")
    expect(found.first).to_contain_text("Head to head")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/saltmere/measures\?.*view=head"))
    page.keyboard.press("Control+k")
    box.fill("foghorn")
    expect(found.filter(has_text="judged query").first).to_be_visible()
    expect(found.filter(has_text=re.compile("record$")).first).to_contain_text("oghorn")
    box.fill("blended 1")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/saltmere/ranking\?.*ranker=blended(%3A|:)1"))
    page.keyboard.press("Control+k")
    box.fill("no such thing at all")
    expect(page.get_by_text("Nothing is called so.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(box).to_have_count(0)


def test_a_dialog_holds_the_focus_and_gives_it_back(page: Page):
    page.goto(f"/saltmere/ranking?q=fog+bell&{FIRST}")
    complain = page.get_by_role("button", name="complain")
    complain.click()
    dialog = page.get_by_role("dialog", name="A complaint")
    expect(dialog).to_be_visible()
    for _ in range(14):
        page.keyboard.press("Tab")
        # Between the last and the first stands the browser's own bar, which is the body here.
        assert page.evaluate(
            "document.activeElement.closest('dialog') !== null || document.activeElement === document.body"
        )
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    expect(complain).to_be_focused()
    page.get_by_role("button", name="Keys").click()
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    # What is under a dialog does nothing.
    page.keyboard.press("n")
    expect(page).not_to_have_url(re.compile("tab=not"))
    page.mouse.click(5, 5)
    expect(page.get_by_role("dialog", name="Keys")).to_have_count(0)


def test_a_record_is_found_by_its_title_wherever_a_key_is_asked_for(page: Page):
    page.goto(f"/saltmere/ranking?q=fog+bell&tab=not&{FIRST}")
    box = page.get_by_label("Key or title of a record")
    box.fill("toggle-head")
    offered = page.get_by_role("listbox", name="Records that are called so").get_by_role("option")
    expect(offered.first).to_contain_text("oggle-head")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("key=sm"))
    expect(page.get_by_test_id("why-not-rank")).to_be_visible()
    page.goto("/saltmere/chains?key=sm0002&field=title&rc=words+%3E+lower")
    box = page.get_by_label("Key or title of the record")
    expect(box).to_have_value("sm0002")
    box.fill("sm0035")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("key=sm0035"))
    expect(page.get_by_label("The record's text")).to_contain_text("Lighthouse")


def test_the_row_in_view_is_graded_in_place_and_the_meter_follows(page: Page):
    page.goto(f"/saltmere/ranking?q=foghorn&{FIRST}")
    tools = page.get_by_role("group", name="Grade of this record")
    pressed = tools.locator("[aria-pressed=true]")
    expect(tools).to_be_visible()
    before = pressed.inner_text() if pressed.count() else ""
    other = "1" if before != "1" else "0"
    page.locator("body").press(other)
    expect(pressed).to_have_text(other)
    row = page.locator("[data-row][aria-current]")
    expect(row.get_by_role("img", name=re.compile(f"grade {other}"))).to_be_visible()
    # What judges said counts again.
    tools.get_by_role("button", name="as judged").click()
    expect(pressed).to_have_count(1 if before else 0)
    if before:
        expect(pressed).to_have_text(before)
    page.get_by_role("link", name=re.compile("^record sm")).click()
    expect(page).to_have_url(re.compile(r"/records\?.*view=browse"))


def test_a_query_that_nobody_judged_offers_to_be(page: Page):
    page.goto(f"/saltmere/ranking?q=brass+lamp+of+the+light&{FIRST}")
    page.get_by_role("button", name="judge this query").click()
    expect(page.get_by_role("dialog", name="A complaint")).to_be_visible()


def test_lists_and_tables_are_taken_away_as_files(page: Page, tmp_path: Path):
    page.goto(f"/saltmere/ranking?q=fog+bell&{FIRST}")
    with page.expect_download() as download:
        page.get_by_role("button", name="Save").first.click()
    rows = Path(download.value.path()).read_text("utf-8").splitlines()
    assert download.value.suggested_filename == "saltmere-fog-bell.csv"
    assert rows[0] == "rank,key,title,score,second_stage,grade"
    assert rows[1].startswith("1,sm")
    assert len(rows) == 21
    page.goto("/saltmere/records?view=fields")
    expect(page.get_by_role("table").first).to_be_visible()
    with page.expect_download() as download:
        page.get_by_title("Save the fields as a CSV file").click()
    assert Path(download.value.path()).read_text("utf-8").splitlines()[0].startswith("Field,Filled,Different")


def test_arrows_go_from_tab_to_tab(page: Page):
    page.goto(f"/saltmere/ranking?q=fog+bell&{FIRST}")
    page.get_by_role("tab", name="Why", exact=True).focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("tab", name="Why not")).to_have_attribute("aria-selected", "true")
    page.get_by_role("tab", name="Why not").focus()
    page.keyboard.press("End")
    expect(page.get_by_role("tab", name="Versions")).to_have_attribute("aria-selected", "true")
    page.get_by_role("tab", name="Versions").focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("tab", name="Why", exact=True)).to_have_attribute("aria-selected", "true")
