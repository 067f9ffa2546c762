"""Scanned pages in a browser: a zip goes in, a query's words are seen on the picture, and one is put right there."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import FilePayload, Locator, Page, Route, expect

from tests.browser.conftest import Command
from tests.pages import alto, line_of, logbook


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return logbook(tmp_path_factory.mktemp("scans"))


@pytest.fixture(scope="module")
def logs(command: Command, address: str, folder: Path) -> str:
    result = command("load", str(folder), "--collection", "logs")
    assert "3 read: 3 added" in result.stdout, result.stdout + result.stderr
    return address


def zipped(folder: Path) -> FilePayload:
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        for file in folder.rglob("*.*"):
            archive.write(file, file.relative_to(folder).as_posix())
    return {"name": "logbook.zip", "mimeType": "application/zip", "buffer": made.getvalue()}


def boxes(page: Page, look: str, count: int) -> list[tuple[float, float, float, float]]:
    found = page.get_by_test_id(f"page-box-{look}")
    expect(found).to_have_count(count)
    expect(found.first).to_be_visible()
    told = [one.bounding_box() for one in found.all()]
    return [(one["x"], one["y"], one["width"], one["height"]) for one in told if one is not None]


def still(page: Page, box: Locator) -> None:
    """Waits until a box moves no more."""
    page.wait_for_function(
        """(element) => new Promise((done) => {
            const at = () => JSON.stringify(element.getBoundingClientRect())
            const before = at()
            setTimeout(() => done(before === at()), 200)
        })""",
        arg=box.element_handle(),
    )


def test_a_zip_of_pages_is_seen_before_it_goes_in(page: Page, folder: Path):
    page.goto("/saltmere/records?view=import")
    page.get_by_test_id("drop").locator("input[type=file]").set_input_files(zipped(folder))
    expect(page.get_by_label("The first rows")).to_contain_text("Wind fresh from the lighthouse")
    expect(page.get_by_label("Role of places")).to_have_value("places")
    page.get_by_label("Collection to import into").fill("zipped")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.get_by_label("Import", exact=True)).to_contain_text("3 rows read: 3 added")
    page.goto("/zipped/records?view=browse&key=log%2F1.xml&part=Page")
    expect(page.get_by_test_id("page-hits")).to_have_text("no match on it")
    expect(page.locator(".openseadragon-canvas")).to_be_visible()


def test_the_words_of_a_query_are_marked_where_they_stand(page: Page, logs: str):
    page.goto("/logs/ranking?q=lighthouse+noon&tab=page")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 2")
    # A word that is parted has a box on each line.
    now = page.get_by_test_id("page-box-now")
    expect(now).to_have_count(2)
    page.get_by_label("Whole page").click()
    still(page, now.first)
    (first, second), (other,) = boxes(page, "now", 2), boxes(page, "hit", 1)
    scale = first[2] / 60
    # Edges lie on whole dots of the screen.
    apart = [value / scale for value in (second[0] - first[0], second[1] - first[1], second[2])]
    assert apart == pytest.approx([-200, 40, 50], abs=2)
    apart = [value / scale for value in (other[0] - second[0], other[1] - second[1], other[2])]
    assert apart == pytest.approx([110, 0, 40], abs=2)
    # The ink of the word is under its box, and none beside it.
    shot = np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("L"))
    x, y, width, height = (round(one) for one in second)
    assert shot[y + height // 2, x + width // 2] < 120
    assert shot[y + 2 * height, x + width // 2] > 200
    expect(page.get_by_test_id("page-words")).to_have_text("Wind fresh from the lighthouse till noon")


def test_matches_and_words_are_gone_through_by_keyboard(page: Page, logs: str):
    page.goto("/logs/ranking?q=lighthouse+noon&tab=page")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 2")
    expect(page.get_by_test_id("page-box-now")).to_have_count(2)
    page.get_by_label("Next match").focus()
    page.keyboard.press(".")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 2 of 2")
    expect(page.get_by_test_id("page-box-now")).to_have_count(1)
    page.keyboard.press(".")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 2")
    page.keyboard.press("]")
    expect(page.get_by_label("Put the word right").get_by_role("textbox")).to_have_value("Wind")
    page.keyboard.press("[")
    expect(page.get_by_label("Put the word right").get_by_role("textbox")).to_have_value("noon")
    # What a query's keys do elsewhere they do not do here.
    expect(page.get_by_role("tab", name="Page")).to_have_attribute("aria-selected", "true")


def test_what_was_read_is_told_where_somebody_points_and_is_put_right(page: Page, logs: str):
    page.goto("/logs/ranking?q=keeper&tab=page")
    now = page.get_by_test_id("page-box-now")
    expect(now).to_have_count(1)
    still(page, now)
    ((x, y, width, height),) = boxes(page, "now", 1)
    page.mouse.move(x + width / 2, y + height / 2)
    expect(page.get_by_test_id("page-words")).to_have_text("read as keeper, 90 % sure")
    page.mouse.click(x + width / 2, y + height / 2)
    form = page.get_by_label("Put the word right")
    expect(form.get_by_role("textbox")).to_have_value("keeper")
    expect(form.get_by_role("button", name="Put right")).to_be_disabled()
    form.get_by_role("textbox").fill("captain")
    form.get_by_role("button", name="Put right").click()
    expect(form).to_have_count(0)
    expect(page.get_by_label("Results")).to_contain_text("0 found")
    page.goto("/logs/ranking?q=captain&tab=page")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 1")
    # It is a revision like any other.
    page.goto("/logs/records?view=browse&key=log%2F2.xml&part=Revisions")
    page.get_by_role("button", name="Make it so again").click()
    page.goto("/logs/ranking?q=keeper&tab=page")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 1")


def test_a_match_is_never_marked_on_a_text_that_it_was_not_found_in(page: Page, logs: str):
    page.goto("/logs/ranking?q=clock&tab=page")
    now = page.get_by_test_id("page-box-now")
    expect(now).to_have_count(1)

    # The list comes late, and the page at once.
    def never(_: Route) -> None:
        """Leaves a question without an answer."""

    page.route("**/api/collections/logs/search", never)
    page.get_by_label("Next word").click()
    page.get_by_label("Next word").click()
    form = page.get_by_label("Put the word right")
    form.get_by_role("textbox").fill("lightkeeper")
    form.get_by_role("button", name="Put right").click()
    expect(page.get_by_text("The text of the page")).to_be_visible()
    expect(page.get_by_test_id("page-hits")).to_have_text("no match on it")
    expect(now).to_have_count(0)
    page.unroute("**/api/collections/logs/search")
    page.reload()
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 1")
    page.goto("/logs/records?view=browse&key=log%2F2.xml&part=Revisions")
    page.get_by_role("button", name="Make it so again").first.click()
    page.goto("/logs/ranking?q=keeper&tab=page")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 1")


def test_a_judge_sees_the_page_below_the_record_and_grades_by_the_same_keys(page: Page, logs: str):
    path = "/api/collections/logs/judged/keepers"
    files = {"queries": "q1\tfog bell\n", "judgments": "q1 0 log/1.xml 0\n"}
    assert page.request.put(f"{path}/files", data=files).ok
    task = {"name": "all", "judges": ["Maud"], "items": [{"query_id": "q1", "record_key": "log/10.xml"}]}
    made = page.request.post(f"{path}/tasks", data=task).json()
    page.goto(made[0]["judges"][0]["path"])
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 2")
    expect(page.get_by_test_id("page-box-now")).to_have_count(1)
    page.get_by_label("Next match").click()
    page.keyboard.press("w")
    # What is looked at is not changed here, and a digit is a grade wherever the keyboard is.
    page.keyboard.press("]")
    expect(page.get_by_label("Put the word right")).to_have_count(0)
    page.keyboard.press("0")
    expect(page.get_by_test_id("left")).to_have_text("all judged")


def test_how_well_pages_were_read_stands_in_records(page: Page, logs: str):
    page.goto("/logs/records?view=reading")
    rows = page.get_by_label("Pages as they were read").locator("tbody tr")
    expect(rows).to_have_count(3)
    rows.nth(1).click()
    expect(page.get_by_test_id("page-hits")).to_contain_text("doubtful word 1 of")
    expect(page.get_by_test_id("page-box-now").first).to_be_visible()
    page.keyboard.press("k")
    expect(rows.nth(0)).to_have_attribute("aria-current", "true")


def test_a_page_without_its_picture_says_so_and_shows_its_text(page: Page, logs: str, command: Command, folder: Path):
    alone = folder.parent / "alone.xml"
    alone.write_bytes((folder / "log/10.xml").read_bytes())
    assert command("load", str(alone), "--collection", "alone").returncode == 0
    page.goto("/alone/records?view=browse&key=alone.xml&part=Page")
    whole = page.get_by_role("region", name="The page")
    expect(whole).to_contain_text("This page came without a picture. Its text is below.")
    page.get_by_text("The text of the page").click()
    expect(whole).to_contain_text("Fog bell rung all night")


def test_a_collection_without_pages_offers_none(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    expect(page.get_by_role("tab", name="Why", exact=True)).to_be_visible()
    expect(page.get_by_role("tab", name="Page")).to_have_count(0)
    page.goto("/saltmere/records?view=reading")
    expect(page.get_by_role("button", name="Reading", exact=True)).to_have_count(0)


def test_the_pages_of_a_thing_stand_beside_one_another_with_their_matches(page: Page, logs: str):
    page.goto("/logs/ranking?q=lighthouse+clock+noon&tab=page")
    pages = page.get_by_label("Pages of the same thing").get_by_role("button")
    expect(pages).to_have_count(2)
    expect(pages.nth(0)).to_have_accessible_name("log, page 1, 2 matches")
    expect(pages.nth(1)).to_have_accessible_name("log, page 2, 1 match")
    expect(pages.nth(0)).to_have_attribute("aria-current", "page")
    pages.nth(1).click()
    expect(page.get_by_test_id("page-words")).to_contain_text("The keeper wound the clock")
    expect(page.get_by_test_id("page-hits")).to_have_text("match 1 of 1")
    # Another row begins with its own page.
    page.keyboard.press("j")
    page.get_by_label("Results").get_by_text("log, page 2").first.click()
    expect(pages.nth(1)).to_have_attribute("aria-current", "page")


def test_letters_that_are_read_for_others_are_told_with_a_stage_to_copy(
    page: Page, command: Command, address: str, tmp_path: Path
):
    for number in range(5):
        (tmp_path / f"{number}.xml").write_bytes(alto([line_of("fresh ship noise", 40)]))
    (tmp_path / "9.xml").write_bytes(alto([line_of("frefh fhip noife", 40)]))
    assert command("load", str(tmp_path), "--collection", "misread").returncode == 0
    page.goto("/misread/records?view=reading")
    told = page.get_by_text("Letters read for others: f for s")
    told.click()
    page.get_by_title("Copy the stage").click()
    page.wait_for_function("async () => (await navigator.clipboard.readText()) === 'misread(\"f=s\")'")


def test_records_of_a_repository_are_looked_at_and_harvested(page: Page, logs: str, command: Command):
    key = command("key", "visitor", "saltmere", "a harvester").stdout.strip()
    page.goto("/logs/records?view=import")
    page.get_by_role("button", name="Or harvest them from a repository").click()
    form = page.get_by_role("form", name="From a repository")
    form.get_by_label("Address").fill(f"{logs}/v1/saltmere/keys/{key}/oai")
    form.get_by_role("button", name="Look at the first records").click()
    expect(page.get_by_label("The first rows")).to_contain_text("oai:saltmere:")
    expect(page.get_by_text("A repository (OAI-PMH)")).to_be_visible()


def test_a_conflict_shows_the_page_with_what_was_asked(page: Page, logs: str, command: Command, tmp_path: Path):
    (tmp_path / "queries.jsonl").write_text('{"query_id": "q1", "query": "fog bell", "need": "Fog bells."}\n')
    (tmp_path / "said.csv").write_text("query_id,record,judge,grade\nq1,log/10.xml,Maud,3\nq1,log/10.xml,Jonas,0\n")
    files = ("--queries", str(tmp_path / "queries.jsonl"), "--grades", str(tmp_path / "said.csv"))
    loaded = command("judged", "load", "logs", "apart", *files)
    assert loaded.returncode == 0, loaded.stderr
    page.goto("/logs/judging?set=apart&view=agreement")
    page.get_by_text("The page, with what was asked marked on it").click()
    boxes(page, "now", 1)
