"""Judging in a browser: sets and tasks, two judges at once, a lost connection, a complaint up to a comparison."""

import csv
import json
import re

from playwright.sync_api import Browser, BrowserContext, Page, expect

SET = "/api/collections/saltmere/judged/board"


def task(page: Page, *judges: str) -> dict[str, str]:
    """A task over the first records of two rankers; each judge's link."""
    wanted = {
        "name": "The first five",
        "judges": judges,
        "sides": [{"ranker": {"name": "first"}}, {"ranker": {"name": "start"}}],
        "depth": 5,
        "twice": 1,
    }
    made = page.request.post(f"{SET}/tasks", data=wanted)
    assert made.ok, made.text()
    return {one["judge"]: one["path"] for one in made.json()[0]["judges"]}


def kept(page: Page, path: str) -> dict[tuple[str, str], int | None]:
    """What the server has of a judge."""
    said = page.request.get(f"/api{path}").json()["said"]
    pairs = [(one["query_id"], one["record_key"]) for one in said]
    assert len(pairs) == len(set(pairs))
    return {pair: one["grade"] for pair, one in zip(pairs, said, strict=True)}


def left(page: Page) -> int:
    text = page.get_by_test_id("left").inner_text()
    return 0 if text == "all judged" else int(text.split()[0])


def grade(page: Page, key: str) -> None:
    before = left(page)
    page.keyboard.press(key)
    expect(page.get_by_test_id("left")).to_have_text("all judged" if before == 1 else re.compile(rf"^{before - 1} of"))


def other_browser(browser: Browser, address: str) -> BrowserContext:
    return browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)


def test_two_judges_at_once_one_without_a_connection_lose_and_double_nothing(
    board: Page, browser: Browser, address: str
):
    links = task(board, "Ada", "Bo")
    ada, bo = (other_browser(browser, address) for _ in range(2))
    desk, other = ada.new_page(), bo.new_page()
    desk.goto(links["Ada"])
    other.goto(links["Bo"])
    expect(desk.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
    expect(other.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
    expect(desk.get_by_label("Query", exact=True)).to_be_visible()
    in_all = left(desk)
    grade(desk, "3")
    grade(other, "0")
    expect(desk.get_by_test_id("sending")).to_have_text("all kept")
    ada.set_offline(True)
    for key in ("2", "1", "x"):
        grade(desk, key)
        grade(other, "1")
    expect(desk.get_by_test_id("sending")).to_contain_text("No connection: 3 judgments wait here")
    assert len(kept(board, links["Ada"])) == 1
    # She takes the last one back and says it otherwise, still without a connection.
    desk.keyboard.press("u")
    expect(desk.get_by_test_id("left")).to_have_text(re.compile(rf"^{in_all - 3} of"))
    grade(desk, "0")
    ada.set_offline(False)
    expect(desk.get_by_test_id("sending")).to_have_text("all kept")
    mine = kept(board, links["Ada"])
    assert sorted(mine.values(), key=str) == [0, 1, 2, 3]
    # The page opened anew goes on where she was.
    desk.reload()
    expect(desk.get_by_test_id("left")).to_have_text(re.compile(rf"^{in_all - 4} of"))
    expect(other.get_by_test_id("sending")).to_have_text("all kept")
    assert sorted(kept(board, links["Bo"]).values(), key=str) == [0, 1, 1, 1]
    ada.close()
    bo.close()


def test_what_was_judged_without_a_connection_survives_a_closed_page(board: Page, browser: Browser, address: str):
    link = task(board, "Ada")["Ada"]
    context = other_browser(browser, address)
    desk = context.new_page()
    desk.goto(link)
    expect(desk.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
    # Not by `set_offline`: that ends with the page, in whose last moment what waits might still be sent.
    context.route("**/api/judge/**", lambda asked: asked.abort("internetdisconnected"))
    grade(desk, "3")
    expect(desk.get_by_test_id("sending")).to_contain_text("1 judgment waits here")
    desk.close()
    assert kept(board, link) == {}
    context.unroute_all()
    again = context.new_page()
    again.goto(link)
    expect(again.get_by_test_id("sending")).to_have_text("all kept")
    expect(again.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
    assert list(kept(board, link).values()) == [3]
    context.close()


def test_a_judge_learns_the_grades_goes_through_to_the_end_and_may_note_and_undo(board: Page):
    link = task(board, "Ada")["Ada"]
    board.goto(link)
    expect(board.get_by_label("What the grades mean")).to_contain_text("exactly it")
    expect(board.get_by_label("Query", exact=True)).to_be_visible()
    # Nothing tells of rankers, ranks or places of the workbench.
    expect(board.get_by_role("navigation")).to_have_count(0)
    expect(board.get_by_text("start", exact=True)).to_have_count(0)
    expect(board.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
    grade(board, "3")
    board.keyboard.press("ArrowLeft")
    board.keyboard.press("n")
    board.keyboard.type("a bell, as wanted")
    board.keyboard.press("Enter")
    # The one before is graded anew on the way; after it the next that has no grade comes up.
    board.keyboard.press("3")
    while left(board):
        expect(board.get_by_label("Record", exact=True).get_by_role("heading")).to_be_visible()
        grade(board, "1")
    expect(board.get_by_text("That was all. Thank you!")).to_be_visible()
    expect(board.get_by_test_id("sending")).to_have_text("all kept")
    said = board.request.get(f"/api{link}").json()["said"]
    assert [one["note"] for one in said if one["note"]] == ["a bell, as wanted"]
    board.get_by_role("button", name="undo").click()
    expect(board.get_by_test_id("left")).to_have_text(re.compile("^1 of"))


def test_a_link_that_leads_nowhere_says_so(page: Page):
    page.route(
        "**/api/judge/**",
        lambda route: route.fulfill(
            status=422,
            content_type="application/problem+json",
            body=json.dumps(
                {"title": "Not found", "status": 404, "detail": "This link leads to no judging task.", "problems": []}
            ),
        ),
    )
    page.goto("/judge/guessed")
    expect(page.get_by_role("alert")).to_contain_text("This link leads to no judging task.")


def test_from_a_complaint_to_a_comparison_that_shows_it(board: Page):
    # A visitor typed harpon and got nothing; the record that she wanted is known.
    board.goto("/saltmere/ranking?q=harpon&ranker=first:1&set=board")
    expect(board.get_by_label("Results")).to_contain_text("Nothing found")
    board.keyboard.press("c")
    sheet = board.get_by_role("dialog", name="A complaint")
    sheet.get_by_label("Record of the complaint").fill("sm0001")
    sheet.get_by_label("Need").fill("A harpoon.")
    sheet.get_by_label("Complaint", exact=True).fill("She typed harpon and got nothing.")
    sheet.get_by_role("button", name="Keep it").click()
    expect(sheet.get_by_role("status")).to_contain_text("Kept as q4 of board")
    sheet.get_by_role("button", name="Back to the list").click()
    expect(sheet).to_have_count(0)
    # It is broken with the ranker that is there, and counts in the meter.
    board.keyboard.press("g")
    board.keyboard.press("m")
    broken = board.get_by_label("Broken expectations")
    expect(broken).to_contain_text("harpon: “Toggle-head harpoon” (sm0001) among the first 3; nothing is found")
    # A draft with slack for spellings finds it; head to head says so.
    slack = json.dumps({"spelling": {"edits": "by_length"}})
    board.goto(f"/saltmere/measures?view=head&set=board&ranker=first:1&d={slack}&first=first:1&second=the draft")
    expect(board.get_by_test_id("gain")).to_contain_text("+")
    gained = board.get_by_label("Largest losses").get_by_role("table", name=re.compile("^Gained"))
    expect(gained).to_contain_text("harpon")
    difference = board.get_by_label("The difference")
    expect(difference.get_by_role("row", name="spelling slack off by length")).to_be_visible()
    gained.get_by_role("button", name="harpon").click()
    expect(board).to_have_url(re.compile("/saltmere/ranking.*q=harpon.*beside=first"))
    expect(board.get_by_label("Results")).to_contain_text("Harpoon")


def test_a_set_is_made_by_hand_and_its_queries_found_changed_and_taken_out(page: Page):
    page.goto("/saltmere/judging?new=set")
    page.get_by_label("Name of the set").fill("by-hand")
    page.get_by_label("Share locked away").fill("0")
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_text("No query yet")).to_be_visible()
    page.get_by_label("Query text").fill("net needle")
    page.get_by_label("Need").fill("Needles for nets.")
    page.get_by_role("button", name="Add", exact=True).last.click()
    rows = page.get_by_label("Queries of the set").locator("tbody tr")
    expect(rows).to_have_count(1)
    page.get_by_role("button", name="Paste a list").click()
    page.get_by_label("List of queries").fill("rope\t40\nlamp\t7\n")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_role("status")).to_have_text("2 new queries.")
    expect(rows).to_have_count(3)
    page.get_by_label("Find among the queries").fill("rop")
    expect(rows).to_have_count(1)
    expect(rows.first).to_contain_text("40")
    # Where nothing is found, whoever types goes on typing.
    page.get_by_label("Find among the queries").press_sequentially("ez")
    expect(rows).to_have_count(0)
    expect(page.get_by_label("Find among the queries")).to_be_focused()
    page.get_by_label("Find among the queries").press("Backspace")
    page.get_by_label("Find among the queries").press("Backspace")
    page.get_by_label("Find among the queries").press_sequentially("e")
    expect(rows).to_have_count(1)
    rows.first.click()
    page.get_by_role("button", name="Take out").click()
    page.get_by_role("button", name="Take out, with 0 grades").click()
    page.get_by_label("Find among the queries").fill("")
    expect(rows).to_have_count(2)
    page.get_by_role("button", name="Rules and files").click()
    page.get_by_role("button", name="Drop by-hand …").click()
    page.get_by_role("button", name=re.compile("^Drop 2 queries")).click()
    expect(page.get_by_label("Judged set")).to_have_value("visitors")


def test_judges_are_sent_links_and_a_conflict_is_settled(board: Page):
    board.goto("/saltmere/judging?set=board&view=tasks")
    board.get_by_label("Judges").fill("Ada\nBo")
    board.get_by_label("% judged twice").fill("100")
    board.get_by_role("button", name="Make the task").click()
    made = board.get_by_label("Judging tasks").get_by_role("listitem")
    expect(made).to_have_count(1)
    paths = [link.get_attribute("href") or "" for link in made.get_by_role("link").all()]
    assert len(paths) == 2
    item = board.request.get(f"/api{paths[0]}").json()["queries"][0]
    for path, given in zip(paths, (3, 0), strict=True):
        said = {
            "query_id": item["query_id"],
            "record_key": item["record_keys"][0],
            "grade": given,
            "at": "2031-05-17T09:30:00Z",
        }
        assert board.request.post(f"/api{path}/said", data={"said": [said]}).ok
    board.goto("/saltmere/judging?set=board&view=agreement")
    conflicts = board.get_by_label("Conflicts").get_by_role("listitem")
    expect(conflicts).to_have_count(1)
    board.get_by_title("Copy the conflicts as CSV").click()
    copied = list(csv.DictReader(board.evaluate("navigator.clipboard.readText()").splitlines()))
    assert [(row["judge"], row["grade"]) for row in copied] == [("Ada", "3"), ("Bo", "0")]
    conflicts.get_by_role("button", name="Settle as 2").click()
    expect(conflicts).to_contain_text("settled:")
    expect(conflicts.get_by_role("img", name="grade 2, useful")).to_be_visible()
    expect(conflicts).to_contain_text("Ada 3, Bo 0")
    conflicts.get_by_label("Why it was settled so").fill("half of it is there")
    conflicts.get_by_label("Why it was settled so").press("Enter")
    board.reload()
    expect(conflicts.get_by_label("Why it was settled so")).to_have_value("half of it is there")
    conflicts.get_by_role("button", name="undo").click()
    expect(conflicts).to_contain_text("counts now:")
    # The same by keys.
    board.keyboard.press("Alt+1")
    expect(conflicts.get_by_role("img", name="grade 1, related")).to_be_visible()
    board.keyboard.press("u")
    expect(conflicts).to_contain_text("counts now:")


def test_a_judge_s_name_is_the_person_of_before_only_by_the_engineer_s_word(board: Page):
    task(board, "Ada")
    board.goto("/saltmere/judging?set=board&view=tasks")
    board.get_by_label("Judges").fill("Ada\nBo")
    board.get_by_role("button", name="Make the task").click()
    expect(board.get_by_role("alert")).to_contain_text('"Ada" has judged "board" before')
    made = board.get_by_label("Judging tasks").get_by_role("listitem")
    expect(made).to_have_count(1)
    expect(board.get_by_label(re.compile("^Bo is the one"))).to_have_count(0)
    board.get_by_label("Ada is the one of The first five").check()
    board.get_by_role("button", name="Make the task").click()
    expect(made).to_have_count(2)
