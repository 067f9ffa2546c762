"""What people see who sign in, in both themes and at three widths, as every other view is looked at."""

from collections.abc import Generator

import pytest
from playwright.sync_api import Browser, Page

from tests.browser.test_every_view import LOOKS, UNREADABLE, faults, settled

PASSWORD = "a lamp for every ship"
LONG = "Theodora Annabella Wintermere of the Upper Harbour Office"
PEOPLE = "/saltmere/people?view="
VIEWS = [f"{PEOPLE}{view}" for view in ("members", "changes", "installation", "you")]


@pytest.fixture(scope="module", params=LOOKS, ids=str)
def sized(request: pytest.FixtureRequest, browser: Browser, address: str) -> Generator[Page]:
    width, height, theme = request.param
    context = browser.new_context(
        viewport={"width": width, "height": height}, base_url=address, reduced_motion="reduce"
    )
    context.add_init_script(f"localStorage.setItem('paleharbor.theme', '{theme}')")
    yield context.new_page()
    context.close()


def looked_at(page: Page, path: str) -> list[str]:
    settled(page, path)
    found = [f"{path}: {fault}" for fault in faults(page)]
    wide, room = page.evaluate("[document.documentElement.scrollWidth, window.innerWidth]")
    if wide > room:
        found.append(f"{path}: {wide} pixels wide")
    return found + [f"{path}: {fault}" for fault in page.evaluate(UNREADABLE)]


def test_as_long_as_nobody_signs_in(sized: Page):
    assert looked_at(sized, "/saltmere/people") == []


def test_once_there_is_a_keeper(sized: Page):
    ask = sized.request
    assert ask.post("/api/people", data={"name": "nora", "shown": LONG, "password": PASSWORD, "keeper": True}).ok
    try:
        found = looked_at(sized, "/sign-in")
        assert ask.post("/api/sign-in", data={"name": "nora", "password": PASSWORD}).ok
        assert ask.put("/api/collections/saltmere/members/nora", data={"role": "owner"}).ok
        link = ask.post("/api/collections/saltmere/invitations", data={"shown": LONG, "role": "judge"}).json()["path"]
        assert ask.post("/api/people/invitations", data={"shown": LONG}).ok
        assert ask.put("/api/collections/saltmere/chains/ropes", data={"notation": "words"}).ok
        for path in [*VIEWS, link]:
            found += looked_at(sized, path)
        assert ask.post("/api/sign-out").ok
        found += looked_at(sized, link)
        found += looked_at(sized, "/invited/" + "x" * 43)
    finally:
        assert ask.post("/api/sign-in", data={"name": "nora", "password": PASSWORD}).ok
        sized.goto("about:blank")
        assert ask.delete("/api/people/nora").ok
    assert "\n".join(found) == ""
