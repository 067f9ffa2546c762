"""The Records place: a file is seen before it goes in, its troubles are read and mended, records are looked at."""

import re
from pathlib import Path

from playwright.sync_api import FilePayload, Locator, Page, Route, expect

BAD = {
    50: 'N-0050;"left open;x;1700;brass|ash;1899-01-01',
    100: "too;many;cells;1;2;3;4;5",
    150: "N-0150;too few",
    200: ';"No number";x;1800;brass;1899-01-01',
    250: 'N-0001;"Twice";x;1800;brass;1899-01-01',
    300: 'N-0300;"Year";x;about 1850;brass;1899-01-01',
    350: 'N-0350;"Day";x;1850;brass;yesterday',
    400: 'N-0400;"closed" early;x;1850;brass;1899-01-01',
    450: "one cell",
    500: 'N-0002;"Twice";x;1800;brass;1899-01-01',
}


def bells() -> FilePayload:
    """A thousand bells, ten of them wrong."""
    lines = ["Number;Name;Notes;Year;Materials;Seen"]
    lines += [
        f'N-{i:04d};"Fog bell {i}";A bell of bronze for the fog;{1700 + i % 280};brass|ash;1899-05-0{1 + i % 9}'
        for i in range(1, 1001)
    ]
    for number, line in BAD.items():
        lines[number] = line
    return {"name": "Fog Bells.csv", "mimeType": "text/csv", "buffer": ("\n".join(lines) + "\n").encode()}


def view(page: Page, name: str) -> None:
    page.get_by_label("Views of the records").get_by_role("button", name=name).click()


def drop(page: Page, file: FilePayload) -> None:
    """Drops a file as a hand does: with a transfer that holds it."""
    transfer = page.evaluate_handle(
        """([name, text]) => {
            const transfer = new DataTransfer()
            transfer.items.add(new File([text], name, { type: 'text/csv' }))
            return transfer
        }""",
        [file["name"], bytes(file["buffer"]).decode()],
    )
    page.get_by_test_id("drop").dispatch_event("drop", {"dataTransfer": transfer})


def rejects(page: Page) -> Locator:
    return page.get_by_label("Rejected rows").get_by_role("listitem")


def test_a_file_with_bad_rows_is_seen_corrected_imported_and_mended(page: Page):
    page.goto("/saltmere/records?view=import")
    drop(page, bells())
    table = page.get_by_label("The first rows")
    expect(table).to_contain_text("Fog bell 1")
    expect(page.get_by_label("Kind of Year")).to_have_value("number")
    expect(page.get_by_label("Kind of Seen")).to_have_value("date")
    expect(page.get_by_label("Role of Number")).to_have_value("key")
    expect(page.get_by_label("Role of Name")).to_have_value("title")
    expect(page.get_by_label("Rows that cannot be read", exact=True)).to_contain_text(
        'must be a number, and here is "about 1850"'
    )
    page.get_by_label("Kind of Year").select_option("exact")
    expect(page.get_by_label("Rows that cannot be read", exact=True)).not_to_contain_text("about 1850")
    page.get_by_label("Kind of Year").select_option("number")
    page.get_by_label("Kind of Notes").select_option("text")
    page.get_by_label("Collection to import into").fill("bells")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/bells/records"))
    expect(page.get_by_label("Import", exact=True)).to_contain_text("1,000 rows read: 990 added, 10 rejected.")
    # How it ended stays until it is left, also by a reload.
    page.reload()
    expect(page.get_by_label("Import", exact=True)).to_contain_text("Fog Bells.csv is in.")
    page.get_by_role("button", name="Import something else").click()
    expect(page.get_by_label("Imports so far")).to_contain_text("1,000 rows read: 990 added, 10 rejected.")

    view(page, "Rejected rows")
    expect(rejects(page)).to_have_count(10)
    for told in (
        'the quote (") that is opened on this line is not closed where a cell ends.',
        "8 cells, but the header has 6.",
        "2 cells, but the header has 6.",
        'the key field "Number" is missing or empty.',
        'the key "N-0001" was already on line 2 of this file.',
        'the field "Year" must be a number, and here is "about 1850".',
        'the field "Seen" must be a date (like 1846-05-03), and here is "yesterday".',
        "this row cannot be read",
        "1 cell, but the header has 6.",
        'the key "N-0002" was already on line 3 of this file.',
    ):
        expect(page.get_by_label("Rejected rows")).to_contain_text(told)
    for number, line in BAD.items():
        box = page.get_by_label(f"What stands on line {number + 1}", exact=True)
        expect(box).to_have_value(line)
        box.fill(f'N-{number:04d};"Fog bell {number}";mended;1850;brass|ash;1899-05-01')
    page.get_by_role("button", name="Read 10 again").click()
    expect(page.get_by_text("Every row was read")).to_be_visible()
    expect(page.get_by_label("Views of the records")).to_contain_text("1,000 records")
    view(page, "Browse")
    page.get_by_label("Text that records hold").fill("mended")
    expect(page.get_by_label("Records", exact=True).locator("tbody tr")).to_have_count(10)
    page.get_by_label("Query", exact=True).fill("fog bell")
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Ranking").click()
    expect(page.get_by_label("Results")).to_contain_text("1,000 found")


def test_rows_mended_wrongly_stay_with_the_new_reason(page: Page):
    file: FilePayload = {"name": "few.csv", "mimeType": "text/csv", "buffer": b"id,title\na,Fog\nb,Bell,too many\n"}
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files(file)
    page.get_by_label("Collection to import into").fill("few")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/few/records"))
    # The strip names the collection once the page knows of it.
    expect(page.get_by_label("Collection", exact=True)).to_have_value("few")
    view(page, "Rejected rows")
    page.get_by_label("What stands on line 3").fill("a,b,c,d")
    page.get_by_role("button", name="Read 1 again").click()
    expect(page.get_by_role("status")).to_contain_text("0 went in, 1 cannot be read yet.")
    expect(rejects(page)).to_contain_text("4 cells, but the header has 2.")
    with page.expect_download() as download:
        page.get_by_role("link", name="Download these rows").click()
    assert Path(download.value.path()).read_text() == "id,title\na,b,c,d\n"


def test_an_import_says_what_it_would_do_asks_by_number_and_is_undone(page: Page):
    rows = "".join(f"n{i:02d},Net {i},Orla\n" for i in range(20))
    first: FilePayload = {"name": "nets.csv", "mimeType": "text/csv", "buffer": f"id,title,maker\n{rows}".encode()}
    fewer: FilePayload = {"name": "fewer.csv", "mimeType": "text/csv", "buffer": b"id,title\nn00,Net\nn20,Net 20\n"}
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files(first)
    page.get_by_label("Collection to import into").fill("nets")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/nets/records"))
    expect(page.get_by_label("Import", exact=True)).to_contain_text("20 rows read: 20 added.")
    page.get_by_role("button", name="Import something else").click()

    page.get_by_label("File to import").set_input_files(fewer)
    page.get_by_label("and delete records that are not in it").check()
    page.get_by_role("button", name="See what it would do").click()
    outlook = page.get_by_label("What the import would do")
    expect(outlook).to_contain_text("20 records: 1 new, 1 changed, 19 deleted.")
    expect(outlook).to_contain_text("Values go from maker (1).")
    go = outlook.get_by_role("button", name="Import", exact=True)
    number = outlook.get_by_label("19 of 20 records go")
    number.fill("18")
    expect(go).to_be_disabled()
    expect(page.get_by_label("Views of the records")).to_contain_text("20 records")
    number.fill("19")
    number.press("Enter")
    expect(page.get_by_label("Import", exact=True)).to_contain_text("1 added, 1 updated, 19 deleted.")
    expect(page.get_by_label("Views of the records")).to_contain_text("2 records")

    view(page, "Deleted")
    page.get_by_label("Deleted at once").get_by_role("button", name="Restore all 19").click()
    expect(page.get_by_label("Views of the records")).to_contain_text("21 records")
    view(page, "Import and export")
    page.get_by_role("button", name="Undo the import of fewer.csv").click()
    page.get_by_role("button", name="Undo it now").click()
    # What was restored since stays; the record that came goes, and the one that changed is as it was.
    expect(page.get_by_label("Views of the records")).to_contain_text("20 records")
    expect(page.get_by_label("Import", exact=True)).to_contain_text(
        "was undone. 1 restored, 1 removed; 19 were changed"
    )
    record = page.request.get("/api/collections/nets/record?key=n00").json()
    assert record["field_values"] == {"id": "n00", "title": "Net 0", "maker": "Orla"}


def test_a_file_with_fewer_fields_fills_in_and_can_be_left(page: Page):
    first: FilePayload = {"name": "oars.csv", "mimeType": "text/csv", "buffer": b"id,title,maker\no1,Oar,Orla\n"}
    fewer: FilePayload = {"name": "makers.csv", "mimeType": "text/csv", "buffer": b"id,maker\no1,Tamsin\n"}
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files(first)
    page.get_by_label("Collection to import into").fill("oars")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/oars/records"))
    expect(page.get_by_label("Import", exact=True)).to_contain_text("1 added.")
    for step in ("Leave it", "Import"):
        page.get_by_role("button", name="Import something else").click()
        page.get_by_label("File to import").set_input_files(fewer)
        page.get_by_label("Records that it names").select_option("fill in")
        page.get_by_role("button", name="See what it would do").click()
        outlook = page.get_by_label("What the import would do")
        expect(outlook).to_contain_text("1 record: 1 changed.")
        expect(outlook).not_to_contain_text("Values go")
        outlook.get_by_role("button", name=step, exact=True).click()
        expect(outlook).to_be_hidden()
    expect(page.get_by_label("Import", exact=True)).to_contain_text("makers.csv is in.")
    record = page.request.get("/api/collections/oars/record?key=o1").json()
    assert record["field_values"] == {"id": "o1", "title": "Oar", "maker": "Tamsin"}


def test_fields_are_read_at_a_glance_and_open_to_their_values(page: Page):
    page.goto("/saltmere/records")
    fields = page.get_by_label("Fields", exact=True)
    expect(fields.locator("tbody tr")).to_have_count(14)
    page.keyboard.press("j")
    page.keyboard.press("j")
    panel = page.get_by_label("Field title")
    expect(panel).to_be_visible()
    fields.get_by_role("button", name="kind", exact=True).click()
    page.get_by_label("Field kind").get_by_role("button", name=re.compile("oral history")).click()
    expect(page.get_by_label("In which field")).to_have_value("kind")
    expect(page.get_by_label("Records", exact=True).locator("tbody tr").first).to_be_visible()


def test_passages_are_tried_on_real_values_and_a_splitter_that_never_split_is_told(page: Page):
    page.goto("/saltmere/records?field=description")
    passages = page.get_by_label("Passages", exact=True)
    passages.get_by_label("How passages are cut").select_option("delimiter")
    expect(passages).to_contain_text("This never cut any of the")
    passages.get_by_label("How passages are cut").select_option("sentences")
    expect(passages.get_by_label("Passages of a value").get_by_role("listitem").nth(1)).to_be_visible()
    passages.get_by_role("button", name="Keep").click()
    expect(page.get_by_label("Fields", exact=True)).to_contain_text("text · passages")
    page.goto("/saltmere/records?view=browse&key=sm0001&part=Readings")
    expect(page.get_by_label("Passages of description")).to_be_visible()


def test_a_record_is_changed_restored_deleted_and_restored(page: Page):
    page.goto("/saltmere/records?view=browse&key=sm0001")
    panel = page.get_by_label("Record sm0001")
    panel.get_by_role("button", name="Edit").click()
    box = page.get_by_label("The record as JSON")
    box.fill("{")
    expect(panel.get_by_role("alert")).to_contain_text("This is not JSON yet")
    box.fill('{"id": "sm0001", "title": "Zephyrine harpoon"}')
    panel.get_by_role("button", name="Save").click()
    expect(panel).to_contain_text("Zephyrine harpoon")
    page.goto("/saltmere/ranking?q=zephyrine")
    expect(page.get_by_label("Results")).to_contain_text("Zephyrine harpoon")
    page.goto("/saltmere/records?view=browse&key=sm0001&part=Revisions")
    again = panel.get_by_role("button", name="Make it so again")
    again.click()
    # The record is as it was, and what it was in between is a state of its own.
    expect(again).to_have_count(2)
    expect(panel.get_by_role("paragraph").first).to_have_text("Toggle-head harpoon")
    panel.get_by_role("button", name="Delete").click()
    expect(panel).to_have_count(0)
    view(page, "Deleted")
    page.get_by_label("Deleted records").get_by_role("button", name="Restore").click()
    expect(page.get_by_text("Nothing is deleted")).to_be_visible()


def test_how_a_record_is_shown_holds_in_ranking(page: Page):
    page.goto("/saltmere/records?view=display")
    page.get_by_label("How description is shown").select_option("hidden")
    page.get_by_label("How inventory_code is shown").select_option("whole")
    page.get_by_role("button", name="Keep").click()
    # Keep rests while it is under way too; nothing can be taken back any more once it is kept.
    expect(page.get_by_role("button", name="Take back")).to_have_count(0)
    page.goto("/saltmere/ranking?q=toggle+harpoon")
    first = page.get_by_label("Results").locator("li[data-row]").first
    expect(first).to_contain_text("SMC-1907-41")
    expect(first).not_to_contain_text("Hand-thrown whaling iron")


def test_the_next_deed_on_a_collection_does_not_wait_for_what_the_last_one_renews(page: Page):
    page.goto("/saltmere/records?view=collections")
    collections = page.get_by_label("Collections", exact=True)
    collections.get_by_role("button", name="Copy saltmere").click()
    page.get_by_label("Name", exact=True).fill("fourth")
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    # The list of collections comes again, everything else does not.
    page.route(lambda url: "/api/" in url and not url.endswith(("/api/collections", "/copy", "/name")), hold)
    page.keyboard.press("Enter")
    collections.get_by_role("button", name="Rename fourth").click()
    page.get_by_label("Name", exact=True).fill("fifth")
    page.keyboard.press("Enter")
    expect(collections.get_by_role("button", name="Drop fifth")).to_be_visible()
    expect(collections.get_by_role("button", name="Drop fourth")).to_have_count(0)
    assert held
    page.unroute_all()
    assert page.request.delete("/api/collections/fifth?confirm=fifth").ok


def test_collections_are_copied_renamed_and_dropped_by_name(page: Page):
    page.goto("/saltmere/records?view=collections")
    collections = page.get_by_label("Collections", exact=True)
    collections.get_by_role("button", name="Copy saltmere").click()
    page.get_by_label("Name", exact=True).fill("second")
    page.keyboard.press("Enter")
    expect(collections.get_by_role("button", name="Drop second")).to_be_visible()
    collections.get_by_role("button", name="Rename second").click()
    page.get_by_label("Name", exact=True).fill("third")
    page.keyboard.press("Enter")
    collections.get_by_role("button", name="Drop third").click()
    drops = collections.get_by_role("button", name="Drop", exact=True)
    page.get_by_label("Name", exact=True).fill("thirt")
    expect(drops).to_be_disabled()
    page.get_by_label("Name", exact=True).fill("third")
    drops.click()
    expect(collections.get_by_role("button", name="Drop third")).to_have_count(0)
    expect(collections.get_by_role("button", name="Drop saltmere")).to_be_visible()
