"""A server as it is run for others, that can be killed and begun again; its data has a folder of its own."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Generator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import psutil

from pale_harbor.settings import Settings
from pale_harbor.store.cluster import Cluster
from tests.conftest import NO_FSYNC, ROOT, make_data_folder

_SECONDS_TO_START = 120


def scaled(usual: int, name: str) -> int:
    """How much of something is done: the usual, or what the environment says (as for a run of an hour)."""
    return int(os.environ.get(name, str(usual)))


@dataclass
class Harbor:
    """data: the folder; address: where the server listens; settings: further ones, as the environment has them."""

    data: Path
    port: int
    settings: dict[str, str] = field(default_factory=dict)
    process: "subprocess.Popen[bytes] | None" = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def cluster(self) -> Cluster:
        return Cluster(Settings(self.data).cluster, NO_FSYNC)

    @property
    def log(self) -> str:
        """What the server said."""
        return (self.data / "said.txt").read_text("utf-8", "replace")

    def environment(self) -> dict[str, str]:
        """Of its commands."""
        own = {name: value for name, value in os.environ.items() if not name.startswith("PALEHARBOR_")}
        return own | {
            "PALEHARBOR_DATA": str(self.data),
            "PALEHARBOR_DATABASE_OPTIONS": NO_FSYNC,
            "PALEHARBOR_PORT": str(self.port),
            "PYTHONPATH": str(ROOT),
            **self.settings,
        }

    def command(self, *arguments: str) -> "subprocess.Popen[bytes]":
        """A command, begun."""
        with (self.data / "said.txt").open("ab") as said:
            return subprocess.Popen(
                [sys.executable, "-m", "pale_harbor.cli", *arguments],
                cwd=ROOT,
                env=self.environment(),
                stdout=said,
                stderr=said,
                start_new_session=True,
            )

    def start(self) -> None:
        """Begins the server and waits until it is ready."""
        self.process = self.command("serve")
        self.wait_until_ready()

    def wait_until_ready(self) -> None:
        """Waits until the server says that it is ready."""

        def is_ready() -> bool:
            assert self.process is not None
            assert self.process.poll() is None, self.log[-3_000:]
            try:
                return bool(httpx.get(f"{self.address}/api/health", timeout=30).json().get("ready"))
            except httpx.HTTPError:
                return False

        until(is_ready, _SECONDS_TO_START, lambda: f"The server is not ready.\n{self.log[-3_000:]}")

    def kill(self) -> None:
        """Kills the server, and whatever it began, at once."""
        assert self.process is not None
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(60)

    def kill_database(self) -> None:
        """Kills the database, and whatever it began, at once."""
        pid = int((self.cluster.files / "postmaster.pid").read_text().split()[0])
        family = [psutil.Process(pid), *psutil.Process(pid).children(recursive=True)]
        for one in family:
            try:
                one.kill()
            except psutil.NoSuchProcess:
                continue
        psutil.wait_procs(family, timeout=60)


def until(holds: Callable[[], bool], seconds: float, complaint: Callable[[], str]) -> None:
    """Waits until something holds that nothing tells of."""
    end = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < end, complaint()
        time.sleep(0.1)


def free_port() -> int:
    """One that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def begun(made: Harbor) -> Generator[Harbor]:
    """A server that is ready, killed at the end."""
    made.start()
    try:
        yield made
    finally:
        if made.process is not None and made.process.poll() is None:
            made.kill()


@contextmanager
def harbor() -> Generator[Harbor]:
    """A server with nothing in it yet, on a free port, gone at the end."""
    made = Harbor(make_data_folder(), free_port())
    try:
        with begun(made):
            yield made
    finally:
        made.cluster.stop(at_once=True)
        shutil.rmtree(made.data, ignore_errors=True)
