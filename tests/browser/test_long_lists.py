"""Of lists of thousands of rows those around the window are there; keys, heads and taking along go on as before."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

COUNT = 2_000


def with_many_queries(page: Page) -> None:
    path = "/api/collections/saltmere/judged/many"
    if not page.request.get(path).ok:
        assert page.request.post(path, data={"locked_share": 0}).ok
        text = "\n".join(f"lamp number {number:04d}" for number in range(COUNT))
        assert page.request.post(f"{path}/list", data={"text": text, "most": None}).ok


def rows(table: Locator) -> Locator:
    return table.locator("tbody tr:not([aria-hidden])")


@pytest.mark.parametrize("width", [1280, 390])
def test_a_long_set_of_queries_is_there_by_window(page: Page, width: int):
    page.set_viewport_size({"width": width, "height": 800})
    with_many_queries(page)
    page.goto("/saltmere/judging?set=many&view=queries")
    table = page.get_by_label("Queries of the set").get_by_role("table")
    expect(table).to_have_attribute("aria-rowcount", str(COUNT + 1))
    expect(table.get_by_text("lamp number 0000")).to_be_visible()
    expect(rows(table).nth(20)).to_be_attached()
    assert rows(table).count() < 300
    # The last one is there once it is scrolled to, and no more of the others than before.
    page.get_by_label("Queries of the set").hover()
    for _ in range(12):
        page.mouse.wheel(0, 100_000)
    last = table.get_by_text("lamp number 1999")
    expect(last).to_be_visible()
    expect(last).to_be_in_viewport()
    expect(last.locator("xpath=ancestor::tr")).to_have_attribute("aria-rowindex", str(COUNT + 1))
    assert rows(table).count() < 300


@pytest.mark.parametrize(("count", "by_window"), [(300, False), (301, True)])
def test_up_to_three_hundred_rows_are_all_there(page: Page, count: int, by_window: bool):
    path = f"/api/collections/saltmere/judged/with-{count}"
    assert page.request.post(path, data={"locked_share": 0}).ok
    text = "\n".join(f"bell number {number:04d}" for number in range(count))
    assert page.request.post(f"{path}/list", data={"text": text, "most": None}).ok
    page.goto(f"/saltmere/judging?set=with-{count}&view=queries")
    table = page.get_by_label("Queries of the set").get_by_role("table")
    expect(table.get_by_text("bell number 0000")).to_be_visible()
    if by_window:
        expect(table.get_by_text("bell number 0300")).to_have_count(0)
        assert rows(table).count() < count
    else:
        expect(rows(table)).to_have_count(count)


def test_a_query_far_down_is_shown_when_it_is_opened_and_all_are_taken_along(page: Page):
    with_many_queries(page)
    page.goto("/saltmere/judging?set=many&view=queries")
    listed = page.get_by_label("Queries of the set")
    listed.get_by_role("button", name=re.compile("Copy")).click()
    copied = page.evaluate("navigator.clipboard.readText()")
    assert len(copied.splitlines()) == COUNT + 1
    found = page.request.get("/api/collections/saltmere/judged/many/queries").json()
    far = next(one["query_id"] for one in found if one["query"] == "lamp number 1234")
    page.goto(f"/saltmere/judging?set=many&view=queries&query={far}")
    expect(listed.get_by_text("lamp number 1234")).to_be_in_viewport()
    page.keyboard.press("j")
    expect(listed.locator("tr[aria-current=true]")).to_contain_text("lamp number 1235")
    expect(listed.locator("tr[aria-current=true]")).to_be_in_viewport()
    # The heads stay above the rows.
    expect(listed.get_by_role("columnheader", name="query")).to_be_in_viewport()
