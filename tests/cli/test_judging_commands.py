"""Judging and comparing on the command line: all that the page does, for programs and by hand."""

import json
from collections.abc import Callable
from pathlib import Path
from subprocess import CompletedProcess
from typing import Any

import pytest

Command = Callable[..., "CompletedProcess[str]"]

ROWS = [
    {"id": "bell", "title": "Fog bell", "text": "Rung in fog."},
    {"id": "horn", "title": "Fog horn", "text": "Blown when the bell cracked."},
    {"id": "lamp", "title": "Oil lamp", "text": "It lit the quay."},
]
FILES = {"q": "1\tfog bell\n2\tlamp\n3\tquay\n", "g": "1 0 bell 4\n2 0 lamp 4\n3 0 lamp 2\n"}


def answer(result: "CompletedProcess[str]") -> Any:
    assert result.returncode == 0, result.stderr
    return json.loads(result.stdout)


def said(result: "CompletedProcess[str]") -> str:
    assert result.returncode == 0, result.stderr
    return result.stdout


@pytest.fixture(scope="module")
def coast(command: Command, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("coast")
    (folder / "records.jsonl").write_text("\n".join(map(json.dumps, ROWS)))
    answer(command("load", str(folder / "records.jsonl"), "--collection", "coast", "--key", "id", "--json"))
    for name, field in (("titles", "title"), ("texts", "text")):
        (folder / name).write_text(json.dumps({"readings": [{"field": field, "chain": "words > lower"}]}))
        command("ranker", "put", "coast", name, str(folder / name))
    for name, text in FILES.items():
        (folder / name).write_text(text)
    load(command, folder, "visitors")
    return folder


def load(command: Command, folder: Path, name: str) -> None:
    """A set of that name from the folder's files."""
    files = ("--queries", str(folder / "q"), "--grades", str(folder / "g"), "--scale", "2=2,4=3")
    answer(command("judged", "load", "coast", name, *files, "--json"))


def test_a_set_is_loaded_with_another_scale_and_written_again(command: Command, coast: Path):
    files = ("--queries", str(coast / "q"), "--grades", str(coast / "g"))
    loading = ("judged", "load", "coast", "scaled")
    refused = command(*loading, *files)
    assert refused.returncode == 1
    assert "Say what they are here with a scale, such as 2=2,4=3" in refused.stderr
    loaded = answer(command(*loading, *files, "--scale", "2=2,4=3", "--json"))
    assert loaded == {"queries": 3, "grades": 3, "revision": 1, "unknown_records": []}
    out = ("--queries", str(coast / "q.csv"), "--grades", str(coast / "g.csv"))
    said(command("judged", "export", "coast", "scaled", *out))
    assert answer(command(*loading, *out, "--json"))["revision"] == 1
    said(command("judged", "export", "coast", "scaled", "--grades", str(coast / "g2"), "--as", "columns"))
    assert (coast / "g2").read_text() == "1 0 bell 3\n2 0 lamp 3\n3 0 lamp 2\n"
    listed = answer(command("judged", "list", "coast", "--json"))
    assert ("scaled", 3, 3) in [(one["name"], one["queries"], one["grades"]) for one in listed]


def test_queries_come_without_grades_and_keep_what_was_judged(command: Command, coast: Path):
    queries, grades = ("--queries", str(coast / "q")), ("--grades", str(coast / "g"))
    loading = ("judged", "load", "coast", "unjudged", "--json")
    assert answer(command(*loading, *queries))["grades"] == 0
    unmeasured = ("--set", "unjudged", "--measures", "rr")
    assert said(command("measure", "coast", "--ranker", "titles", *unmeasured)) == "No judged query to measure by.\n"
    several = ("compare", "coast", "titles", "texts", "titles", "--set", "unjudged", "--measure", "rr")
    assert said(command(*several)) == "No judged query to measure by.\n"
    assert answer(command(*loading, *queries, *grades, "--scale", "2=2,4=3"))["grades"] == 3
    again = answer(command(*loading, *queries))
    assert (again["grades"], again["revision"]) == (3, 2)
    refused = command(*loading, *queries, "--scale", "2=2")
    assert refused.returncode == 1
    assert "it goes with --grades" in refused.stderr


def test_rankers_are_measured_by_rules_and_compared(command: Command, coast: Path):
    load(command, coast, "ruled")
    said(command("judged", "expect", "coast", "ruled", "1", "--never", "--record", "horn", "--note", "cracked"))
    asked = ("measure", "coast", "--set", "ruled", "--ranker", "titles", "--measures", "rr")
    found = answer(command(*asked, "--bands", "--json"))
    assert found["measures"] == {"rr": pytest.approx(2 / 3)}
    assert found["bands"]["rr"] == {"worst": pytest.approx(2 / 3), "best": pytest.approx(2 / 3)}
    assert found["unjudged"]["rr"] == pytest.approx(1 / 6)
    assert [one["instead"] for one in found["broken"]] == ["it stands at 2"]
    text = said(command(*asked))
    assert "16.7% unjudged" in text
    assert "broken: 1: never “Fog horn” (horn); it stands at 2" in text
    head = answer(command("compare", "coast", "titles", "texts", "--set", "ruled", "--measure", "rr", "--json"))
    assert head["names"] == ["titles:1", "texts:1"]
    assert (head["comparison"]["gained"], head["comparison"]["lost"]) == (1, 1)
    run = answer(command("runs", "coast", "--set", "ruled", "--json"))[-1]
    assert (run["ranker"], run["version"]) == ("titles", 1)
    again = ("runs", "coast", "--set", "ruled", "--measure", str(run["id"]), "--measures", "rr", "--json")
    assert answer(command(*again))["measures"] == found["measures"]
    page = said(command("compare", "coast", "titles", "texts", "--set", "ruled", "--page"))
    assert page.startswith("# Is the proposed search better than today's?")
    assert "Today's search is titles:1, the proposed one texts:1" in page
    told = said(command("compare", "coast", "titles", "texts", "--set", "ruled"))
    assert told.startswith("The difference is within luck.\n3 open queries: 0.667 → 0.667, p = 1.000")
    assert "1 gained, 1 lost, 1 tied" in told


def test_several_rankers_are_compared_with_the_first(command: Command, coast: Path):
    asked = ("compare", "coast", "titles", "texts", "titles:1", "--set", "visitors", "--measure", "rr")
    found = answer(command(*asked, "--json"))
    assert [row["name"] for row in found["rows"]] == ["titles:1", "texts:1", "titles:1"]
    rows = said(command(*asked)).splitlines()
    assert rows[0].split()[:2] == ["ranker", "rr"]
    assert rows[3].split()[-3:] == ["+0.0000", "1.0000", "0"]
    assert "The owner's page is about two rankers" in command(*asked, "--page").stderr
    assert "Name two rankers at least" in command("compare", "coast", "titles", "--set", "visitors").stderr


def test_a_guard_ends_with_one_where_a_rule_is_broken_and_writes_what_build_servers_read(
    command: Command, coast: Path, tmp_path: Path
):
    rules = tmp_path / "guard.rules"
    rules.write_text("# titles find what texts do not\neach query rr may not drop\n")
    files = tmp_path / "junit.xml", tmp_path / "guard.md"
    asking = ["check", "coast", "--set", "visitors", "--rules", str(rules), "--junit", str(files[0])]
    asking += ["--markdown", str(files[1])]
    broken = command(*asking, "--ranker", "texts:1", "--against", "titles:1")
    assert broken.returncode == 1, broken.stderr
    assert broken.stderr == ""
    assert "texts:1 against titles:1 on visitors of coast" in broken.stdout
    assert "BROKEN  each query rr may not drop: " in broken.stdout
    assert "1.000 to 0.000" in broken.stdout
    assert 'failures="1"' in files[0].read_text()
    assert files[1].read_text().startswith("# Rules are broken")
    # A version alone is one of the same ranker; against itself nothing drops.
    held = answer(command(*asking, "--ranker", "titles", "--against", "1", "--rule", "rr > 0", "--json"))
    assert (held["holds"], [one["holds"] for one in held["rules"]]) == (True, [True, True])
    assert (held["ranker"], held["against"]) == ("titles:1", "titles:1")
    assert "--against" in command(*asking, "--ranker", "titles").stderr
    # Checks are kept beside the versions.
    told = answer(command("quality", "coast", "--set", "visitors", "--measure", "rr", "--json"))
    assert [(one["ranker"], one["against"], one["holds"]) for one in told["checks"]] == [
        ("titles:1", "titles:1", True),
        ("texts:1", "titles:1", False),
    ]
    assert [rule["holds"] for rule in told["checks"][0]["rules"]] == [True, True]
    shown = said(command("quality", "coast", "--set", "visitors", "--measure", "rr"))
    assert "BROKEN  texts:1 against titles:1" in shown
    none = command("check", "coast", "--set", "visitors", "--ranker", "titles")
    assert (none.returncode, "There is no rule" in none.stderr) == (1, True)


def test_a_complaint_is_kept_listed_and_ended(command: Command, coast: Path):
    load(command, coast, "complaints")
    complaint = ("judged", "complain", "coast", "complaints", "ship's horn")
    refused = command(*complaint, "--among-first", "3")
    assert "say its key" in refused.stderr
    told = ("--among-first", "3", "--record", "horn", "--need", "A horn.", "--words", "He heard it.")
    assert said(command(*complaint, *told)) == "kept as q4 of complaints\n"
    listed = answer(command("judged", "expected", "coast", "complaints", "--json"))
    mine = [(one["id"], one["kind"], one["note"]) for one in listed if one["query_id"] == "q4"]
    assert len(listed) == 1
    assert [(kind, note) for _, kind, note in mine] == [("among_first", "He heard it.")]
    assert "horn among the first 3" in said(command("judged", "expected", "coast", "complaints"))
    ending = ("judged", "expect-no-more", "coast", "complaints", str(mine[0][0]))
    assert said(command(*ending)).endswith("is ended\n")
    assert "has no expectation" in command(*ending).stderr


def test_a_decision_stands_in_the_diary_and_on_the_owners_page(command: Command, coast: Path):
    rankers = ("--ranker", "titles:1", "--ranker", "texts:1")
    assert said(command("decide", "coast", "Texts go out.", "--why", "They find more.", *rankers)) == "written down\n"
    newest = answer(command("diary", "coast", "--json"))[0]
    assert (newest["kind"], newest["title"], newest["body"]) == ("decision", "Texts go out.", "They find more.")
    assert "Texts go out. They find more." in said(command("diary", "coast"))
    page = said(command("compare", "coast", "titles", "texts", "--set", "visitors", "--page"))
    assert "Texts go out. They find more." in page


def test_a_stale_judgment_is_told_and_confirmed(command: Command, coast: Path):
    load(command, coast, "stale")
    changed = coast / "changed.jsonl"
    # Another record, of the same words: lists of other tests stay as they are.
    changed.write_text('{"id": "lamp", "title": "Oil lamp", "text": "It lit the quay!"}\n')
    said(command("record", "put", "coast", str(changed)))
    told = said(command("judged", "standing", "coast", "stale"))
    assert "records went stale" in told
    stale = [line.split() for line in told.splitlines() if line.startswith("stale")]
    assert {row[2] for row in stale} == {"lamp"}
    for row in stale:
        assert said(command("judged", "confirm", "coast", "stale", row[1], "lamp")) == "still right\n"
    assert answer(command("judged", "standing", "coast", "stale", "--json"))["stale"] == []


def test_a_run_file_is_compared_with_as_an_outside_ranker(command: Command, coast: Path):
    said(command("run", "coast", "--set", "visitors", "--ranker", "texts", "--out", str(coast / "run")))
    assert said(command("outside", "run", "coast", "old", str(coast / "run"), "--set", "visitors")).startswith(
        "old has lists for 2 queries of visitors"
    )
    head = answer(command("compare", "coast", "outside/old", "texts", "--set", "visitors", "--json"))
    assert head["comparison"]["gain"] == 0
    assert [one["kind"] for one in answer(command("outside", "list", "coast", "--json"))] == ["file"]


def test_a_task_gives_links_and_what_is_given_is_settled(command: Command, coast: Path):
    load(command, coast, "tasks")
    made = ("task", "make", "coast", "tasks", "the rest", "--judge", "Ada", "--judge", "Bo", "--twice", "1")
    tasks = answer(command(*made, "--ranker", "titles", "--again", "--json"))
    assert [(one["judge"], one["judged"]) for one in tasks] == [("Ada", 0), ("Bo", 0)]
    assert all(one["path"].startswith("/judge/") for one in tasks)
    number = str(tasks[0]["task"])
    assert said(command("task", "close", "coast", "tasks", number)) == "closed\n"
    assert answer(command("task", "list", "coast", "tasks", "--json"))[0]["closed"]
    said(command("judged", "settle", "coast", "tasks", "3", "lamp", "--grade", "0"))
    found = answer(command("measure", "coast", "--set", "tasks", "--ranker", "texts", "--measures", "rr", "--json"))
    assert found["per_query"]["3"]["rr"] == 0
    said(command("judged", "settle", "coast", "tasks", "3", "lamp"))
    standing = answer(command("judged", "standing", "coast", "tasks", "--json"))
    assert (standing["judged"], standing["shared"], standing["agreement"]) == (3, 0, None)
    assert "0 conflicts are open" in said(command("judged", "standing", "coast", "tasks"))


def test_locked_queries_are_measured_only_with_locked(command: Command, coast: Path):
    said(command("judged", "make", "coast", "other", "--locked-share", "0"))
    (coast / "list").write_text("fog bell\t3\nlamp\t1\n")
    assert "2 queries came in" in said(command("judged", "add", "coast", "other", str(coast / "list")))
    assert "50% locked away" in said(command("judged", "rules", "coast", "other", "--lock", "0.5"))
    asked = ("measure", "coast", "--set", "other", "--ranker", "titles", "--measures", "rr", "--json")
    # Nothing is judged yet, so that only what has nothing to find would count.
    assert answer(command(*asked))["per_query"] == {}
    said(command("judged", "drop", "coast", "other"))
    assert command(*asked).returncode == 1


def test_a_run_file_is_scored_by_rules_without_a_database(command: Command, coast: Path):
    (coast / "ties").write_text("1 Q0 horn 1 1.0 x\n1 Q0 bell 2 1.0 x\n")
    asked = ("score", "--grades", str(coast / "g"), "--run", str(coast / "ties"), "--measures", "rr", "--json")
    # By key the bell stands first, although the file says otherwise.
    assert answer(command(*asked))["per_query"]["1"] == {"rr": 1}
    assert answer(command(*asked, "--ties", "worst_first"))["per_query"]["1"] == {"rr": 0.5}
