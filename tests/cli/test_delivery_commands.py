"""Publishing, keys and made-up visitors by the command line."""

import json
from collections.abc import Generator
from pathlib import Path
from typing import Any

import httpx
import pytest

from tests.command_host import CommandHost
from tests.conftest import Command, demo_copy


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    with demo_copy(host, demo_folder) as call:
        yield call


def told(command: Command, *arguments: str, **more: Any) -> Any:
    done = command(*arguments, "--json", **more)
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def test_a_version_is_published_and_taken_back(command: Command):
    assert told(command, "publish", "show", "saltmere")["live"]["ranker"] == "first"
    assert command("publish", "live", "saltmere", "blended", "--note", "meaning").stdout == "blended:1 is live.\n"
    shown = command("publish", "show", "saltmere").stdout
    assert "meaning" in shown.splitlines()[0]
    assert command("publish", "back", "saltmere").stdout == "first:1 is live.\n"
    refused = command("publish", "live", "saltmere", "blended:7")
    assert (refused.returncode, 'no ranker "blended" in version 7' in refused.stderr) == (1, True)


def test_rules_keep_a_version_from_going_live(command: Command):
    rules = told(command, "publish", "rules", "saltmere", "--set", "visitors", "--file", "-", text="ndcg@10 > 0.99\n")
    assert (rules["judged_set"], rules["kept_days"]) == ("visitors", 90)
    refused = command("publish", "live", "saltmere", "blended")
    assert refused.returncode == 1
    assert "guard rules are broken" in refused.stderr
    assert "ndcg@10 > 0.99" in refused.stderr
    made = told(command, "publish", "live", "saltmere", "blended", "--overrule", "the fair is tomorrow")
    assert made["overruled"] == "the fair is tomorrow"
    assert told(command, "publish", "rules", "saltmere", "--kept-days", "30")["kept_days"] == 30
    assert "ndcg@10 > 0.99" in command("publish", "rules", "saltmere").stdout
    assert command("publish", "rules", "saltmere", "--file", "-", text="faster\n").returncode == 1
    told(command, "publish", "rules", "saltmere", "--file", "-", text="\n")
    told(command, "publish", "back", "saltmere")


def test_a_candidate_meets_some_visitors(command: Command):
    offered = command("publish", "candidate", "saltmere", "blended", "--share", "0.25")
    assert offered.stdout == "blended:1 meets 25.0% of visitors, mixed with what is live.\n"
    assert command("publish", "no-candidate", "saltmere").stdout == "There is no candidate any more.\n"
    assert command("publish", "no-candidate", "saltmere").returncode == 1


def test_keys_are_made_listed_changed_and_revoked(command: Command):
    address = command("up").stdout.strip()
    terms = json.dumps({"shown": ["id", "title"]})
    made = told(command, "key", "visitor", "saltmere", "the page", "--terms", "-", text=terms)

    def asked() -> httpx.Response:
        params = {"query": "fog bell", "key": made["key"]}
        return httpx.get(f"{address}/v1/saltmere/search", params=params, timeout=60, trust_env=False)

    assert set(asked().json()["results"][0]["fields"]) == {"id", "title"}
    [kept] = [one for one in told(command, "key", "list", "saltmere") if one["id"] == made["id"]]
    assert (kept["label"], kept["terms"], kept["ended"]) == ("the page", {"shown": ["id", "title"]}, False)
    assert made["key"] not in command("key", "list", "saltmere").stdout
    number = str(made["id"])
    assert command("key", "change", "saltmere", number, "the page", "--origin", "https://a.example").returncode == 0
    assert command("key", "revoke", "saltmere", number).stdout == "revoked\n"
    # The running server hears of it a second later at most.
    while asked().status_code != 401:
        pass
    assert command("key", "revoke", "saltmere", number).returncode == 1
    assert command("key", "visitor", "saltmere", "the page", "--origin", "a.example").returncode == 1
    assert command("key", "visitor", "saltmere", "the page", "--terms", "-", text="{").returncode == 1
    assert len(command("key", "program", "saltmere", "nightly").stdout.strip()) == 43


def test_made_up_visitors_ask_click_and_give_up(command: Command):
    assert command("up").returncode == 0
    done = told(command, "visitors", "saltmere", "--set", "visitors", "--visitors", "40", "--days", "3")
    assert done["visitors"] == 40
    assert done["lists"] >= 40
    assert 0 < done["successes"] <= done["clicks"]
    assert done["successes"] + done["given_up"] == 40
    assert done["refused"] == 0
    # Their key is good for nothing any more.
    assert all(one["ended"] for one in told(command, "key", "list", "saltmere") if one["label"] == "made-up visitors")
    same = told(command, "visitors", "saltmere", "--set", "visitors", "--visitors", "40", "--days", "3")
    assert same == done


def test_what_they_asked_and_clicked_goes_on(command: Command):
    before = told(command, "past", "show", "saltmere")["kept"]["source"]
    refused = command("past", "gather", "saltmere", "--visitors", "1000")
    assert (refused.returncode, "that 1000 visitors asked" in refused.stderr) == (1, True)
    assert told(command, "past", "show", "saltmere")["kept"]["source"] == before
    gathered = command("past", "gather", "saltmere", "--visitors", "1", "--days", "30")
    assert gathered.returncode == 0, gathered.stderr
    assert "from what visitors asked in 30 days" in gathered.stdout
    assert command("judged", "make", "saltmere", "clicked").returncode == 0
    asked = ("task", "confirm", "saltmere", "clicked", "what they looked at", "--judge", "Maud Ferrin", "--days", "30")
    assert command(*asked, "--query", "nobody asked this").returncode == 1
    (made,) = told(command, *asked)
    assert (made["judge"], made["records"] > 0, made["path"].startswith("/judge/")) == ("Maud Ferrin", True, True)


def test_visitors_need_a_server_and_something_judged(command: Command):
    assert command("up").returncode == 0
    assert command("judged", "make", "saltmere", "empty").returncode == 0
    nothing = command("visitors", "saltmere", "--set", "empty")
    assert (nothing.returncode, 'Nothing in "empty" is judged' in nothing.stderr) == (1, True)
    assert command("down").returncode == 0
    away = command("visitors", "saltmere", "--set", "visitors")
    assert (away.returncode, "No server runs here" in away.stderr) == (1, True)
