"""The running application: up, the same address again, killed without loss, down."""

import json
import os
import signal
import socket
from collections.abc import Callable, Generator
from pathlib import Path
from subprocess import CompletedProcess
from typing import Any

import httpx
import psutil
import pytest

from tests.command_host import CommandHost
from tests.conftest import demo_copy

Command = Callable[..., "CompletedProcess[str]"]


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    """A command line on a copy of the demo, which was made by `up` on an empty folder."""
    with demo_copy(host, demo_folder) as call:
        yield call


def server_of(command: Any) -> dict[str, Any]:
    return json.loads((Path(command.data) / "server.json").read_text())


def started(command: Command) -> str:
    result = command("up")
    assert result.returncode == 0, result.stderr
    return result.stdout.strip()


def test_a_killed_server_loses_nothing_it_acknowledged(command: Command):
    address = started(command)
    assert started(command) == address
    got = httpx.get(f"{address}/api/collections/saltmere/rankers/first")
    assert got.status_code == 200, got.text
    document = got.json()["document"]
    kept: list[int] = []
    for number in range(5):
        document["readings"][0]["weight"] = 4 + number
        put = httpx.put(f"{address}/api/collections/saltmere/rankers/first", json={"document": document})
        kept.append(put.json()["version"])
    before = httpx.post(f"{address}/api/collections/saltmere/search", json={"query": "fog bell"}).json()
    process = psutil.Process(server_of(command)["process"])
    os.kill(process.pid, signal.SIGKILL)
    process.wait(20)

    address = started(command)
    versions = [r["version"] for r in httpx.get(f"{address}/api/collections/saltmere/rankers").json()]
    assert set(kept) <= set(versions)
    after = httpx.post(f"{address}/api/collections/saltmere/search", json={"query": "fog bell"}).json()
    assert after["results"] == before["results"]


def test_a_killed_database_loses_nothing_it_acknowledged(command: Command):
    address = started(command)
    put = httpx.put(f"{address}/api/collections/saltmere/chains/kept", json={"notation": "words > lower"})
    assert put.status_code == 200
    pid = int((Path(command.data) / "database/cluster/postmaster.pid").read_text().split()[0])  # pyright: ignore
    family = [psutil.Process(pid), *psutil.Process(pid).children(recursive=True)]
    for process in family:
        process.kill()
    psutil.wait_procs(family, timeout=20)
    refused = httpx.get(f"{address}/api/collections", timeout=60)
    assert refused.status_code == 503
    assert "./paleharbor up" in refused.json()["detail"]

    assert command("down").returncode == 0
    address = started(command)
    expected = {"name": "kept", "version": 1, "notation": "words > lower", "used_by": []}
    assert expected in httpx.get(f"{address}/api/collections/saltmere/chains").json()


def test_a_database_that_had_to_take_another_port_is_found_again(command: Command):
    address = started(command)
    folder = Path(command.data) / "database"  # pyright: ignore[reportFunctionMemberAccess]
    pid = int((folder / "cluster/postmaster.pid").read_text().split()[0])
    family = [psutil.Process(pid), *psutil.Process(pid).children(recursive=True)]
    for process in family:
        process.kill()
    psutil.wait_procs(family, timeout=20)
    port = json.loads((folder / "access.json").read_text())["port"]
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        taken.bind(("127.0.0.1", port))
        taken.listen()
        # The same server, by its own address, on the database where it is now.
        assert started(command) == address
        assert httpx.get(f"{address}/api/collections", timeout=60).status_code == 200
    assert json.loads((folder / "access.json").read_text())["port"] != port


def test_the_port_is_kept_unless_somebody_else_has_taken_it(command: Command):
    kept = Path(command.data) / "port"  # pyright: ignore
    assert command("down").returncode == 0
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    # One that no other test's server takes.
    kept.write_text(f"{port}\n")
    address = f"http://127.0.0.1:{port}"
    assert started(command) == address
    assert command("down").returncode == 0
    assert started(command) == address
    assert command("down").returncode == 0
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", port))
        taken.listen()
        elsewhere = command("up")
        assert elsewhere.stdout.strip() != address
        assert f"port {port}" in elsewhere.stderr
        assert command("down").returncode == 0
    # From then on the other one is kept.
    assert elsewhere.stdout.strip() == f"http://127.0.0.1:{kept.read_text().strip()}"


def test_the_log_stands_in_a_file_of_its_own(command: Command):
    started(command)
    logs = Path(command.data) / "logs"  # pyright: ignore
    last = json.loads((logs / "server.log").read_text().splitlines()[-1])
    assert {"event", "level", "timestamp"} <= last.keys()
    assert (logs / "server.out").read_text() == ""


def test_down_stops_what_up_started(command: Command):
    started(command)
    # Its address may be another's a moment later: the process is what must be gone.
    process = psutil.Process(server_of(command)["process"])
    assert process.is_running()
    assert command("down").stdout == "Stopped.\n"
    assert not process.is_running()
    assert command("down").stdout == "Nothing was running.\n"
