"""Rankers that are not ours in the browser: a run file, and a service asked, refusing, called off, compared with."""

import json
import re
import threading

from playwright.sync_api import FilePayload, Page, expect

from tests.search_service import Answer, search_service

RANKERS = "/saltmere/measures?view=rankers&ranker=first:1&set=board"


def brought(text: str) -> FilePayload:
    return {"name": "old.run.txt", "mimeType": "text/plain", "buffer": text.encode()}


def ask_over_http(page: Page, address: str, **more: str) -> None:
    """Says how a service is asked, by the form."""
    page.get_by_role("button", name="Ask over HTTP").click()
    page.get_by_label("Name of the service").fill("shop")
    page.get_by_label("Address", exact=True).fill(f"{address}/search?q={{query}}&n={{top}}")
    page.get_by_label("Where the keys are").fill("found[].id")
    page.get_by_label("Questions a second").fill("100")
    for name, text in more.items():
        page.get_by_label(name.replace("_", " "), exact=True).fill(text)
    page.get_by_role("button", name="Keep", exact=True).click()


def test_a_run_file_is_brought_compared_with_and_dropped(board: Page):
    board.goto(RANKERS)
    panel = board.get_by_label("Outside rankers")
    panel.get_by_role("button", name="Bring a run file").click()
    panel.get_by_label("Name of the outside ranker").fill("old")
    panel.get_by_label("Run file").set_input_files(brought("q1 Q0 sm0029 1 9 x\nq1 Q0\n"))
    panel.get_by_role("button", name="Bring it").click()
    expect(panel.get_by_role("alert")).to_contain_text("2 columns; a run has 6")
    panel.get_by_label("Run file").set_input_files(brought("q1 Q0 sm0029 1 9.5 x\nq2 Q0 sm0001 1 2 x\nzz Q0 a 1 1 x\n"))
    panel.get_by_role("button", name="Bring it").click()
    old = panel.get_by_role("listitem", name="old", exact=True)
    expect(old).to_contain_text("lists for 2 queries of board")
    row = board.get_by_label("Rankers", exact=True).locator("tbody tr").filter(has_text="old has no list for")
    expect(row).to_contain_text("1.000")
    old.get_by_role("button", name="drop", exact=True).click()
    old.get_by_role("button", name="drop it").click()
    expect(old).to_have_count(0)
    expect(row).to_have_count(0)


def test_a_service_is_asked_with_its_secret_which_the_page_never_tells(board: Page):
    seen: list[tuple[str, str | None]] = []

    def answer(command: str, path: str, headers: dict[str, str], body: bytes) -> Answer:
        seen.append((path, headers.get("X-Key")))
        return 200, {}, json.dumps({"found": [{"id": "sm0029"}, {"id": "sm0001"}]}).encode()

    with search_service(answer) as address:
        board.goto(RANKERS)
        ask_over_http(board, address, Header="X-Key", What_the_header_holds="open sesame")
        shop = board.get_by_label("Outside rankers").get_by_role("listitem", name="shop")
        shop.get_by_role("button", name="ask it").click()
        expect(shop).to_contain_text("lists for 3 queries of board")
        assert {path.split("&")[0] for path, _ in seen} == {
            "/search?q=fog%20bell",
            "/search?q=harpoon%20gun",
            "/search?q=ship%20in%20a%20bottle",
        }
        assert {key for _, key in seen} == {"open sesame"}
        assert "open sesame" not in board.request.get("/api/collections/saltmere/outside").text()
        board.get_by_label("Rankers", exact=True).get_by_role("row").filter(has_text="shop").get_by_role(
            "button", name="head to head"
        ).click()
        expect(board.get_by_label("The difference")).to_contain_text("Nobody knows how an outside ranker works.")
    assert board.request.delete("/api/collections/saltmere/outside/shop").ok


def test_a_service_that_refuses_is_told_in_words_and_one_that_takes_long_is_called_off(board: Page):
    may_answer, refuses = threading.Event(), threading.Event()
    refuses.set()

    def answer(command: str, path: str, headers: dict[str, str], body: bytes) -> Answer:
        if refuses.is_set():
            return 403, {}, b"no"
        may_answer.wait(20)
        return 200, {}, json.dumps({"found": [{"id": "sm0029"}]}).encode()

    with search_service(answer) as address:
        board.goto(RANKERS)
        ask_over_http(board, address)
        shop = board.get_by_label("Outside rankers").get_by_role("listitem", name="shop")
        shop.get_by_role("button", name="ask it").click()
        expect(shop).to_contain_text('For "fog bell": it refuses with 403')
        expect(shop).to_contain_text("no lists for board yet")
        refuses.clear()
        shop.get_by_role("button", name="ask it").click()
        expect(shop.get_by_role("progressbar", name="Asking shop")).to_be_visible()
        shop.get_by_role("button", name="cancel").click()
        may_answer.set()
        expect(shop).to_contain_text("The asking was ended; nothing of it was kept.")
        shop.get_by_role("button", name="ask it").click()
        expect(shop).to_contain_text("lists for 3 queries of board")
        # Asked again it may be worse: what it gave is kept until it gives something new.
        refuses.set()
        shop.get_by_role("button", name="ask again").click()
        expect(shop).to_contain_text(re.compile("403.*", re.DOTALL))
        expect(shop).to_contain_text("lists for 3 queries of board")
    assert board.request.delete("/api/collections/saltmere/outside/shop").ok
