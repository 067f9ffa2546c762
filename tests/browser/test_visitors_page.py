"""The visitor's page: ahead of a fast typist, by keyboard, in the visitor's language, and in somebody else's page."""

import http.server
import re
import threading
from collections.abc import Generator
from contextlib import contextmanager
from typing import Any

import orjson
import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from tests.browser.conftest import Command
from tests.browser.test_every_view import UNREADABLE, faults
from tests.conftest import ROOT


@pytest.fixture(scope="module")
def key(command: Command, address: str) -> str:
    """A visitor's key for pages of any site."""
    made = command("key", "visitor", "saltmere", "the museum's page", "--origin", "*")
    assert made.returncode == 0, made.stderr
    return made.stdout.strip()


def box_of(page: Page) -> Locator:
    # Not the one in which the order is chosen.
    return page.locator("input[role=combobox]")


def visit(page: Page, key: str, more: str = "") -> None:
    page.goto(f"/visit/saltmere?key={key}{more}")
    expect(box_of(page)).to_be_visible()


def titles(page: Page) -> list[str]:
    return page.get_by_role("heading", level=2).all_inner_texts()


def test_a_visitor_finds_narrows_orders_leafs_and_opens(page: Page, key: str):
    visit(page, key)
    expect(page.get_by_text("Type a word to begin.")).to_be_visible()
    box_of(page).fill("bell")
    page.keyboard.press("Enter")
    said = page.get_by_role("status").filter(has_text="results for “bell”")
    expect(said).to_be_visible()
    whole = int(said.inner_text().split()[0])
    expect(page.locator("mark").first).to_have_text(re.compile("bell", re.IGNORECASE))
    page.get_by_label(re.compile("^letter")).check()
    expect(page).to_have_url(re.compile(r"is\.kind=letter"))
    expect(said).not_to_have_text(f"{whole} results for “bell”")
    page.get_by_role("button", name="Take “letter” away").click()
    expect(said).to_have_text(f"{whole} results for “bell”")
    page.get_by_label("Order").select_option("year, lowest first")
    first = page.get_by_role("heading", level=2).first
    expect(page).to_have_url(re.compile("sort=year"))
    expect(page.locator("[data-waiting]")).to_have_count(0)
    oldest = first.inner_text()
    page.get_by_role("button", name="Page 2").click()
    expect(page.get_by_role("button", name="Page 2")).to_have_attribute("aria-current", "page")
    expect(first).not_to_have_text(oldest)
    # Back is one page back, and then the first again.
    page.go_back()
    expect(first).to_have_text(oldest)
    first.get_by_role("button").click()
    expect(page.locator("dl")).to_contain_text("inventory code")


def test_whoever_goes_by_keyboard_stays_where_they_are(page: Page, key: str):
    visit(page, key, "&q=bell")
    letters = page.get_by_label(re.compile("^letter"))
    letters.focus()
    page.keyboard.press("Space")
    expect(page).to_have_url(re.compile(r"is\.kind=letter"))
    expect(page.locator("[data-waiting]")).to_have_count(0)
    expect(letters).to_be_checked()
    expect(letters).to_be_focused()
    # What is gone leaves them at the words that say what the list is.
    page.get_by_role("button", name="Take “letter” away").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="results for “bell”")).to_be_focused()


def test_on_a_phone_what_was_unfolded_stays_so(page: Page, key: str):
    page.set_viewport_size({"width": 390, "height": 844})
    visit(page, key, "&q=lamp")
    letters = page.get_by_label(re.compile("^letter"))
    expect(page.get_by_role("heading", level=2).first).to_be_visible()
    expect(letters).not_to_be_visible()
    page.get_by_text("Narrow", exact=False).first.click()
    page.get_by_role("button", name=re.compile("more$")).first.click()
    expect(letters).to_be_visible()
    letters.check()
    letters.uncheck()
    expect(page.get_by_role("button", name="Take “letter” away")).to_have_count(0)
    expect(letters).to_be_visible()


def test_what_was_opened_stays_open_after_a_rest(page: Page, key: str):
    visit(page, key)
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route(re.compile("/v1/saltmere/search"), hold)
    with page.expect_request(lambda request: "/search?" in request.url):
        box_of(page).press_sequentially("bell fog", delay=5)
    # What was typed is shown; what it comes to after a rest is on its way.
    first = page.get_by_role("heading", level=2).first.get_by_role("button")
    # The suggestions close with the box's focus.
    box_of(page).blur()
    first.click()
    expect(first).to_have_attribute("aria-expanded", "true")
    with page.expect_response(lambda answer: "/search?" in answer.url):
        held[0].continue_()
    expect(page.locator("[data-waiting]")).to_have_count(0)
    expect(first).to_have_attribute("aria-expanded", "true")


def test_what_is_opened_and_helps_is_told(page: Page, key: str, command: Command):
    visit(page, key, "&q=fog+bell")
    with page.expect_response(lambda answer: "/events" in answer.url) as clicked:
        page.get_by_role("heading", level=2).first.get_by_role("button").click()
    assert clicked.value.status == 204
    with page.expect_response(lambda answer: "/events" in answer.url) as helped:
        page.get_by_role("button", name="This is what I was looking for").click()
    assert helped.value.status == 204
    expect(page.get_by_text("Thank you.")).to_be_visible()
    past = page.request.get("/api/collections/saltmere/delivery/past").json()["queries"]
    [told] = [one for one in past if one["query"] == "fog bell"]
    assert (told["clicked"], told["succeeded"]) == (1, 1)


def test_a_link_shows_the_same_list(page: Page, browser: Browser, address: str, key: str):
    visit(page, key, "&q=lamp&is.kind=letter&sort=-year")
    expect(page.get_by_role("heading", level=2).first).to_be_visible()
    page.get_by_role("button", name="Copy a link to this list").click()
    expect(page.get_by_text("Copied.")).to_be_visible()
    other = browser.new_page()
    other.goto(page.evaluate("navigator.clipboard.readText()"))
    expect(other.get_by_role("heading", level=2).first).to_be_visible()
    assert titles(other) == titles(page)
    other.close()


def test_no_older_list_takes_the_place_of_a_newer_one(page: Page, key: str):
    visit(page, key)
    held: list[Route] = []

    def slowly(route: Route) -> None:
        # The first letters are answered last.
        if not re.search(r"query=harpoon(&|$)", route.request.url):
            held.append(route)
            return
        route.continue_()
        while held:
            held.pop(0).continue_()

    page.route(re.compile(r"/v1/saltmere/(typed|search)\?"), slowly)
    box_of(page).press_sequentially("harpoon", delay=5)
    expect(page.get_by_role("status").filter(has_text="for “harpoon”")).to_be_visible()
    expect(page.get_by_role("heading", level=2).first).to_contain_text(re.compile("harpoon", re.IGNORECASE))
    page.wait_for_load_state("networkidle")
    expect(page.get_by_role("status").filter(has_text="for “harpoon”")).to_be_visible()


def test_suggestions_by_keyboard(page: Page, key: str):
    visit(page, key)
    box = box_of(page)
    box.press_sequentially("fog b", delay=30)
    expect(box).to_have_attribute("aria-expanded", "true")
    options = page.get_by_role("option")
    first = options.first.inner_text()
    page.keyboard.press("ArrowDown")
    expect(options.first).to_have_attribute("aria-selected", "true")
    expect(box).to_have_value(first)
    expect(box).to_have_attribute("aria-activedescendant", "suggestion-0")
    page.keyboard.press("Escape")
    expect(box).to_have_value("fog b")
    expect(box).to_have_attribute("aria-expanded", "false")
    box.press_sequentially("e", delay=30)
    expect(box).to_have_attribute("aria-expanded", "true")
    page.keyboard.press("ArrowDown")
    chosen = box.input_value()
    page.keyboard.press("Enter")
    expect(box).to_have_attribute("aria-expanded", "false")
    expect(page.get_by_role("status").filter(has_text=f"for “{chosen}”")).to_be_visible()


@pytest.fixture(scope="module")
def key_for_all_words(command: Command, tmp_path_factory: pytest.TempPathFactory) -> str:
    """A visitor's key for a ranker that needs every word."""
    folder = tmp_path_factory.mktemp("terms")
    document = folder / "ranker.json"
    readings = [{"field": "title", "chain": "words > lower"}]
    document.write_bytes(orjson.dumps({"need": "all", "corrections": {"take": "nothing"}, "readings": readings}))
    saved = command("ranker", "put", "saltmere", "every-word", str(document))
    assert saved.returncode == 0, saved.stderr
    terms = folder / "terms.json"
    terms.write_text('{"ranker": "every-word"}')
    made = command("key", "visitor", "saltmere", "every word", "--terms", str(terms))
    assert made.returncode == 0, made.stderr
    return made.stdout.strip()


def test_where_nothing_is_found_the_page_helps(page: Page, key_for_all_words: str):
    key = key_for_all_words
    visit(page, key, "&q=unicorn+lamp+zyzzyva")
    page.get_by_role("button", name=re.compile("Without “unicorn” and “zyzzyva”: ")).click()
    expect(box_of(page)).to_have_value("lamp")
    expect(page.get_by_role("heading", level=2).first).to_be_visible()
    visit(page, key, "&q=zyzzyva")
    expect(page.get_by_text("Nothing found for “zyzzyva”.")).to_be_visible()
    expect(page.get_by_text("Try other words, fewer of them, or another spelling.")).to_be_visible()
    visit(page, key, "&q=harpoon&is.kind=letter&is.place=Nowhere")
    page.get_by_role("button", name=re.compile("^Without what you narrowed it to: ")).click()
    expect(page.get_by_role("heading", level=2).first).to_be_visible()


def test_what_was_taken_for_a_slip_can_be_asked_as_it_was_said(page: Page, key_for_all_words: str):
    visit(page, key_for_all_words, "&q=harpon")
    expect(page.get_by_text("Showing results for “harpoon”.")).to_be_visible()
    page.get_by_role("button", name="Search for “harpon” instead").click()
    expect(page.get_by_role("status").filter(has_text="Nothing found for “harpon”.")).to_be_visible()
    # The link that is sent on shows the same.
    page.reload()
    expect(page.get_by_role("status").filter(has_text="Nothing found for “harpon”.")).to_be_visible()
    page.get_by_role("button", name="harpoon", exact=True).click()
    expect(page.get_by_role("heading", level=2).first).to_contain_text(re.compile("harpoon", re.IGNORECASE))


@pytest.mark.parametrize(
    ("language", "button", "none"),
    [
        ("de", "Suchen", "Nichts gefunden"),
        ("fr", "Rechercher", "Aucun résultat"),
        ("es", "Buscar", "No se ha encontrado nada"),
        ("nb", "Søk", "Ingen treff"),
    ],
)
def test_the_page_speaks_the_visitors_language(page: Page, key: str, language: str, button: str, none: str):
    visit(page, key, f"&lang={language}&q=zyzzyva")
    expect(page.get_by_role("button", name=button, exact=True)).to_be_visible()
    expect(page.get_by_role("status").filter(has_text=none)).to_be_visible()


@pytest.mark.parametrize("shown", ["", "x" * 43])
def test_without_a_key_it_says_so(browser: Browser, address: str, shown: str):
    # A refusal is told by the browser as well.
    page = browser.new_page(base_url=address)
    page.goto(f"/visit/saltmere{f'?key={shown}' if shown else ''}")
    expect(page.get_by_role("alert")).to_contain_text("key")
    page.close()


def test_too_many_requests_wait_and_go_on(browser: Browser, address: str, key: str):
    # A refusal is told by the browser as well.
    page = browser.new_page(base_url=address)
    visit(page, key)
    calls = 0

    def refuse_once(route: Route) -> None:
        nonlocal calls
        calls += 1
        if calls > 1:
            route.continue_()
        else:
            told = {"status": 429, "headers": {"Retry-After": "1"}, "body": "{}", "content_type": "application/json"}
            route.fulfill(**told)  # pyright: ignore[reportArgumentType]

    page.route(re.compile("/v1/saltmere/search"), refuse_once)
    box_of(page).fill("lamp")
    with page.expect_response(lambda answer: "/search?" in answer.url and answer.ok):
        page.keyboard.press("Enter")
        expect(page.get_by_text("1 second")).to_be_visible()
    assert calls == 2
    expect(page.get_by_role("status").filter(has_text="for “lamp”")).to_be_visible()
    page.close()


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (390, 844), (320, 640)])
def test_it_fits_and_axe_finds_no_fault(page: Page, key: str, width: int, height: int):
    page.set_viewport_size({"width": width, "height": height})
    for more in ("", "&q=fog+bell", "&q=unicorn+lamp", "&q=zyzzyva", "&q=bell&is.kind=object&page=2&sort=-year"):
        visit(page, key, more)
        expect(page.locator("[data-waiting]")).to_have_count(0)
        assert faults(page) == []
        wide, room = page.evaluate("[document.documentElement.scrollWidth, window.innerWidth]")
        assert wide <= room, more
        assert page.evaluate(UNREADABLE) == []


@contextmanager
def site(html: str) -> Generator[str]:
    """The address of somebody else's site, of one page."""

    class OnePage(http.server.BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.end_headers()
            self.wfile.write(html.encode())

        def log_message(self, format: str, *args: Any) -> None:
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), OnePage)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_port}"
    finally:
        server.shutdown()
        thread.join()


def page_of_a_site(address: str, key: str) -> str:
    """The example of the docs, on a site whose own buttons are large."""
    text = (ROOT / "docs/examples/site.html").read_text("utf-8")
    own = text.replace("https://search.saltmere.example", address).replace('key="KEY"', f'key="{key}"')
    return own.replace("</style>", "button { font-size: 40px }</style>")


def test_a_site_needs_two_lines(browser: Browser, address: str, key: str):
    with site(page_of_a_site(address, key)) as news:
        page = browser.new_page()
        complaints: list[str] = []
        page.on("pageerror", lambda error: complaints.append(str(error)))
        page.on("console", lambda said: complaints.append(said.text) if said.type == "error" else None)
        page.goto(news)
        box_of(page).fill("fog bell")
        page.keyboard.press("Enter")
        link = page.get_by_role("heading", level=2).first.get_by_role("link")
        expect(link).to_have_attribute("href", "https://objects.example/sm0032")
        # Colours are the site's; its styles for its own buttons reach no further.
        go = page.get_by_role("button", name="Search")
        assert go.evaluate("one => getComputedStyle(one).backgroundColor") == "rgb(120, 0, 60)"
        assert go.evaluate("one => getComputedStyle(one).fontSize") != "40px"
        # The site's address stays as it was.
        assert page.url == f"{news}/"
        assert complaints == []
        page.close()


def test_a_site_that_its_key_does_not_name_gets_nothing(browser: Browser, address: str, command: Command):
    made = command("key", "visitor", "saltmere", "another page", "--origin", "https://other.example")
    with site(page_of_a_site(address, made.stdout.strip())) as news:
        page = browser.new_page()
        page.goto(news)
        expect(page.get_by_text(re.compile("cannot be used here|does not answer"))).to_be_visible()
        page.close()


def test_what_a_site_loads_is_under_forty_kilobytes(page: Page, address: str):
    script = page.request.get(f"{address}/harbor-search.js", headers={"Accept-Encoding": "identity"})
    assert script.headers["access-control-allow-origin"] == "*"
    assert len(script.body()) < 40_000


def test_an_engineer_looks_behind_the_list_and_lays_another_beside_it(page: Page, key: str):
    visit(page, key, "&q=bell&engineer")
    page.get_by_text("For engineers: grades, scores and why").click()
    own = page.get_by_role("table", name="first 1")
    expect(own.get_by_role("row")).to_have_count(11)
    first = page.get_by_role("heading", level=2).first.inner_text()
    expect(own.get_by_role("row").nth(1)).to_contain_text(first)
    page.get_by_label("Beside it, the list of").select_option("blended:1")
    expect(page.get_by_role("table", name="blended 1").get_by_role("row")).to_have_count(11)
    why = own.get_by_role("link", name="why").first.get_attribute("href") or ""
    assert "/saltmere/ranking?q=bell&ranker=first%3A1&tab=why&key=" in why


def test_a_visitor_asks_the_endpoint_alone(page: Page, key: str):
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    visit(page, key, "&q=bell")
    expect(page.get_by_role("heading", level=2).first).to_be_visible()
    assert [url for url in asked if "/api/" in url] == []


@pytest.fixture(scope="module")
def key_for_pages(command: Command, address: str) -> str:
    """A visitor's key for the museum's log books."""
    made = command("key", "visitor", "logbooks", "the museum's pages", "--origin", "*")
    assert made.returncode == 0, made.stderr
    return made.stdout.strip()


def test_a_visitor_looks_at_a_page_and_goes_from_match_to_match(page: Page, key_for_pages: str):
    page.goto(f"/visit/logbooks?key={key_for_pages}&q=fog+bell")
    look = page.get_by_role("button", name=re.compile(r"^Look at the page \(\d+ match"))
    look.first.click()
    shown = page.get_by_role("group", name="Log of the Kestrel Ness light, page 1")
    status = shown.get_by_role("status")
    expect(status).to_have_text(re.compile("match 1 of [23]"))
    marked = shown.locator(".page-hit")
    expect(marked.first).to_be_visible()
    expect(shown.locator(".page-hit.now").first).to_be_visible()
    # By keyboard, with the words around.
    shown.get_by_role("button", name="Next match").focus()
    page.keyboard.press(".")
    expect(status).to_have_text(re.compile("match 2 of"))
    expect(shown.locator("mark").first).to_have_text(re.compile("fog", re.IGNORECASE))
    page.keyboard.press(",")
    expect(status).to_have_text(re.compile("match 1 of"))
    # Other pages of the same log, with how much was found on each.
    beside = shown.get_by_role("list", name="Pages of the same thing").get_by_role("button")
    assert beside.count() > 3
    beside.nth(1).click()
    expect(beside.nth(1)).to_have_attribute("aria-current", "page")
    shown.get_by_text("The text of the page").click()
    expect(shown.locator("details mark").first).to_be_visible()
    page.get_by_role("button", name="Close the page").click()
    expect(shown).to_have_count(0)
    expect(look.first).to_be_focused()


def test_what_the_machine_read_stands_where_a_visitor_points(page: Page, key_for_pages: str):
    page.goto(f"/visit/logbooks?key={key_for_pages}&q=smuggler")
    page.get_by_role("button", name=re.compile("^Look at the page")).first.click()
    marked = page.locator(".page-hit.now").first
    expect(marked).to_be_visible()
    marked.hover()
    # The long s, as the machine has it.
    expect(page.get_by_text(re.compile("read by machine as “fmuggler"))).to_be_visible()


def test_another_list_closes_the_page(page: Page, key_for_pages: str):
    page.goto(f"/visit/logbooks?key={key_for_pages}&q=smuggler")
    page.get_by_role("button", name=re.compile("^Look at the page")).first.click()
    expect(page.locator(".page-hit.now").first).to_be_visible()
    box_of(page).fill("starlings")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Log of the Lanner Rock light, page 7")).to_be_visible()
    expect(page.locator(".page-hit")).to_have_count(0)


def test_a_collection_without_pages_offers_none_to_look_at(page: Page, key: str):
    visit(page, key, "&q=bell")
    expect(page.get_by_role("heading", level=2).first).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Look at the page"))).to_have_count(0)


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (390, 844), (640, 400)])
def test_a_page_fits_and_axe_finds_no_fault(page: Page, key_for_pages: str, width: int, height: int):
    page.set_viewport_size({"width": width, "height": height})
    page.goto(f"/visit/logbooks?key={key_for_pages}&q=fog+bell")
    page.get_by_role("button", name=re.compile("^Look at the page")).first.click()
    expect(page.locator(".page-hit.now").first).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
    assert faults(page) == []
