"""Starts and stops what a running Pale Harbor is: the cluster, the demo, the server."""

import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path
from typing import Any, Final

import httpx
import orjson
import psutil
import psycopg
from psycopg import sql

from pale_harbor.errors import Unavailable
from pale_harbor.settings import ROOT, Settings
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import Pool, migrate, open_pool

DATABASE: Final = "paleharbor"
_FIRST_PORT: Final = 7340
_PORTS: Final = 60
_PATIENCE_SECONDS: Final = 180


def ready_database(settings: Settings) -> str:
    """Starts the cluster if need be, brings the tables up to date, and gives the address."""
    cluster = Cluster(settings.cluster)
    cluster.start()
    make_database(cluster, DATABASE)
    return cluster.address(DATABASE)


def make_database(cluster: Cluster, name: str) -> None:
    """Makes the database where it is missing, and applies the migrations that it lacks."""
    with psycopg.connect(cluster.address(), autocommit=True) as connection:
        if connection.execute("select 1 from pg_database where datname = %s", [name]).fetchone() is None:
            # Another command may make it at the same moment.
            with suppress(psycopg.errors.DuplicateDatabase, psycopg.errors.UniqueViolation):
                connection.execute(sql.SQL("create database {}").format(sql.Identifier(name)))
    with psycopg.connect(cluster.address(name)) as connection:
        migrate(connection)


def ready_pool(settings: Settings) -> Pool:
    """A pool on the ready database."""
    return open_pool(ready_database(settings))


def running_address(settings: Settings) -> str | None:
    """The address of the running server, None where none runs."""
    known = _known_server(settings)
    if known is None or _process(known) is None:
        return None
    return str(known["address"])


def start_server(settings: Settings) -> str:
    """Starts the server in the background and waits until it is ready; gives its address."""
    port = _free_port()
    address = f"http://127.0.0.1:{port}"
    settings.logs.mkdir(parents=True, exist_ok=True)
    log_path = settings.logs / "server.log"
    with log_path.open("ab") as log:
        process = subprocess.Popen(
            [sys.executable, "-m", "pale_harbor.cli", "serve", "--port", str(port)],
            cwd=ROOT,
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
        )
    started = psutil.Process(process.pid).create_time()
    _write_server(settings.server, {"process": process.pid, "started": started, "address": address})
    deadline = time.monotonic() + _PATIENCE_SECONDS
    while time.monotonic() < deadline:
        if process.poll() is not None:
            break
        try:
            if httpx.get(f"{address}/api/health", timeout=5).json().get("ready"):
                return address
        except (httpx.HTTPError, ValueError):
            pass
        time.sleep(0.05)
    tail = log_path.read_text("utf-8", "replace").splitlines()[-5:]
    raise Unavailable(f"The server did not come up; its log {log_path} ends with:\n" + "\n".join(tail))


def stop_server(settings: Settings) -> bool:
    """Stops the running server; False where none was running."""
    known = _known_server(settings)
    process = _process(known) if known else None
    if process is not None:
        process.send_signal(signal.SIGTERM)
        try:
            process.wait(20)
        except psutil.TimeoutExpired:
            process.kill()
    settings.server.unlink(missing_ok=True)
    return process is not None


def _known_server(settings: Settings) -> dict[str, Any] | None:
    try:
        return orjson.loads(settings.server.read_bytes())
    except (OSError, orjson.JSONDecodeError):
        return None


def _process(known: dict[str, Any]) -> psutil.Process | None:
    """The server's process; a number given to another process since then does not count."""
    try:
        process = psutil.Process(known["process"])
        same = abs(process.create_time() - known["started"]) < 1 and process.status() != psutil.STATUS_ZOMBIE
    except psutil.NoSuchProcess:
        return None
    return process if same else None


def _write_server(path: Path, known: dict[str, Any]) -> None:
    new = path.with_suffix(".new")
    new.write_bytes(orjson.dumps(known))
    os.replace(new, path)


def _free_port() -> int:
    for port in range(_FIRST_PORT, _FIRST_PORT + _PORTS):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise Unavailable(f"None of the ports {_FIRST_PORT} to {_FIRST_PORT + _PORTS - 1} is free.")
