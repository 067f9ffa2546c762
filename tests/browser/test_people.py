"""Signing in, inviting, judging from another browser, and being refused what is not one's own."""

import re
from collections.abc import Generator

import pytest
from playwright.sync_api import Browser, Page, Route, expect

PASSWORD = "a lamp for every ship"


@pytest.fixture
def keeper(page: Page) -> Generator[Page]:
    """Somebody who has made themselves the first keeper, by the page. Nobody is left afterwards."""
    page.goto("/saltmere/people")
    expect(page.get_by_role("heading", name="Nobody signs in here")).to_be_visible()
    page.get_by_label("Name to sign in by").fill("nora")
    page.get_by_label("Name that others see").fill("Nora Vane")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Make the first keeper").click()
    expect(page.get_by_role("form", name="Invite somebody")).to_be_visible()
    yield page
    for one in page.request.get("/api/people").json()["people"]:
        if one["name"] != "nora":
            assert page.request.delete(f"/api/people/{one['name']}").ok
    page.goto("about:blank")
    assert page.request.delete("/api/people/nora").ok


def invited(keeper: Page, shown: str, role: str) -> str:
    """The link that the keeper makes for somebody."""
    keeper.goto("/saltmere/people")
    keeper.get_by_label("Who, as others see the name").fill(shown)
    keeper.get_by_label("As", exact=True).select_option(role)
    keeper.get_by_role("button", name="Make a link").click()
    said = keeper.get_by_role("status").filter(has_text=f"Send this to {shown}")
    return said.locator("code").inner_text()


def come_in(browser: Browser, link: str, name: str) -> Page:
    """Another browser, in which somebody takes an invitation."""
    other = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    other.goto(link)
    other.get_by_label("Name to sign in by").fill(name)
    other.get_by_label("Password").fill(PASSWORD)
    other.get_by_role("button", name="Come in").click()
    other.wait_for_url(lambda address: "/invited/" not in address)
    return other


def test_whoever_is_not_signed_in_signs_in_and_goes_on_where_they_wanted(browser: Browser, address: str, keeper: Page):
    other = browser.new_context(base_url=address).new_page()
    other.goto("/saltmere/records?view=browse")
    expect(other.get_by_role("heading", name="Sign in")).to_be_visible()
    other.get_by_label("Name").fill("nora")
    other.get_by_label("Password").fill("a lamp for no ship")
    other.get_by_role("button", name="Sign in").click()
    expect(other.get_by_role("alert")).to_contain_text("do not belong together")
    other.get_by_label("Password").fill(PASSWORD)
    other.keyboard.press("Enter")
    expect(other).to_have_url(re.compile(r"/saltmere/records\?view=browse"))
    # Signed out in one tab, the other one finds out at the next thing that it asks.
    other.goto("/saltmere/people?view=you")
    other.get_by_role("button", name="Sign out", exact=True).click()
    expect(other.get_by_role("heading", name="Sign in")).to_be_visible()
    other.context.close()


def test_an_engineer_is_invited_and_what_they_keep_carries_their_name(browser: Browser, keeper: Page):
    link = invited(keeper, "Ib Sand", "engineer")
    other = come_in(browser, link, "ib")
    expect(other).to_have_url(re.compile(r"/saltmere/ranking"))
    home = link.split("/invited/")[0]
    other.goto(f"{home}/saltmere/ranking?ranker=first&q=bell")
    other.get_by_label("Weight of title, as a number").fill("4")
    other.get_by_label("Weight of title, as a number").press("Enter")
    other.get_by_label("Name of the ranker").fill("ibs-own")
    other.get_by_role("button", name="Keep as another ranker").click()
    expect(other.get_by_label("Knobs")).to_contain_text("ibs-own")
    other.keyboard.press("v")
    expect(other.get_by_role("complementary")).to_contain_text("Ib Sand")
    # An engineer does not say who is a member.
    other.goto(f"{home}/saltmere/people")
    expect(other.get_by_role("navigation", name="Views of the people").get_by_role("button")).to_have_text(["You"])
    expect(other.get_by_text("you are engineer")).to_be_visible()
    keeper.goto("/saltmere/people?view=changes")
    line = keeper.get_by_role("row").filter(has_text="Keeps a ranker").first
    expect(line).to_contain_text("Ib Sand")
    expect(line).to_contain_text("ibs-own")
    line.get_by_role("button", name="Ib Sand").click()
    expect(keeper.get_by_text("by Ib Sand alone; show everybody")).to_be_visible()
    # What is of no collection is seen by keepers, where they look at all of it.
    keeper.goto("/saltmere/people?view=changes")
    table = keeper.get_by_role("table", name="Changes")
    expect(table).to_contain_text("ibs-own")
    keeper.get_by_label("in all of the installation").check()
    expect(keeper).to_have_url(re.compile("in=all"))
    expect(line).to_contain_text("saltmere")
    expect(table).to_contain_text("Makes a person")
    other.context.close()


# Where something is changed, and the button for it.
CHANGES = [
    ("records?view=browse&key=sm0002", "Add a record"),
    ("records?view=browse&key=sm0002", "Edit"),
    ("records?view=browse&key=sm0002", "Delete"),
    ("records?view=collections", "Rename saltmere"),
    ("records?view=collections", "Copy saltmere"),
    ("chains?q=fog+bell&field=title", "Save as"),
    ("chains?q=fog+bell&field=title&aside=lists", "synonyms"),
    ("spaces", "Make a space"),
    ("ranking?q=bell&ranker=first:1", "complain"),
    ("judging?view=queries", "Add"),
    ("judging?view=queries", "Paste a list"),
    ("judging?view=set", "Lock away"),
    ("judging?view=set", "Drop visitors …"),
    ("measures?view=owner&first=first:1&second=blended:1", "Write it down"),
    ("measures?view=rankers", "Bring a run file"),
    ("tuning?ranker=first:1&view=ledger", "Make the ledger"),
    ("tuning?ranker=first:1&view=remedies", "Look for remedies"),
]


def test_a_reader_sees_what_changes_something_and_cannot_press_it(browser: Browser, keeper: Page):
    other = come_in(browser, invited(keeper, "Eli Marr", "reader"), "eli")
    home = other.url.split("/saltmere")[0]
    for path in dict.fromkeys(path for path, _ in CHANGES):
        names = [name for of, name in CHANGES if of == path]
        for page in (other, keeper):
            page.goto(f"{home}/saltmere/{path}")
            for name in names:
                expect(page.get_by_role("button", name=name, exact=True).first).to_be_enabled(enabled=page is keeper)
    expect(other.get_by_text("reader", exact=True)).to_have_attribute(
        "title", "A reader looks, and measures what is open"
    )
    expect(keeper.get_by_text("reader", exact=True)).to_have_count(0)
    # Forms as well, and what an owner alone may says so.
    other.goto(f"{home}/saltmere/judging?view=tasks")
    expect(other.get_by_role("textbox", name="Judges", exact=True)).to_be_disabled()
    other.goto(f"{home}/saltmere/judging?view=set")
    expect(other.get_by_label("Meaning of grade 3")).to_be_disabled()
    expect(other.get_by_title("For owners of the collection")).to_have_count(1)
    # What changes nothing can be pressed.
    expect(other.get_by_label("Form of the files")).to_be_enabled()
    other.context.close()


def test_whoever_makes_a_collection_may_do_all_with_it_at_once(browser: Browser, keeper: Page):
    other = come_in(browser, invited(keeper, "Ana Quill", "reader"), "ana")
    assert keeper.request.put("/api/people/ana", data={"makes_collections": True}).ok
    home = other.url.split("/saltmere")[0]
    other.goto(f"{home}/saltmere/records?view=collections")
    other.get_by_label("Name of the new collection").fill("anas-pier")
    other.get_by_label("Name of the new collection").press("Enter")
    expect(other).to_have_url(re.compile("/anas-pier/records"))
    other.get_by_role("button", name="Collections").click()
    expect(other.get_by_role("button", name="Drop saltmere")).to_be_disabled()
    # Known by its new name, too.
    other.get_by_role("button", name="Rename anas-pier").click()
    other.get_by_label("Name", exact=True).fill("anas-quay")
    other.get_by_label("Name", exact=True).press("Enter")
    expect(other.get_by_role("button", name="Drop anas-quay")).to_be_enabled()
    assert other.request.delete(f"{home}/api/collections/anas-quay", params={"confirm": "anas-quay"}).ok
    other.context.close()


def test_a_reader_looks_and_is_told_what_keeping_needs(browser: Browser, keeper: Page):
    other = come_in(browser, invited(keeper, "Aud Holm", "reader"), "aud")
    home = other.url.split("/saltmere")[0]
    other.goto(f"{home}/saltmere/ranking?ranker=first&q=bell")
    other.get_by_label("Weight of title, as a number").fill("4")
    other.get_by_label("Weight of title, as a number").press("Enter")
    button = other.get_by_role("button", name="Keep as a new version")
    expect(button).to_be_disabled()
    expect(other.get_by_title("For engineers and owners of the collection").filter(has=button)).to_have_count(1)
    # No draft of theirs is kept on the server.
    assert keeper.request.get("/api/collections/saltmere/drafts").json() == []
    refused = other.request.delete(f"{home}/api/collections/saltmere", params={"confirm": "saltmere"})
    assert refused.status == 403
    other.context.close()


def test_a_judge_comes_in_and_judges_what_is_theirs_alone(browser: Browser, keeper: Page):
    other = come_in(browser, invited(keeper, "Tor Lund", "judge"), "tor")
    expect(other.get_by_role("heading", name="What there is to judge")).to_be_visible()
    expect(other.get_by_text("Nothing is given to you")).to_be_visible()
    task = {"name": "Bells", "judges": ["Tor Lund"], "sides": [{"ranker": {"name": "first"}}], "depth": 2}
    path = "/api/collections/saltmere/judged/visitors/tasks"
    made = keeper.request.post(path, data={**task, "leave_out_judged": False})
    assert made.ok, made.text()
    other.reload()
    other.get_by_role("link", name="Bells").click()
    expect(other.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
    other.keyboard.press("2")
    expect(other.get_by_test_id("sending")).to_have_text("all kept")
    keeper.goto("/saltmere/judging?view=tasks")
    line = keeper.get_by_role("listitem", name="Bells")
    expect(line).to_contain_text("1 of")
    expect(line).to_contain_text("signs in")
    home, own = other.url.split("/judge")
    stranger = browser.new_context().new_page()
    stranger.goto(f"{home}/judge{own}")
    expect(stranger.get_by_role("heading", name="Sign in")).to_be_visible()
    stranger.context.close()
    assert other.request.get(f"{home}/api/collections/saltmere").status == 403
    other.goto(f"{home}/saltmere/ranking?q=bell")
    expect(other.get_by_role("heading", name="What there is to judge")).to_be_visible()
    keeper.request.delete(f"{path}/{made.json()[0]['id']}")
    other.context.close()


def test_a_judges_link_is_shown_once_and_made_anew(page: Page):
    path = "/api/collections/saltmere/judged/visitors/tasks"
    task = {"name": "Ropes", "judges": ["Guest of a day"], "sides": [{"ranker": {"name": "first"}}], "depth": 1}
    made = page.request.post(path, data={**task, "leave_out_judged": False}).json()[0]
    page.goto("/saltmere/judging?view=tasks")
    line = page.get_by_role("listitem", name="Ropes")
    expect(line).to_contain_text("link given")
    line.get_by_role("button", name="Another link for Guest of a day").click()
    link = line.get_by_role("link")
    expect(link).to_have_attribute("href", re.compile(r"^/judge/[\w-]{43}$"))
    assert page.request.get(f"/api{made['judges'][0]['path']}").status == 404
    assert page.request.get(f"/api{link.get_attribute('href')}").ok
    line.get_by_role("button", name="Draw back the link for Guest of a day").click()
    expect(line).to_contain_text("no link")
    page.request.delete(f"{path}/{made['id']}")


def test_nobody_edits_a_record_that_has_not_come_yet(page: Page):
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/api/collections/saltmere/record?*", hold)
    page.goto("/saltmere/records?view=browse&key=sm0002")
    edit = page.get_by_label("Record sm0002").get_by_role("button", name="Edit")
    expect(edit).to_be_disabled()
    for route in held:
        route.continue_()
    page.unroute_all()
    expect(edit).to_be_enabled()


def test_two_on_one_record_do_not_write_over_each_other(page: Page):
    page.goto("/saltmere/records?view=browse&key=sm0002")
    page.get_by_role("button", name="Edit").click()
    record = page.request.get("/api/collections/saltmere/record?key=sm0002").json()["field_values"]
    changed = page.request.post(
        "/api/collections/saltmere/records", data={"records": [record | {"title": "Changed meanwhile"}]}
    )
    assert changed.ok
    page.get_by_label("Record sm0002").get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text('changed the record "sm0002" meanwhile')
    page.request.post("/api/collections/saltmere/records", data={"records": [record]})
