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
import pytest

from tests.command_host import CommandHost
from tests.conftest import ROOT, Command, demo_copy


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
        assert [one["name"] for one in collections] == ["saltmere"]
        # The last keeper may not leave the door open behind them.
        assert httpx.delete(f"{address}/api/people/nora", headers={**named, **cookie}).status_code == 204
        assert httpx.get(f"{address}/api/collections", headers=named).status_code == 401

        second = begun(file)
        _, said = second.communicate(timeout=120)
        assert (second.returncode, "Another server works on this data already" in said) == (1, True)
    assert json.loads(command("person", "list", "--json").stdout) == []


def test_settings_that_are_wrong_are_told_before_anything_is_begun(file: Path):
    file.write_text(file.read_text() + 'hots = "x"\n')
    refused = begun(file)
    _, said = refused.communicate(timeout=120)
    assert refused.returncode == 1
    assert "hots: is no setting. Is host meant?" in said
