"""`serve` as the settings say: elsewhere than on loopback only where people sign in; one server for the same data."""

import json
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Generator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import psycopg
import pytest

from pale_harbor.errors import Unavailable
from pale_harbor.settings import Settings
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import held_alone
from pale_harbor.work.serving import DATABASE
from tests.command_host import CommandHost
from tests.conftest import ROOT, Command, demo_copy
from tests.endurance.harbor import until


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    with demo_copy(host, demo_folder) as call:
        yield call


@pytest.fixture
def file(command: Any, tmp_path: Path) -> Path:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    path = tmp_path / "harbor.toml"
    path.write_text(
        f'data = "{command.data}"\nhost = "0.0.0.0"\nport = {port}\nnames = ["search.saltmere.example"]\n'
        'forwarded_from = ["127.0.0.1"]\n'
    )
    return path


def begun(file: Path) -> "subprocess.Popen[str]":
    return subprocess.Popen(
        [sys.executable, "-m", "pale_harbor.cli", "serve", "--settings", str(file)],
        cwd=ROOT,
        env={name: value for name, value in os.environ.items() if not name.startswith("PALEHARBOR_")},
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )


@contextmanager
def served(file: Path) -> Generator[str]:
    port = next(line.split()[-1] for line in file.read_text().splitlines() if line.startswith("port"))
    address = f"http://127.0.0.1:{port}"
    process = begun(file)
    try:
        until = time.monotonic() + 120
        while time.monotonic() < until:
            assert process.poll() is None, process.communicate()[1]
            try:
                if httpx.get(f"{address}/api/health").json()["ready"]:
                    break
            except (httpx.HTTPError, KeyError):
                time.sleep(0.1)
        yield address
    finally:
        process.terminate()
        # It ends by the signal itself, once it has let go of everything.
        assert process.wait(60) in (0, -signal.SIGTERM)


def test_elsewhere_people_sign_in_or_nobody_is_let_in(command: Command, file: Path):
    command("up")
    command("down")
    command("person", "list")
    refused = begun(file)
    _, said = refused.communicate(timeout=120)
    assert refused.returncode == 1
    assert "Nobody signs in here yet, and whoever reaches 0.0.0.0 could do everything" in said
    assert "./paleharbor person add NAME --keeper" in said

    assert command("person", "add", "nora", "--keeper", text="a lamp for every ship\n").returncode == 0
    with served(file) as address:
        named = {"host": "search.saltmere.example"}
        assert httpx.get(f"{address}/api/collections", headers=named).status_code == 401
        assert httpx.get(f"{address}/api/collections", headers={"host": "other.example"}).status_code == 400
        # Behind a proxy that speaks TLS the cookie is for TLS alone.
        signed_in = httpx.post(
            f"{address}/api/sign-in",
            headers={**named, "x-forwarded-proto": "https", "x-forwarded-for": "10.1.1.1"},
            json={"name": "nora", "password": "a lamp for every ship"},
        )
        assert signed_in.status_code == 204
        assert "Secure" in signed_in.headers["set-cookie"]
        cookie = {"cookie": signed_in.headers["set-cookie"].split(";")[0]}
        collections = httpx.get(f"{address}/api/collections", headers={**named, **cookie}).json()
        assert [one["name"] for one in collections] == ["logbooks", "saltmere"]
        # The last keeper may not leave the door open behind them.
        assert httpx.delete(f"{address}/api/people/nora", headers={**named, **cookie}).status_code == 204
        assert httpx.get(f"{address}/api/collections", headers=named).status_code == 401

        second = begun(file)
        _, said = second.communicate(timeout=120)
        assert (second.returncode, "Another server works on this data already" in said) == (1, True)
    assert json.loads(command("person", "list", "--json").stdout) == []


def test_a_server_that_another_one_has_overtaken_ends_and_leaves_the_database_to_it(command: Command, file: Path):
    file.write_text(file.read_text().replace('host = "0.0.0.0"', 'host = "127.0.0.1"'))
    own = Cluster(Settings(command.data).cluster)  # pyright: ignore[reportFunctionMemberAccess]
    process = begun(file)
    port = next(line.split()[-1] for line in file.read_text().splitlines() if line.startswith("port"))
    until(lambda: is_ready(f"http://127.0.0.1:{port}"), 120, lambda: "The server is not ready.")
    other = None
    while other is None:
        with psycopg.connect(own.keepers_address(), autocommit=True) as keeper:
            # As a restart of the database does.
            keeper.execute(
                "select pg_terminate_backend(pid, 5000) from pg_stat_activity where datname = %s", [DATABASE]
            )
        try:
            other = held_alone(own.address(DATABASE), 0.0)
        except (Unavailable, psycopg.OperationalError):
            continue
    said = "".join(process.communicate(timeout=120))
    assert process.returncode == 1
    assert "another server works on this data now: this one ends" in said
    assert other.execute("select 1").fetchone() == (1,)
    other.close()
    own.stop()


def is_ready(address: str) -> bool:
    try:
        return bool(httpx.get(f"{address}/api/health").json().get("ready"))
    except httpx.HTTPError:
        return False


def test_a_port_that_another_program_has_is_told_and_no_success(command: Command, file: Path):
    file.write_text(file.read_text().replace('host = "0.0.0.0"', 'host = "127.0.0.1"'))
    port = int(next(line.split()[-1] for line in file.read_text().splitlines() if line.startswith("port")))
    with socket.create_server(("127.0.0.1", port)):
        refused = begun(file)
        said = "".join(refused.communicate(timeout=120))
    assert refused.returncode == 1
    assert "address already in use" in said
    # Its own database is let go of all the same.
    assert not (command.data / "database/cluster/postmaster.pid").exists()  # pyright: ignore[reportFunctionMemberAccess]


def test_settings_that_are_wrong_are_told_before_anything_is_begun(file: Path):
    file.write_text(file.read_text() + 'hots = "x"\n')
    refused = begun(file)
    _, said = refused.communicate(timeout=120)
    assert refused.returncode == 1
    assert "hots: is no setting. Is host meant?" in said


def test_beside_the_one_that_changes_things_others_only_search(command: Command, file: Path, tmp_path: Path):
    file.write_text(file.read_text().replace('host = "0.0.0.0"', 'host = "127.0.0.1"'))
    own = [line for line in file.read_text().splitlines() if not line.startswith("port")]
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    second = tmp_path / "second.toml"
    second.write_text("\n".join([*own, f"port = {port}", "searches_only = true"]))
    command("down")
    # It begins nothing by itself: whatever it needs is another's.
    refused = begun(second)
    assert "The database does not answer" in refused.communicate(timeout=120)[1]
    assert refused.returncode == 1

    with served(file) as main, served(second) as beside:

        def found(address: str, query: str) -> list[tuple[str, float]]:
            answer = httpx.post(f"{address}/api/collections/saltmere/search", json={"query": query}, timeout=120)
            return [(one["key"], one["score"]) for one in answer.json()["results"]]

        assert found(beside, "fog bell") == found(main, "fog bell") != []
        measured = [
            httpx.post(
                f"{address}/api/collections/saltmere/judged/visitors/measure",
                json={"ranker": {"name": "first"}, "measures": ["ndcg@10"]},
                timeout=120,
            ).json()["figures"]
            for address in (beside, main)
        ]
        assert measured[0] == measured[1]
        record = {"records": [{"id": "zz1", "title": "A quince of the searching server"}]}
        path = "/api/collections/saltmere/records"
        for method, at in (("POST", path), ("PUT", "/api/collections/saltmere/chains/own"), ("POST", "/api/people")):
            answer = httpx.request(method, f"{beside}{at}", json=record)
            assert (answer.status_code, "only searches and measures" in answer.json()["detail"]) == (503, True)
        # What is changed by the one is found by the other with its next question.
        assert httpx.post(f"{main}{path}", json=record).status_code == 200
        assert [key for key, _ in found(beside, "quince")] == ["zz1"]
        assert httpx.post(f"{main}{path}/delete", json={"keys": ["zz1"]}).status_code == 200
        assert found(beside, "quince") == []
    # The first took the database with it; the second never would have.
    assert command("collection", "list").returncode == 0
