"""People and members by the command line, on a database of their own."""

import json
from collections.abc import Generator
from pathlib import Path

import pytest

from tests.command_host import CommandHost
from tests.conftest import Command, demo_copy


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    with demo_copy(host, demo_folder) as call:
        yield call


PASSWORD = "a lamp for every ship\n"


def test_people_are_made_and_changed_and_forgotten(command: Command):
    refused = command("person", "add", "ib", text=PASSWORD)
    assert (refused.returncode, "has to be a keeper" in refused.stderr) == (1, True)
    made = command("person", "add", "Nora", "--shown", "Nora Vane", "--keeper", "--json", text=PASSWORD)
    assert json.loads(made.stdout) == [
        {"name": "nora", "shown": "Nora Vane", "keeper": True, "makes_collections": False, "left_at": None}
    ]
    assert command("person", "add", "ib", text="short\n").returncode == 1
    assert command("person", "add", "ib", "--shown", "Ib Sand", text=PASSWORD).returncode == 0
    assert command("person", "password", "ib", text="a bell for every fog\n").stdout == "changed\n"
    changed = json.loads(command("person", "change", "ib", "--makes-collections", "--no-comes-in", "--json").stdout)
    assert (changed[0]["makes_collections"], changed[0]["left_at"] is not None) == (True, True)
    refused = command("person", "change", "nora", "--no-keeper")
    assert (refused.returncode, "only keeper" in refused.stderr) == (1, True)
    assert command("person", "invite", "Aud Holm").stdout.startswith("/invited/")

    assert command("member", "set", "saltmere", "ib", "engineer").stdout == "ib is engineer of saltmere\n"
    assert command("member", "invite", "saltmere", "judge", "Aud Holm").stdout.startswith("/invited/")
    told = json.loads(command("member", "list", "saltmere", "--json").stdout)
    assert told == [
        {"name": "ib", "shown": "Ib Sand", "role": "engineer", "invited": False},
        {"name": "", "shown": "Aud Holm", "role": "judge", "invited": True},
    ]
    assert command("member", "drop", "saltmere", "ib").stdout == "gone\n"
    assert command("member", "drop", "saltmere", "ib").returncode == 1

    # Whoever says who they are may what that person may, and what they change carries their name.
    assert command("member", "set", "saltmere", "ib", "reader").returncode == 0
    assert command("person", "change", "ib", "--comes-in").returncode == 0
    assert command("chain", "put", "saltmere", "ropes", "words", person="ib").returncode == 1
    assert 'role "engineer"' in command("chain", "put", "saltmere", "ropes", "words", person="ib").stderr
    assert command("member", "set", "saltmere", "ib", "engineer").returncode == 0
    assert command("chain", "put", "saltmere", "ropes", "words", person="ib").returncode == 0
    assert command("person", "list", person="ib").returncode == 1
    assert command("chain", "list", "saltmere", person="ghost").returncode == 1
    told = json.loads(command("changes", "saltmere", "--json").stdout)
    assert [(one["person"], one["what"], one["about"]) for one in told[:2]] == [
        ("Ib Sand", "By command: chain put", "ropes"),
        (None, "By command: member set", "ib engineer"),
    ]
    lines = command("changes", "saltmere", "--csv", "--person", "Ib Sand").stdout.splitlines()
    assert lines[0] == "at,person,collection,what,about"
    assert [line.split(",", 1)[1] for line in lines[1:]] == ["Ib Sand,saltmere,By command: chain put,ropes"]

    assert command("person", "forget", "ib").stdout == "forgotten\n"
    assert "Nora Vane" in command("person", "list").stdout
    assert command("person", "forget", "nora").returncode == 0
    assert json.loads(command("person", "list", "--json").stdout) == []


def test_every_command_says_what_it_needs():
    from typer.main import get_command

    from pale_harbor.cli.rights import TABLE, is_noted
    from pale_harbor.cli.rooms import app_for
    from pale_harbor.work.people.rights import Right

    commands: set[str] = set()
    for name, own in get_command(app_for(None)).commands.items():  # pyright: ignore
        commands |= {f"{name} {one}" for one in own.commands} if hasattr(own, "commands") else {name}
    named = [command for own in TABLE.values() for command in own]
    assert len(named) == len(set(named))
    assert set(named) == commands
    assert set(TABLE) <= set(Right)
    assert not is_noted("search")
    assert not is_noted("changes")
    assert is_noted("ranker put")
