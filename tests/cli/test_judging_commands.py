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
LOADED = ("judged", "load", "coast", "visitors")


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
    (folder / "q").write_text("1\tfog bell\n2\tlamp\n3\tquay\n")
    (folder / "g").write_text("1 0 bell 4\n2 0 lamp 4\n3 0 lamp 2\n")
    return folder


def test_a_set_is_loaded_with_another_scale_and_written_again(command: Command, coast: Path):
    files = ("--queries", str(coast / "q"), "--grades", str(coast / "g"))
    refused = command(*LOADED, *files)
    assert refused.returncode == 1
    assert "Say what they are here with a scale, such as 2=2,4=3" in refused.stderr
    loaded = answer(command(*LOADED, *files, "--scale", "2=2,4=3", "--json"))
    assert loaded == {"queries": 3, "grades": 3, "revision": 1, "unknown_records": []}
    out = ("--queries", str(coast / "q.csv"), "--grades", str(coast / "g.csv"))
    said(command("judged", "export", "coast", "visitors", *out))
    assert answer(command(*LOADED, *out, "--json"))["revision"] == 1
    said(command("judged", "export", "coast", "visitors", "--grades", str(coast / "g2"), "--as", "columns"))
    assert (coast / "g2").read_text() == "1 0 bell 3\n2 0 lamp 3\n3 0 lamp 2\n"
    listed = answer(command("judged", "list", "coast", "--json"))
    assert [(one["name"], one["queries"], one["grades"]) for one in listed] == [("visitors", 3, 3)]


def test_rankers_are_measured_by_rules_and_compared(command: Command, coast: Path):
    said(command("judged", "expect", "coast", "visitors", "1", "--never", "--record", "horn", "--note", "cracked"))
    asked = ("measure", "coast", "--set", "visitors", "--ranker", "titles", "--measures", "rr")
    found = answer(command(*asked, "--bands", "--json"))
    assert found["measures"] == {"rr": pytest.approx(2 / 3)}
    assert found["bands"]["rr"] == {"worst": pytest.approx(2 / 3), "best": pytest.approx(2 / 3)}
    assert found["unjudged"]["rr"] == pytest.approx(1 / 6)
    assert [one["instead"] for one in found["broken"]] == ["it stands at 2"]
    text = said(command(*asked))
    assert "16.7% unjudged" in text
    assert "broken: 1: never horn; it stands at 2" in text
    head = answer(command("compare", "coast", "titles", "texts", "--set", "visitors", "--measure", "rr", "--json"))
    assert head["names"] == ["titles:1", "texts:1"]
    assert (head["comparison"]["gained"], head["comparison"]["lost"]) == (1, 1)
    run = answer(command("runs", "coast", "--set", "visitors", "--json"))[-1]
    assert (run["ranker"], run["version"]) == ("titles", 1)
    again = ("runs", "coast", "--set", "visitors", "--measure", str(run["id"]), "--measures", "rr", "--json")
    assert answer(command(*again))["measures"] == found["measures"]
    page = said(command("compare", "coast", "titles", "texts", "--set", "visitors", "--page"))
    assert page.startswith("# Is texts:1 better than titles:1?")
    assert "It cannot be told" in said(command("compare", "coast", "titles", "texts", "--set", "visitors"))


def test_a_run_file_is_compared_with_as_an_outside_ranker(command: Command, coast: Path):
    said(command("run", "coast", "--set", "visitors", "--ranker", "texts", "--out", str(coast / "run")))
    assert said(command("outside", "run", "coast", "old", str(coast / "run"), "--set", "visitors")).startswith(
        "old has lists for 2 queries of visitors"
    )
    head = answer(command("compare", "coast", "outside/old", "texts", "--set", "visitors", "--json"))
    assert head["comparison"]["gain"] == 0
    assert [one["kind"] for one in answer(command("outside", "list", "coast", "--json"))] == ["file"]


def test_a_task_gives_links_and_what_is_given_is_settled(command: Command, coast: Path):
    made = ("task", "make", "coast", "visitors", "the rest", "--judge", "Ada", "--judge", "Bo", "--twice", "1")
    tasks = answer(command(*made, "--ranker", "titles", "--again", "--json"))
    assert [(one["judge"], one["judged"]) for one in tasks] == [("Ada", 0), ("Bo", 0)]
    assert all(one["path"].startswith("/judge/") for one in tasks)
    number = str(tasks[0]["task"])
    assert said(command("task", "close", "coast", "visitors", number)) == "closed\n"
    assert answer(command("task", "list", "coast", "visitors", "--json"))[0]["closed"]
    said(command("judged", "settle", "coast", "visitors", "3", "lamp", "--grade", "0"))
    found = answer(command("measure", "coast", "--set", "visitors", "--ranker", "texts", "--measures", "rr", "--json"))
    assert found["per_query"]["3"]["rr"] == 0
    said(command("judged", "settle", "coast", "visitors", "3", "lamp"))
    standing = answer(command("judged", "standing", "coast", "visitors", "--json"))
    assert (standing["judged"], standing["shared"], standing["agreement"]) == (3, 0, None)
    assert "0 conflicts are open" in said(command("judged", "standing", "coast", "visitors"))


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
    asked = ("score", "--grades", str(coast / "g2"), "--run", str(coast / "ties"), "--measures", "rr", "--json")
    # By key the bell stands first, although the file says otherwise.
    assert answer(command(*asked))["per_query"]["1"] == {"rr": 1}
    assert answer(command(*asked, "--ties", "worst_first"))["per_query"]["1"] == {"rr": 0.5}
