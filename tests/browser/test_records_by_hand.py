"""Records by hand: added, sorted, taken out; a first file where there is nothing; a database that does not answer."""

import re
from pathlib import Path

from playwright.sync_api import FilePayload, Page, expect


def rows(page: Page):
    return page.get_by_label("Records", exact=True).locator("tbody tr")


def test_the_views_are_reached_by_number(page: Page):
    page.goto("/saltmere/records")
    expect(page.get_by_label("Fields", exact=True)).to_be_visible()
    for key, view in (("2", "browse"), ("3", "display"), ("4", "import"), ("5", "following"), ("7", "deleted")):
        page.keyboard.press(key)
        expect(page).to_have_url(re.compile(f"view={view}"))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("the views, left to right")


def test_records_are_sorted_narrowed_and_walked_through(page: Page):
    page.goto("/saltmere/records?view=browse")
    expect(rows(page)).to_have_count(100)
    page.get_by_role("button", name="title", exact=True).click()
    expect(rows(page).first).to_contain_text("A cook's memory of Christmas at sea")
    page.get_by_role("button", name=re.compile("title")).first.click()
    expect(rows(page).first).not_to_contain_text("A cook's memory")
    page.get_by_label("Text that records hold").fill("toggle-head")
    expect(rows(page)).to_have_count(1)
    page.get_by_label("Text that records hold").fill("zzyzx")
    expect(page.get_by_text("No record holds “zzyzx”")).to_be_visible()
    page.get_by_role("button", name="Show all").click()
    expect(rows(page)).to_have_count(100)
    page.get_by_role("button", name="Next →").click()
    expect(page.get_by_text("101 to 200 of 1,554")).to_be_visible()
    page.keyboard.press("j")
    expect(page).to_have_url(re.compile("key=sm"))
    page.keyboard.press("Escape")
    expect(page).not_to_have_url(re.compile("key="))


def test_a_record_is_added_and_found_at_once(page: Page):
    page.goto("/saltmere/records?view=browse")
    page.get_by_role("button", name="Add a record").click()
    box = page.get_by_label("The record as JSON")
    box.fill('{"title": "Nameless"}')
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("alert").first).to_contain_text("none was")
    box.fill('{"id": "by-hand", "title": "Quillwort tankard"}')
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_label("Record by-hand")).to_contain_text("Quillwort tankard")
    page.get_by_role("button", name="Readings").click()
    expect(page.get_by_label("Tokens of title")).to_contain_text("quillwort")
    page.goto("/saltmere/ranking?q=quillwort")
    expect(page.get_by_label("Results")).to_contain_text("Quillwort tankard")


def test_records_are_taken_out_as_a_file(page: Page):
    page.goto("/saltmere/records?view=import")
    with page.expect_download() as download:
        page.get_by_label("Export").get_by_role("link", name="JSON Lines").click()
    lines = Path(download.value.path()).read_text("utf-8").splitlines()
    assert len(lines) >= 1_554
    assert download.value.suggested_filename == "saltmere.jsonl"


def test_a_database_that_does_not_answer_is_told(page: Page):
    page.goto("/saltmere/records?view=import")
    page.get_by_role("button", name="Or read them from a PostgreSQL database").click()
    form = page.get_by_label("From a database")
    form.get_by_label("Connection string").fill("postgresql://nobody@127.0.0.1:1/nothing")
    form.get_by_label("Query").fill("select 1 as id")
    form.get_by_role("button", name="Look at the first rows").click()
    expect(page.get_by_role("alert")).to_contain_text("The database does not answer")


def test_a_type_that_leaves_a_field_out_and_a_role_hold(page: Page):
    file: FilePayload = {
        "name": "lamps.csv",
        "mimeType": "text/csv",
        "buffer": b"nr,name,secret\n1,Ship's lantern,x\n2,Lamp of the light,y\n",
    }
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files(file)
    page.get_by_label("Kind of secret").select_option("leave out")
    page.get_by_label("Collection to import into").fill("lamps")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/lamps/records"))
    page.goto("/lamps/records?view=browse&key=1")
    panel = page.get_by_label("Record 1")
    expect(panel).to_contain_text("Ship's lantern")
    expect(panel).not_to_contain_text("secret")
    page.goto("/lamps/ranking?q=lantern")
    expect(page.get_by_label("Results")).to_contain_text("1 found")


def test_the_last_collection_gone_a_first_file_is_asked_for(page: Page):
    page.goto("/saltmere/records?view=collections")
    collections = page.get_by_label("Collections", exact=True)
    for name in ("lamps", "logbooks", "saltmere"):
        collections.get_by_role("button", name=f"Drop {name}").click()
        page.get_by_label("Name", exact=True).fill(name)
        collections.get_by_role("button", name="Drop", exact=True).click()
        if name != "saltmere":
            expect(collections.get_by_role("button", name=f"Drop {name}")).to_have_count(0)
    expect(page.get_by_text("Pale Harbor has no collection yet")).to_be_visible()
    file: FilePayload = {"name": "First Bells.csv", "mimeType": "text/csv", "buffer": b"id,title\na,Fog bell\n"}
    page.get_by_label("File to import").set_input_files(file)
    expect(page.get_by_label("Collection to import into")).to_have_value("first-bells")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/first-bells/records"))
