"""What stands in a list is taken along as CSV: all of it, under heads, as the page says it."""

import csv
import io
import re

from playwright.sync_api import FilePayload, Locator, Page, expect


def taken(page: Page, within: Locator) -> list[dict[str, str]]:
    copying = within.get_by_title(re.compile("^Copy .* as CSV$"))
    copying.click()
    expect(copying).to_have_text("Copied")
    text = page.evaluate("navigator.clipboard.readText()")
    return list(csv.DictReader(io.StringIO(text, newline="")))


def test_the_terms_around_a_word(page: Page):
    page.goto("/saltmere/ranking?q=harpon&ranker=first:1")
    page.get_by_role("button", name=re.compile("Spelling slack")).click()
    around = page.get_by_role("region", name="Terms around the query’s words")
    expect(around.get_by_role("row").nth(1)).to_be_visible()
    shown = around.get_by_role("row").filter(has_not=page.get_by_role("columnheader"))
    rows = taken(page, around)
    assert len(rows) == shown.count()
    assert {row["word"] for row in rows} == {"harpon"}
    assert rows[0]["term"] == "harpoon"
    assert {row["counts"] for row in rows} == {""}


def test_words_that_share_a_term(page: Page):
    page.goto("/saltmere/chains")
    panel = page.get_by_label("Consequences")
    panel.get_by_role("button", name="most", exact=True).click()
    lines = panel.get_by_label("Words that share a term").get_by_role("listitem")
    expect(lines.first).to_be_visible()
    rows = taken(page, panel)
    first = lines.first.inner_text().split("\n")[0]
    words = [row["word"] for row in rows if row["term"] == first]
    assert len(words) > 1
    for word in words:
        expect(lines.first).to_contain_text(word)


def test_the_first_rows_of_an_import_and_the_imports(page: Page):
    bad = b'id,title,depth\na,Fog,3\nb,Bell,too,many\nc,"Oar, long",5\n'
    file: FilePayload = {"name": "tides.csv", "mimeType": "text/csv", "buffer": bad}
    page.goto("/saltmere/records?view=import")
    page.get_by_label("File to import").set_input_files(file)
    page.get_by_label("Collection to import into").fill("tides")
    rows = taken(page, page.get_by_title("Copy the first rows as they will be read as CSV").locator("xpath=.."))
    assert [row["title"] for row in rows] == ["Fog", "", "Oar, long"]
    assert [row["line"] for row in rows] == ["2", "3", "4"]
    assert [bool(row["cannot be read"]) for row in rows] == [False, True, False]
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/tides/records"))
    expect(page.get_by_label("Import", exact=True)).to_contain_text("2 added")
    past = taken(page, page.get_by_label("Imports so far"))
    assert [(row["source"], row["rows rejected"]) for row in past] == [("tides.csv", "1")]
    assert "2 added" in past[0]["what came of it"]
    page.goto("about:blank")  # whatever it still asks for is let go before the collection goes
    assert page.request.delete("/api/collections/tides?confirm=tides").ok


def test_the_collections(page: Page):
    page.goto("/saltmere/records?view=collections")
    rows = taken(page, page.get_by_label("Collections", exact=True))
    demo = next(row for row in rows if row["collection"] == "saltmere")
    told = page.request.get("/api/collections/saltmere").json()
    assert (demo["records"], demo["default ranker"]) == (str(told["records"]), told["default_ranker"])
