"""Tuning and the ledger on the command line."""

import json
from pathlib import Path

from tests.cli.test_judging_commands import Command, answer, coast, said

__all__ = ["coast"]


def test_a_ranker_is_tuned_in_folds_and_the_finding_kept(command: Command, coast: Path):
    (coast / "asked").write_text("1\tquay\n2\trung\n3\tcracked\n")
    (coast / "graded").write_text("1 0 lamp 3\n2 0 bell 3\n3 0 horn 3\n")
    files = ("--queries", str(coast / "asked"), "--grades", str(coast / "graded"))
    said(command("judged", "load", "coast", "tuned", *files, "--locked-share", "0"))
    (coast / "both").write_text(
        json.dumps(
            {
                "readings": [
                    {"field": "title", "chain": "words > lower", "weight": 5},
                    {"field": "text", "chain": "words > lower", "weight": 0},
                ]
            }
        )
    )
    said(command("ranker", "put", "coast", "both", str(coast / "both")))
    tune = ("tune", "coast", "--set", "tuned", "--ranker", "both", "--knob", "readings.text.weight=0,1,9")
    rails = ("--rail", "rr may not drop", "--rails", str(coast / "rails"))
    (coast / "rails").write_text("# sizes\nindex at most 9x\n")
    report = coast / "tuning.md"
    found = answer(command(*tune, *rails, "--folds", "3", "--report", str(report), "--keep", "better", "--json"))
    assert (found["before"], found["after"]) == (0.0, 1.0)
    assert found["changes"] == ["text weight 0 to 1"]
    assert {"before", "after", "interval", "p_value", "queries", "outcome"} == found["held_out"].keys()
    assert found["held_out"]["queries"] == 3
    assert [one["holds"] for one in found["rails"]] == [True, True]
    assert found["kept"] == "better:1"
    kept = answer(command("ranker", "get", "coast", "better"))
    assert [one["weight"] for one in kept["readings"]] == [5, 1]
    assert report.read_text().startswith("# both:1 tuned on tuned of coast")
    shown = said(command(*tune, "--measure", "rr=2", "--measure", "ap", "--way", "grid"))
    assert "both:1 on tuned of coast: 2 × rr + ap, 3 queries" in shown
    assert "text weight  0       1" in shown


def test_what_cannot_be_tuned_is_said_on_the_command_line(command: Command, coast: Path):
    tune = ("tune", "coast", "--set", "visitors", "--ranker", "titles")
    for more, says in (
        (("--knob", "weight"), "is no knob"),
        (("--knob", "readings.text.b=0..1"), "Its readings: title."),
        (("--measure", "nope@3"), "nope"),
        (("--measure", "rr=much"), "after = stands how much the measure counts"),
        (("--rail", "index at most 2 dogs"), "is no rail"),
    ):
        refused = command(*tune, *more)
        assert refused.returncode == 1
        assert says in refused.stderr


def test_a_number_that_cannot_be_is_said_in_words(command: Command, coast: Path):
    tune = ("tune", "coast", "--set", "visitors", "--ranker", "titles")
    for more, says in (
        (("--knob", "readings.title.weight=0..1/0"), "greater than 0"),
        (("--rail", "x" * 400), "This cannot be tuned so."),
        (("--measure", "rr=-1"), "a number above 0"),
    ):
        refused = command(*tune, *more)
        assert refused.returncode == 1
        assert says in refused.stderr
        assert "Traceback" not in refused.stderr


def test_the_ledger_is_printed_with_what_wants_a_decision_first(command: Command, coast: Path):
    ledger = ("ledger", "coast", "--set", "visitors", "--ranker", "titles", "--measure", "rr")
    told = answer(command(*ledger, "--json"))
    # A chain without its tokenizer is none.
    assert told["needed"] == ["stage title: words"]
    assert [(one["kind"], one["name"]) for one in told["lines"]] == [("stage", "title: lower")]
    assert told["plan"]["version"] == 1
    shown = said(command(*ledger))
    assert "stage title: lower" in shown
    assert "cannot be left out alone: stage title: words" in shown


def test_remedies_are_printed_by_group_and_told_as_json(command: Command, coast: Path):
    remedies = ("remedies", "coast", "--set", "visitors", "--ranker", "titles")
    told = answer(command(*remedies, "--json"))
    assert told["state"] == "done"
    queries = [one["query"] for group in told["groups"] for one in group["queries"]]
    assert len(queries) == len(set(queries))
    shown = said(command(*remedies))
    assert f"{len(queries)} queries come out badly, {told['well_served']} do not" in shown
    for group in told["groups"]:
        assert f"{group['ails']}" in shown
        for one in group["tried"]:
            assert one["words"] in shown
    refused = command("remedies", "coast", "--set", "nobody", "--ranker", "titles")
    assert refused.returncode == 1
    assert "nobody" in refused.stderr


def test_queries_are_made_up_where_nobody_judged_any(command: Command, tmp_path: Path):
    ships = "petrel tern gannet plover dunlin curlew avocet knot".split()
    rows = [{"id": f"s{i}", "title": f"The {ship} of Saltmere"} for i, ship in enumerate(ships)]
    (tmp_path / "ships.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    loaded = answer(
        command(
            "load", str(tmp_path / "ships.jsonl"), "--collection", "unjudged", "--key", "id", "--tune-start", "--json"
        )
    )
    assert loaded["added"] == 8
    # Slack meets the queries that were misspelled, held out too.
    assert loaded["tuned"]["said"].startswith("The gain holds")
    assert loaded["tuned"]["kept"] == "start:2"
    made = answer(command("simulate", "unjudged", "--count", "5", "--seed", "3", "--set", "other", "--json"))
    assert made == {"judged_set": "other", "queries": 5, "records": made["records"]}
    assert "5 queries for" in said(command("simulate", "unjudged", "--count", "5", "--set", "other"))
