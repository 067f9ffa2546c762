"""Spaces on the command line: made, asked a service for, brought, looked into, measured."""

import json
from collections.abc import Callable
from pathlib import Path
from subprocess import CompletedProcess
from typing import Any

import numpy as np
import pytest

from pale_harbor.api.spaces.embedder import Moods
from pale_harbor.cli.ranking.searching import shortened
from tests.spaces import embedder

Command = Callable[..., "CompletedProcess[str]"]

ROWS = [
    {"id": "bell", "title": "Fog bell", "text": "Rung in fog so that ships keep off."},
    {"id": "sock", "title": "Knitted socks", "text": "Wool socks that keep sailors warm."},
    {"id": "stew", "title": "Stew", "text": "Salted beef, eaten at sea."},
]
PACKAGED = {"source": {"kind": "packaged"}, "fields": ["title", "text"]}


def answer(result: "CompletedProcess[str]") -> Any:
    assert result.returncode == 0, result.stderr
    return json.loads(result.stdout)


@pytest.fixture(scope="module")
def coast(command: Command, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("coast")
    (folder / "records.jsonl").write_text("\n".join(map(json.dumps, ROWS)))
    answer(command("load", str(folder / "records.jsonl"), "--collection", "coast", "--key", "id", "--json"))
    made = answer(command("space", "make", "coast", "meaning", "-", "--json", text=json.dumps(PACKAGED)))
    assert (made["state"], made["report"]["whole"]) == ("done", 3)
    return folder


def test_a_space_finds_by_meaning_and_lists_itself(command: Command, coast: Path):
    near = answer(command("space", "nearest", "coast", "meaning", "winter clothes", "--json"))
    assert near[0]["key"] == "sock"
    like = answer(command("space", "nearest", "coast", "meaning", "--like", "sock", "--json"))
    assert "sock" not in [one["key"] for one in like]
    assert [one["name"] for one in answer(command("space", "list", "coast", "--json"))][-1:] == ["meaning"]


def test_a_blended_search_and_its_sides(command: Command, coast: Path):
    ranker = {"readings": [{"field": "title", "chain": "words > lower"}], "spaces": [{"space": "meaning"}]}
    (coast / "ranker.json").write_text(json.dumps(ranker))
    answer(command("ranker", "put", "coast", "blended", str(coast / "ranker.json"), "--json"))
    found = answer(command("search", "coast", "fog clothes", "--ranker", "blended", "--why", "--json"))
    first = found["results"][0]
    assert set(first["ranks"]) == {"words", "meaning"}
    assert sum(part["part"] for part in first["blend"]) == pytest.approx(first["score"])
    (coast / "q").write_text("1\twinter clothes\n")
    (coast / "g").write_text("1 0 sock 3\n")
    files = ("--queries", str(coast / "q"), "--grades", str(coast / "g"))
    answer(command("judged", "load", "coast", "visitors", *files, "--json"))
    sides = answer(command("sides", "coast", "--set", "visitors", "--ranker", "blended", "--json"))
    assert (sides["all"]["words"], sides["all"]["meaning"]) == (0.0, 1.0)
    table = command("sides", "coast", "--set", "visitors", "--ranker", "blended").stdout
    assert "meaning right" in table


def test_rows_are_shown_with_the_figures_that_order_them_and_with_their_titles(command: Command, coast: Path):
    ranker = {
        "readings": [{"field": "title", "chain": "words > lower"}],
        "spaces": [{"space": "meaning"}],
        "second_stage": {"space": "meaning", "first": 2, "weight": 1},
    }
    (coast / "ranker.json").write_text(json.dumps(ranker))
    answer(command("ranker", "put", "coast", "twice", str(coast / "ranker.json"), "--json"))
    asked = ("search", "coast", "winter clothes", "--ranker", "twice")
    rows = answer(command(*asked, "--why", "--json"))["results"]
    looked_at = [row["second_stage"] for row in rows if "second_stage" in row]
    # Two were looked at; they come first, in the order of what the second stage gave them.
    assert ["second_stage" in row for row in rows] == [True, True, *[False] * (len(rows) - 2)]
    assert looked_at == sorted(looked_at, reverse=True)
    assert all(row["title"] for row in rows)
    assert rows[0]["second_look"]["similarity"] == pytest.approx(looked_at[0])
    printed = command(*asked, "--why").stdout
    assert f"{looked_at[0]:.3f}" in printed.splitlines()[1]
    assert rows[0]["title"] in printed.splitlines()[1]
    assert "The second figure is the second stage's" in printed
    assert "second stage: " in printed
    plain = command("search", "coast", "fog", "--ranker", "blended").stdout
    assert "second" not in plain


def test_a_title_leaves_a_row_on_its_line():
    assert shortened("x" * 80) == "x" * 80
    assert shortened("x" * 81) == "x" * 79 + "…"


def test_a_space_without_vectors_is_told_beside_every_figure(command: Command, coast: Path):
    answer(command("space", "make", "coast", "later", "-", "--no-fill", "--json", text=json.dumps(PACKAGED)))
    readings = [{"field": "title", "chain": "words > lower"}]
    for name, spaces in (("now", [{"space": "meaning"}]), ("soon", [{"space": "meaning"}, {"space": "later"}])):
        (coast / "ranker.json").write_text(json.dumps({"readings": readings, "spaces": spaces}))
        answer(command("ranker", "put", "coast", name, str(coast / "ranker.json"), "--json"))
    (coast / "q").write_text("1\tfog\n2\twinter clothes\n")
    (coast / "g").write_text("2 0 sock 3\n")
    files = ("--queries", str(coast / "q"), "--grades", str(coast / "g"))
    answer(command("judged", "load", "coast", "two", *files, "--json"))
    note = 'The space "later" has no vectors yet. (2 queries)'
    for figures in (["sides", "coast"], ["measure", "coast"]):
        for name, notes in (("now", []), ("soon", [note])):
            asked = [*figures, "--set", "two", "--ranker", name]
            assert answer(command(*asked, "--json"))["notes"] == notes
            assert [line for line in command(*asked).stdout.splitlines() if "note: " in line] == [
                f"note: {one}" for one in notes
            ]
    assert f"note: {note}" in command("compare", "coast", "now", "soon", "--set", "two").stdout
    several = command("compare", "coast", "now", "soon", "soon:1", "--set", "two").stdout
    assert f"note: soon:1: {note}" in several


def test_a_service_is_counted_first_and_then_asked(command: Command, coast: Path):
    moods = Moods(price=3.0, refuse_after=2)
    with embedder(moods) as address:
        source = {"kind": "service", "address": address, "batch": 1, "tries": 1}
        document = json.dumps({"source": source, "fields": ["title"]})
        assert answer(command("space", "make", "coast", "asked", "-", "--json", text=document))["state"] == "new"
        cost = answer(command("space", "cost", "coast", "asked", "--json"))
        assert (cost["texts"], cost["words"], cost["requests"], moods.texts) == (3, 5, 3, 0)
        assert cost["price"] == pytest.approx(0.015)
        first = command("space", "fill", "coast", "asked")
        assert "asked: failed" in first.stdout
        assert "The budget is used up" in first.stdout
        moods.refuse_after = None
        filled = answer(command("space", "fill", "coast", "asked", "--json"))
        assert (filled["state"], moods.texts) == ("done", 3)


def test_vectors_are_brought_and_a_space_is_dropped(command: Command, coast: Path):
    command("space", "make", "coast", "own", "-", text=json.dumps({"source": {"kind": "brought"}}))
    np.save(coast / "v.npy", np.array([[1.0, 0.0], [0.9, 0.1]]))
    (coast / "keys").write_text("bell\nsock\n")
    brought = answer(
        command(
            "space",
            "bring",
            "coast",
            "own",
            "--vectors",
            str(coast / "v.npy"),
            "--names",
            str(coast / "keys"),
            "--json",
        )
    )
    assert (brought["kept"], brought["report"]["vectors"]) == (2, 2)
    refused = command("space", "drop", "coast", "own")
    assert "--confirm own" in refused.stderr
    assert command("space", "drop", "coast", "own", "--confirm", "own").stdout == "Dropped own.\n"


def test_what_cannot_be_made_is_said_with_its_place(command: Command, coast: Path):
    wrong = json.dumps({"source": {"kind": "packaged"}, "fields": ["titel"]})
    assert 'no field "titel". Did you mean "title"' in command("space", "make", "coast", "x", "-", text=wrong).stderr
    assert "is no JSON" in command("space", "make", "coast", "x", "-", text="{").stderr
    assert 'There is no space "nowhere"' in command("space", "nearest", "coast", "nowhere", "fog").stderr
