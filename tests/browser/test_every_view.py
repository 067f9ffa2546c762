"""Every view in both themes and at three widths: nothing wider than the window, and axe finds no fault."""

import re
from collections.abc import Generator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from pale_harbor.settings import ROOT
from tests.browser.addresses import drafting, weighing
from tests.browser.conftest import Command
from tests.pages import logbook

RECORDS, CHAINS, JUDGING, MEASURES, RANKING = (
    f"/saltmere/{place}?" for place in ("records", "chains", "judging", "measures", "ranking")
)
VIEWS = [
    *(
        f"{RECORDS}view={view}"
        for view in ("fields", "browse", "display", "import", "following", "rejected", "deleted", "collections")
    ),
    f"{RECORDS}view=fields&field=title",
    f"{RECORDS}view=browse&key=sm0002",
    *(
        f"{CHAINS}q=fog+bell&field=title&{more}"
        for more in ("", "aside=stages", "aside=lists", "with=words&third=blanks", "rc=@english")
    ),
    "/saltmere/spaces",
    "/saltmere/spaces?new=yes",
    f"{RANKING}q=fog+bell&ranker=first:1",
    f"{RANKING}q=fog+bell&ranker=first:1&tab=not&key=sm0002",
    f"{RANKING}q=harpon&ranker=first:1&tab=missed",
    f"{RANKING}q=fog+bell&ranker=blended:1&tab=sides",
    f"{RANKING}q=fog+bell&ranker=first:1&tab=versions&{weighing(0.5, 1, 1, 5)}",
    f"{RANKING}q=fog+bell&ranker=first:1&complaint=yes",
    f"{RANKING}q=fog+bell&ranker=first:1&surface=yes",
    f"{RANKING}q=fog+bell&ranker=first:1&typed=yes&at=2",
    f"{RANKING}q=fog+bell&ranker=first:1&completing=harb&{drafting(completions={})}",
    f"{RANKING}q=sextent&ranker=first:1&{drafting(corrections={'take': 'nothing'})}",
    *(f"{JUDGING}view={view}" for view in ("queries", "tasks", "agreement", "expectations", "set")),
    *(
        f"{MEASURES}view={view}&first=first:1&second=blended:1"
        for view in ("sheet", "missed", "letters", "rankers", "head", "owner", "time", "diary")
    ),
    "/saltmere/tuning?ranker=first:1",
    "/saltmere/tuning?ranker=first:1&view=ledger",
    "/saltmere/tuning?ranker=first:1&view=growth",
    "/saltmere/tuning?ranker=first:1&view=remedies",
    *(f"/saltmere/delivery?view={view}" for view in ("live", "keys", "past", "clicks", "page")),
    *(f"/saltmere/delivery?view=keys&new={whose}" for whose in ("visitor", "program")),
    "/logs/ranking?q=lighthouse+noon&tab=page",
    "/logs/records?view=browse&key=log%2F1.xml&part=Page",
    "/logs/records?view=reading",
    "/logs/records?view=reading&key=log%2F1.xml",
]
AXE = (ROOT / "frontend/node_modules/axe-core/axe.min.js").read_text()
UNREADABLE = (ROOT / "tests/browser/readable.js").read_text()
# A laptop by day and by night, the same at 200 %, a phone.
LOOKS = [(1280, 800, "fog"), (1280, 800, "deep"), (640, 400, "fog"), (390, 800, "deep")]


# Opened over a view, each by the button that says so.
OVER = [("Find", "Find"), ("Keys", "Keys")]


def faults(page: Page) -> list[str]:
    """What axe says, in a line each."""
    page.evaluate(AXE)
    found: dict[str, Any] = page.evaluate(
        "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']})"
    )
    return [f"{one['id']}: {node['html'][:160]}" for one in found["violations"] for node in one["nodes"]]


def settled(page: Page, path: str) -> None:
    page.goto(path)
    expect(page.get_by_role("heading", level=1)).to_be_attached()
    # What is fetched says so until it is there.
    expect(page.get_by_text(re.compile(r"^(Fetching|Asking|Measuring|Reading) .* …$"))).to_have_count(0)
    expect(page.locator("[aria-busy=true]")).to_have_count(0)


@pytest.fixture(scope="module")
def logs(command: Command, address: str, tmp_path_factory: pytest.TempPathFactory) -> str:
    """The address, with a collection of scanned pages beside the demo."""
    assert command("load", str(logbook(tmp_path_factory.mktemp("scans"))), "--collection", "logs").returncode == 0
    return address


@pytest.fixture(scope="module", params=LOOKS, ids=str)
def sized(request: pytest.FixtureRequest, browser: Browser, logs: str) -> Generator[Page]:
    width, height, theme = request.param
    context = browser.new_context(viewport={"width": width, "height": height}, base_url=logs, reduced_motion="reduce")
    context.add_init_script(f"localStorage.setItem('paleharbor.theme', '{theme}')")
    yield context.new_page()
    context.close()


def test_nothing_is_cut_overprinted_or_wider_than_the_window_and_axe_finds_no_fault(sized: Page):
    found: list[str] = []
    for path in VIEWS:
        settled(sized, path)
        found += [f"{path}: {fault}" for fault in faults(sized)]
        wide, room = sized.evaluate("[document.documentElement.scrollWidth, window.innerWidth]")
        if wide > room:
            found.append(f"{path}: {wide} pixels wide")
        found += [f"{path}: {fault}" for fault in sized.evaluate(UNREADABLE)]
    assert found == []


def test_axe_finds_no_fault_in_what_opens_over_a_view(sized: Page):
    found: list[str] = []
    for button, dialog in OVER:
        settled(sized, f"{RANKING}q=fog+bell&ranker=first:1")
        sized.get_by_role("button", name=button, exact=True).click()
        expect(sized.get_by_role("dialog", name=dialog)).to_be_visible()
        found += [f"{dialog}: {fault}" for fault in faults(sized)]
        box = sized.get_by_role("dialog", name=dialog).bounding_box()
        width = sized.evaluate("window.innerWidth")
        if box is None or box["x"] < 0 or box["x"] + box["width"] > width:
            found.append(f"{dialog}: {box} in {width} pixels")
    assert found == []


def test_whoever_comes_by_keyboard_skips_to_the_place(page: Page):
    settled(page, f"{RANKING}q=fog+bell&ranker=first:1")
    page.keyboard.press("Tab")
    skip = page.get_by_role("link", name="To Ranking")
    expect(skip).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator("main")).to_be_focused()
    expect(page.get_by_role("heading", level=1)).to_have_text("Ranking of saltmere")


def test_side_panes_lie_over_the_list_where_there_is_no_room(page: Page):
    page.set_viewport_size({"width": 640, "height": 400})
    settled(page, f"{RANKING}q=fog+bell&ranker=first:1")
    row = page.get_by_label("Results").locator("[data-row]").first
    expect(row).to_be_visible()
    knobs = page.get_by_role("button", name="Knobs", exact=True)
    expect(page.get_by_label("Weight of title, as a number")).to_be_hidden()
    knobs.click()
    expect(page.get_by_role("button", name="Back to the list").first).to_be_focused()
    weight = page.get_by_label("Weight of title, as a number")
    weight.fill("4")
    weight.press("Enter")
    expect(page.get_by_label("Draft", exact=True)).to_contain_text("not kept")
    page.keyboard.press("Escape")
    expect(weight).to_be_hidden()
    expect(knobs).to_be_focused()
    # With room again they stand beside the list, and no button is needed.
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(weight).to_be_visible()
    expect(knobs).to_be_hidden()


def test_strokes_of_the_waterline_are_walked_by_arrows(page: Page):
    settled(page, f"{RANKING}q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    strokes = page.get_by_label("Judged queries, from gain to loss").get_by_role("button")
    expect(strokes.nth(2)).to_be_visible()
    assert strokes.evaluate_all("all => all.filter((one) => one.tabIndex === 0).length") == 1
    strokes.first.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(strokes.nth(2)).to_be_focused()
    query = (strokes.nth(2).get_attribute("aria-label") or "").rpartition(": ")[0]
    page.keyboard.press("Enter")
    expect(page.get_by_label("Query", exact=True)).to_have_value(query)


@pytest.mark.parametrize("view", ["records", "chains", "spaces", "ranking", "judging", "measures"])
def test_the_first_paint_of_a_place_needs_less_than_250_kilobytes_of_script(page: Page, view: str):
    sizes: list[int] = []
    page.on("response", lambda r: sizes.append(int(r.headers["content-length"])) if r.url.endswith(".js") else None)
    settled(page, f"/saltmere/{view}")
    assert len(sizes) > 1
    assert sum(sizes) < 250_000


def test_bars_are_filled_where_the_page_scrolls_as_one(page: Page):
    page.set_viewport_size({"width": 390, "height": 800})
    settled(page, "/saltmere/records?view=fields")
    filled = page.locator("td .fills").first.bounding_box()
    assert filled is not None
    assert filled["height"] >= 5
    settled(page, f"{RANKING}q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    stroke = page.get_by_label("Judged queries, from gain to loss").get_by_role("button").first
    expect(stroke).to_be_visible()
    box = stroke.bounding_box()
    assert box is not None
    assert box["height"] >= 20
