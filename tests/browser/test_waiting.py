"""What stands on the screen belongs to what was asked, or says that it does not: with answers held back, or none."""

import re
from collections.abc import Generator

import pytest
from playwright.sync_api import Browser, Page, Route, expect

SEARCHES = re.compile(r"/api/collections/[^/]+/search$")
MEASURES = re.compile(r"/api/collections/[^/]+/judged/[^/]+/measure$")
ANYTHING_ASKED = re.compile(r"/api/collections/.*")


class HeldBack:
    """Answers to some requests, held back until they are let go."""

    def __init__(self, page: Page, requests: re.Pattern[str]) -> None:
        self._page = page
        self._requests = requests
        self._held: list[Route] = []
        page.route(requests, self._hold)

    def _hold(self, route: Route) -> None:
        self._held.append(route)

    def let_go(self) -> None:
        for route in self._held:
            route.continue_()
        self._page.unroute(self._requests)


@pytest.fixture
def page(browser: Browser, address: str) -> Generator[Page]:
    """A page of its own: connections that break are told by the browser too."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    yield context.new_page()
    context.close()


def rows(page: Page):
    return page.get_by_label("Results").locator("[data-row]")


def meter(page: Page):
    return page.get_by_role("banner").get_by_role("link")


def test_a_new_query_is_never_shown_with_the_list_of_the_former_one(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    expect(rows(page).first).to_be_visible()
    held = HeldBack(page, SEARCHES)
    page.get_by_label("Query", exact=True).fill("lighthouse")
    expect(page.get_by_label("Results")).to_contain_text("Fetching the list of “lighthouse”")
    expect(rows(page)).to_have_count(0)
    expect(page.get_by_label("Results")).not_to_contain_text("found in")
    expect(page.get_by_role("complementary", name="Why")).not_to_contain_text("Why it is number")
    held.let_go()
    expect(rows(page).first).to_be_visible()


def test_a_turned_knob_keeps_the_former_list_dimmed_and_says_so(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    expect(rows(page).first).to_be_visible()
    kept = page.get_by_label("Results").locator(".kept")
    expect(kept).to_have_attribute("aria-busy", "false")
    held = HeldBack(page, SEARCHES)
    page.get_by_label("Weight of title, as a number").fill("0.5")
    page.get_by_label("Weight of title, as a number").press("Enter")
    expect(kept).to_have_attribute("data-outdated", "")
    expect(page.get_by_label("Results")).to_contain_text("Renewing the list; this is of before the last turn")
    expect(rows(page).first).to_be_visible()
    held.let_go()
    expect(kept).to_have_attribute("aria-busy", "false")
    expect(kept).not_to_have_attribute("data-outdated", "")


def test_the_meter_and_the_waterline_say_that_a_turn_is_not_measured_yet(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    expect(page.get_by_label("Judged meter", exact=True)).to_contain_text("▲0 ▼0")
    held = HeldBack(page, MEASURES)
    page.get_by_label("Weight of title, as a number").fill("0.1")
    page.get_by_label("Weight of title, as a number").press("Enter")
    expect(page.get_by_label("Judged meter, renewing", exact=True)).to_have_attribute("data-outdated", "")
    expect(page.get_by_label("Waterline")).to_contain_text("Renewing the waterline")
    held.let_go()
    expect(page.get_by_label("Judged meter", exact=True)).to_be_visible()
    expect(page.get_by_label("Judged meter", exact=True)).not_to_contain_text("▲0 ▼0")
    expect(page.get_by_label("Waterline")).not_to_contain_text("Renewing")


def test_a_server_that_does_not_answer_is_told_at_the_first_try_and_so_is_its_return(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    expect(rows(page).first).to_be_visible()
    # Only what was there before can be of before.
    expect(page.get_by_label("Judged meter").get_by_role("link")).to_contain_text("of 99")
    page.route(ANYTHING_ASKED, lambda route: route.abort("connectionrefused"))
    page.get_by_label("Weight of title, as a number").fill("0.5")
    page.get_by_label("Weight of title, as a number").press("Enter")
    expect(page.get_by_label("Results")).to_contain_text(
        "No answer from the server: this is of before the last turn", timeout=5_000
    )
    expect(page.get_by_label("Judged meter, of before: the server does not answer")).to_be_visible()
    page.get_by_label("Query", exact=True).fill("lighthouse")
    expect(rows(page)).to_have_count(0)
    expect(page.get_by_label("Results")).to_contain_text("does not answer", timeout=5_000)
    page.unroute(ANYTHING_ASKED)
    expect(rows(page).first).to_be_visible()
    expect(page.get_by_label("Results")).not_to_contain_text("does not answer")


def test_without_a_net_the_server_on_this_machine_is_asked_all_the_same(page: Page):
    page.goto("/saltmere/ranking?q=fog+bell")
    expect(rows(page).first).to_be_visible()
    page.evaluate("() => { Object.defineProperty(navigator, 'onLine', { get: () => false }) }")
    page.evaluate("() => window.dispatchEvent(new Event('offline'))")
    page.get_by_label("Query", exact=True).fill("lighthouse")
    expect(page.get_by_label("Results")).to_contain_text("read as “lighthous”")
    expect(rows(page).first).to_be_visible()


def test_a_figure_of_one_collection_never_stands_under_anothers(page: Page):
    request, made = page.request, "/api/collections/quay"
    assert request.post("/api/collections", data={"name": "quay"}).ok
    files = {"queries": "q1\tquay\n", "judgments": "q1 0 1 3\n"}
    assert request.put(f"{made}/judged/own/files", data=files).ok
    page.goto("/saltmere/measures")
    expect(page.get_by_test_id("mean-ndcg@10")).to_be_visible()
    HeldBack(page, MEASURES)
    page.get_by_label("Collection", exact=True).select_option("quay")
    expect(page).to_have_url(re.compile("/quay/measures"))
    expect(page.get_by_test_id("mean-ndcg@10")).to_have_count(0)
    expect(meter(page).filter(has_text="nDCG@10")).to_have_count(0)
    assert request.delete(f"{made}?confirm=quay").ok


def test_a_grade_renews_the_meter_and_a_set_without_queries_has_no_mean(page: Page):
    request, board = page.request, "/api/collections/saltmere/judged/harbour"
    assert request.post(board, data={"locked_share": 0}).ok
    page.goto("/saltmere/ranking?q=fog+bell&set=harbour")
    expect(page.get_by_label("Judged meter", exact=True)).to_contain_text("nDCG@10 –")
    files = {"queries": "q1\tfog bell\n", "judgments": "q1 0 nothing-such 3\n"}
    assert request.put(f"{board}/files", data=files).ok
    expect(page.get_by_label("Judged meter", exact=True)).to_contain_text("nDCG@10 0.000")
    first = rows(page).first.get_attribute("data-row")
    assert request.put(f"{board}/files", data=files | {"judgments": f"q1 0 {first} 3\n"}).ok
    expect(page.get_by_label("Judged meter", exact=True)).to_contain_text("nDCG@10 1.000")
    assert request.delete(board).ok


@pytest.mark.parametrize(
    "place",
    [
        "/saltmere/ranking?q=fog+bell&lists=yes",
        "/saltmere/ranking?q=fog+bell&tab=not&key=sm0029",
        "/saltmere/ranking?q=fog+bell&tab=sides",
        "/saltmere/measures",
        "/saltmere/measures?view=rankers",
        "/saltmere/measures?view=head",
        "/saltmere/measures?view=owner",
        "/saltmere/records",
        "/saltmere/spaces?q=fog+bell",
        "/saltmere/chains?q=fog+bell",
    ],
)
def test_before_anything_is_answered_a_place_shows_no_figure(page: Page, place: str):
    # Which collections and rankers there are is answered; what is asked of them is not.
    asked = re.compile(r"/api/collections/[^/]+/(?!rankers$|spaces$|outside$|judged$).*")
    held = HeldBack(page, asked)
    page.goto(place)
    expect(page.get_by_role("main").get_by_role("status").filter(has_text="Fetching").first).to_be_visible()
    assert re.findall(r"\d\.\d\d\d|\d+ found|\d+ gained", page.get_by_role("main").inner_text()) == []
    held.let_go()


def test_when_the_server_can_no_longer_be_heard_every_place_says_so(page: Page):
    page.route("**/api/events", lambda route: route.abort("connectionrefused"))
    page.goto("/saltmere/records")
    expect(page.get_by_role("main")).to_contain_text("The server cannot be heard")
    page.unroute("**/api/events")
    expect(page.get_by_role("main")).not_to_contain_text("The server cannot be heard")


def test_an_offer_that_was_not_fetched_yet_when_its_letters_were_typed_still_comes(page: Page):
    stages = HeldBack(page, re.compile(r"/api/stages$"))
    page.goto("/saltmere/chains?q=harp&key=sm0002&field=title")
    chain = page.get_by_label("Record chain", exact=True)
    # What the chain makes of the record is there: nothing comes any more that would take the place of the editor.
    expect(page.get_by_role("table", name="Meeting")).to_be_visible()
    chain.click()
    expect(chain).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("wo")
    expect(chain).to_have_text("wo")
    expect(page.get_by_role("listbox")).to_have_count(0)
    stages.let_go()
    expect(page.get_by_role("listbox").get_by_role("option")).to_have_count(1)
    page.keyboard.press("Tab")
    expect(chain).to_have_text("words")
