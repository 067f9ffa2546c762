"""Commands are there at once: they load what they need, and what only looks is asked of the running server."""

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.cli.asking_the_server import may_be_asked
from tests.command_host import CommandHost
from tests.conftest import ROOT, Command, demo_copy

HEAVY = ("numba", "scipy", "pyarrow", "rdflib", "pypdf", "fastapi", "httpx")


def loaded_by(code: str) -> list[str]:
    """Which heavy packages a fresh interpreter has loaded after some code."""
    script = f"import sys\n{code}\nprint([name for name in {HEAVY!r} if name in sys.modules])"
    told = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, cwd=ROOT, check=True)
    return json.loads(told.stdout.splitlines()[-1].replace("'", '"'))


@pytest.mark.parametrize(
    "room",
    [
        "serving",
        "imports.loading",
        "ranking.rankers",
        "records.records",
        "collections.collections",
        "measuring.outside",
        "measuring.diary",
        "spaces.spaces",
    ],
)
def test_a_room_of_commands_loads_nothing_heavy(room: str):
    assert loaded_by(f"import pale_harbor.cli.{room}, pale_harbor.work.serving") == []


def test_the_version_is_told_without_anything_heavy():
    assert loaded_by("from pale_harbor.cli.rooms import app_for, run; run(['version'])") == []


@pytest.mark.parametrize(
    ("arguments", "asked"),
    [
        (["search", "coast", "fog"], True),
        (["ranker", "get", "coast", "first"], True),
        (["ranker", "put", "coast", "first", "file.json"], False),
        (["run", "coast", "--out", "file"], False),
        (["search", "--help"], False),
        (["judged", "drop", "coast", "visitors"], False),
        ([], False),
    ],
)
def test_the_server_is_asked_for_what_changes_nothing(arguments: list[str], asked: bool):
    assert may_be_asked(arguments) is asked


LOOKS: list[tuple[str, ...]] = [
    ("search", "saltmere", "fog bell", "--top", "3", "--why"),
    ("search", "saltmere", "harpon", "--why-not", "sm0001", "--json"),
    ("measure", "saltmere", "--set", "visitors", "--measures", "ndcg@10", "--json"),
    ("ranker", "get", "saltmere", "first"),
    ("collection", "list"),
    ("search", "nowhere", "fog"),
    ("words", "get", "saltmere", "seafaring"),
    ("search", "saltmere", "fog", "--tpo", "3"),
]


def test_the_server_gives_the_answer_that_the_command_gives_by_itself(host: CommandHost, demo_folder: Path):
    with demo_copy(host, demo_folder) as command:
        alone = [told(command, look) for look in LOOKS]
        assert command("up").returncode == 0
        asked = [told(command, look) for look in LOOKS]
    assert asked == alone
    assert [code for code, _, _ in asked] == [0, 0, 0, 0, 0, 1, 0, 2]


def test_a_server_that_died_or_is_another_version_is_not_asked(
    host: CommandHost, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    from pale_harbor.cli.asking_the_server import asked_of_server

    monkeypatch.setitem(os.environ, "PALEHARBOR_DATA", str(tmp_path))
    known = {"process": 1, "port": 1, "address": "http://127.0.0.1:1", "version": "another"}
    for written in (None, b"no json", json.dumps(known).encode(), json.dumps(known | {"version": "0.1.0"}).encode()):
        if written is not None:
            (tmp_path / "server.json").write_bytes(written)
        assert asked_of_server(["collection", "list"]) is None


def told(command: Command, look: tuple[str, ...]) -> tuple[int, Any, str]:
    """Code, output and complaint; times are never the same twice."""
    result = command(*look)
    lines = [line for line in result.stdout.splitlines() if "matched in" not in line]
    return result.returncode, lines, result.stderr
