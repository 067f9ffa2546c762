"""A judged set's files, rules, expectations and frozen runs in the browser; judgments gone stale."""

import json
import re
from pathlib import Path

from playwright.sync_api import FilePayload, Page, Route, expect

SET = "/api/collections/saltmere/judged/board"


def payload(name: str, text: str) -> FilePayload:
    return {"name": name, "mimeType": "text/plain", "buffer": text.encode()}


def test_files_come_in_with_their_scale_told_and_go_out_again(board: Page, tmp_path: Path):
    board.goto("/saltmere/judging?set=board&view=set")
    files = board.get_by_label("Files")
    files.get_by_label("Queries file").set_input_files(payload("q.tsv", "a\tfog bell\nb\tharpoon\n"))
    files.get_by_label("Judgments file").set_input_files(
        payload("g.txt", "a 0 sm0029 5\nb 0 sm0001 2\nb 0 nowhere 0\n")
    )
    files.get_by_role("button", name="Bring them in").click()
    expect(files.get_by_role("alert")).to_contain_text("Say what they are here with a scale, such as 0=0,2=1,5=3.")
    files.get_by_label("Scale").fill("0=0,2=2,5=3")
    files.get_by_role("button", name="Bring them in").click()
    expect(files.get_by_role("status")).to_have_text(
        "2 queries, 3 judgments, revision 2; 1 records are not in the collection"
    )
    files.get_by_label("Form of the files").select_option("columns")
    with board.expect_download() as download:
        files.get_by_role("link", name="Grades that count").click()
    download.value.save_as(tmp_path / "grades")
    assert download.value.suggested_filename == "board-judgments.txt"
    assert (tmp_path / "grades").read_text() == "a 0 sm0029 3\nb 0 nowhere 0\nb 0 sm0001 2\n"
    # Earlier revisions are still there to be measured.
    files.get_by_label("Form of the files").select_option("jsonl")
    with board.expect_download() as download:
        files.get_by_role("link", name="Queries").click()
    download.value.save_as(tmp_path / "queries")
    assert [json.loads(line)["query_id"] for line in (tmp_path / "queries").read_text().splitlines()] == ["a", "b"]


def test_what_grades_mean_here_and_which_one_counts_is_the_sets_rule(board: Page):
    for judge, grade in (("Ada", 0), ("Bo", 3)):
        given = {"query_id": "q2", "record_key": "sm0001", "grade": grade, "judge": judge}
        assert board.request.post(f"{SET}/grades", data=given).ok
    board.goto("/saltmere/judging?set=board&view=set")
    rules = board.get_by_label("Rules")
    rules.get_by_label("Meaning of grade 3").fill("A bell that rang in fog.")
    rules.get_by_label("the latest grade counts").check()
    expect(board.get_by_text("revision 3, 0 of 3 queries locked")).to_be_visible()
    own = board.request.get(SET).json()
    assert own["queries"][1]["grades"] == {"sm0001": 3}
    rules.get_by_label("Share to lock").fill("34")
    rules.get_by_role("button", name="Lock away").click()
    expect(rules).to_contain_text("1 of 3 queries are locked")
    board.reload()
    expect(rules.get_by_label("Meaning of grade 3")).to_have_value("A bell that rang in fog.")
    expect(rules.get_by_label("the latest grade counts")).to_be_checked()


def test_an_expectation_is_written_checked_and_ended(board: Page):
    board.goto("/saltmere/judging?set=board&view=expectations&ranker=first:1")
    expect(board.get_by_text("Nothing is expected yet")).to_be_visible()
    form = board.get_by_label("New expectation")
    board.keyboard.press("n")
    board.keyboard.type("fog bells")
    expect(form).to_contain_text("The set has no such query")
    form.get_by_label("Query of the expectation").fill("fog bell")
    asked = {"query": "fog bell", "ranker": {"name": "first"}, "top": 5}
    found = board.request.post("/api/collections/saltmere/search", data=asked).json()["results"]
    form.get_by_label("Key of the record").fill(found[4]["key"])
    form.get_by_label("Number", exact=True).fill("5")
    form.get_by_role("button", name="Expect it").click()
    listed = board.get_by_label("Expectations", exact=True).get_by_role("listitem")
    expect(listed).to_contain_text(f"{found[4]['key']} among the first 5")
    expect(listed).to_contain_text("holds")
    form.get_by_label("Key of the record").fill(found[4]["key"])
    form.get_by_label("Number", exact=True).fill("4")
    form.get_by_role("button", name="Expect it").click()
    expect(listed.nth(1)).to_contain_text("broken: it stands at 5")
    form.get_by_label("What is expected").select_option("nothing")
    form.get_by_label("Note").fill("We have none.")
    form.get_by_role("button", name="Expect it").click()
    expect(listed.nth(2)).to_contain_text(re.compile(r"broken: \d+ are found"))
    listed.nth(1).get_by_role("button", name="expect it no more").click()
    expect(listed).to_have_count(2)
    expect(listed.nth(1)).to_contain_text("nothing at all")


def test_a_frozen_run_is_measured_again_by_an_earlier_revision(board: Page):
    board.goto("/saltmere/measures?set=board&ranker=first:1")
    before = board.get_by_test_id("mean-rr")
    expect(before).to_have_text(re.compile(r"\d\.\d{3}"))
    shown = before.inner_text()
    given = {"query_id": "q1", "record_key": "sm0029", "grade": 0}
    assert board.request.post(f"{SET}/grades", data=given).ok
    board.goto("/saltmere/measures?view=diary&set=board&ranker=first:1")
    runs = board.get_by_label("Frozen runs").get_by_role("listitem")
    expect(runs.first).to_contain_text("first:1")
    runs.first.get_by_role("button", name="measure again").click()
    expect(runs.first).to_contain_text("RR 0.000")
    board.get_by_label("Revision").fill("1")
    runs.first.get_by_role("button", name="measure again").click()
    expect(runs.first).to_contain_text(f"RR {shown}")


def test_a_judgment_goes_stale_and_is_judged_again_or_confirmed(board: Page):
    records = "/api/collections/saltmere/records"
    record = board.request.get("/api/collections/saltmere/record?key=sm0029").json()["field_values"]
    for key in ("sm0001", "sm0041"):
        given = {"query_id": "q1", "record_key": key, "grade": 1, "judge": "Ada"}
        assert board.request.post(f"{SET}/grades", data=given).ok
    assert board.request.post(records, data={"records": [record | {"description": "Rewritten."}]}).ok
    try:
        board.goto("/saltmere/judging?set=board&view=agreement")
        stale = board.get_by_label("Stale judgments").get_by_role("listitem")
        expect(stale).to_have_count(1)
        expect(stale).to_contain_text(str(record["title"]))
        conflicts = board.get_by_label("Conflicts")
        conflicts.get_by_label("Who judges").fill("Bo")
        conflicts.get_by_role("button", name="Make a task of 1").click()
        expect(conflicts.get_by_role("status")).to_contain_text("1 record is ready")
        stale.get_by_role("button", name="still right").click()
        expect(stale).to_have_count(0)
    finally:
        assert board.request.post(records, data={"records": [record]}).ok


def test_whoever_may_not_drop_a_set_or_a_query_is_told_and_stays(board: Page):
    def refuse(route: Route) -> None:
        if route.request.method == "DELETE":
            body = {"type": "about:blank", "title": "No", "status": 422, "detail": "Somebody measures it just now."}
            route.fulfill(status=422, content_type="application/problem+json", body=json.dumps(body))
        else:
            route.continue_()

    board.route("**/judged/board**", refuse)
    board.goto("/saltmere/judging?set=board&view=set")
    board.get_by_role("button", name="Drop board …").click()
    board.get_by_role("button", name=re.compile("^Drop 3 queries")).click()
    expect(board.get_by_text("Somebody measures it just now.")).to_be_visible()
    expect(board).to_have_url(re.compile("set=board&view=set"))
    board.goto("/saltmere/judging?set=board&query=q1")
    board.get_by_role("button", name="Take out", exact=True).click()
    board.get_by_role("button", name=re.compile("^Take out, with")).click()
    expect(board.get_by_text("Somebody measures it just now.")).to_be_visible()
    expect(board.get_by_label("Query text")).to_have_value("fog bell")
    board.unroute_all()
