"""Starts and stops what a running Pale Harbor is: the cluster, the demo, the server."""

import os
import signal
import socket
import ssl
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path
from typing import Any, BinaryIO, Final

import orjson
import psutil
from psycopg.conninfo import conninfo_to_dict

from pale_harbor import __version__
from pale_harbor.errors import Unavailable
from pale_harbor.logs import LOG_FILE
from pale_harbor.settings import ROOT, Settings
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import (
    Pool,
    connection_string,
    make_database,
    open_pool,
    refuse_other_tables,
    use_database,
)
from pale_harbor.work.people.visiting import are_people_known

DATABASE: Final = "paleharbor"
_FIRST_PORT: Final = 7340
_PORTS: Final = 60
_PATIENCE_SECONDS: Final = 180
_WAITING_CALLERS: Final = 2_048


def ready_database(settings: Settings) -> str:
    """Starts the own cluster if need be, brings the tables up to date, and gives the address.

    Where the settings name a database that is there already, that one's tables are brought up to date.
    """
    if settings.database is not None:
        return use_database(settings.database)
    cluster = Cluster(settings.cluster, settings.database_options)
    cluster.start()
    make_database(cluster, DATABASE)
    return cluster.address(DATABASE)


def ready_pool(settings: Settings) -> Pool:
    """A pool on the ready database."""
    return open_pool(ready_database(settings))


def pool_to_search(settings: Settings) -> Pool:
    """A pool on a database that another server keeps: nothing of it is started, made or brought up to date.

    Raises Unavailable where it does not answer, or is of another version.
    """
    if settings.database is not None:
        pool = open_pool(connection_string(settings.database))
    else:
        pool = open_pool(Cluster(settings.cluster).address(DATABASE))
    try:
        refuse_other_tables(pool)
    except BaseException:
        pool.close()
        raise
    return pool


def refuse_strangers(pool: Pool, host: str) -> None:
    """Raises Unavailable where others would be let in without a sign-in. host: where the server is to listen."""
    if not are_people_known(pool):
        raise Unavailable(
            f"Nobody signs in here yet, and whoever reaches {host} could do everything. Make a keeper first: "
            "./paleharbor person add NAME --keeper. Or listen on 127.0.0.1."
        )


def running_address(settings: Settings) -> str | None:
    """The address of the running server, None where none runs."""
    known = _known_server(settings)
    if known is None or _process(known) is None:
        return None
    return str(known["address"])


def server_of(settings: Settings, database: str) -> str | None:
    """The address of the running server, if it works with this database; one that works with another is stopped.

    A database that had to take another port is another address: its server would ask the old one for ever.
    """
    known = _known_server(settings)
    if known is not None and _process(known) is not None and known.get("database") != _told_apart(database):
        stop_server(settings)
    return running_address(settings)


def _told_apart(database: str) -> str:
    """What tells a database's address from another one, without its password."""
    parts = conninfo_to_dict(database)
    return " ".join(f"{name}={parts.get(name)}" for name in ("host", "port", "dbname"))


def start_server(settings: Settings, database: str) -> str:
    """Starts the server in the background and waits until it is ready; gives its address.

    Raises Unavailable where it does not come up.
    """
    settings.logs.mkdir(parents=True, exist_ok=True)
    log_path = settings.logs / "server.log"
    # What is said before there is a log, of this start alone.
    outcry = settings.logs / "server.out"
    # Listened on from here on, so that nobody takes the port while the server is on its way.
    with _listener(kept_port(settings)) as listener:
        port = int(listener.getsockname()[1])
        address = f"http://127.0.0.1:{port}"
        with outcry.open("wb") as said:
            process = _begin_server(port, listener, said, log_path)
    _write_server(
        settings.server,
        {
            "process": process.pid,
            "port": port,
            "address": address,
            "version": __version__,
            "database": _told_apart(database),
        },
    )
    if _becomes_ready(process, address):
        settings.port.write_text(f"{port}\n")
        return address
    process.kill()
    settings.server.unlink(missing_ok=True)
    tail = [line for one in (log_path, outcry) if one.exists() for line in _last_lines(one)]
    raise Unavailable(f"The server did not come up; its log {log_path} ends with:\n" + "\n".join(tail))


def kept_port(settings: Settings) -> int | None:
    """The port that the server had last, None where there was none."""
    try:
        port = int(settings.port.read_text())
    except (OSError, ValueError):
        return None
    return port if 0 < port < 65_536 else None


def _last_lines(path: Path) -> list[str]:
    return path.read_text("utf-8", "replace").splitlines()[-5:]


def _begin_server(port: int, listener: socket.socket, said: BinaryIO, log_path: Path) -> "subprocess.Popen[bytes]":
    handed_on = listener.fileno()
    return subprocess.Popen(
        [sys.executable, "-m", "pale_harbor.cli", "serve", "--listening", str(handed_on), "--port", str(port)],
        pass_fds=[handed_on],
        cwd=ROOT,
        stdin=subprocess.DEVNULL,
        stdout=said,
        stderr=said,
        env={**os.environ, LOG_FILE: str(log_path)},
        start_new_session=True,
    )


def _becomes_ready(process: "subprocess.Popen[bytes]", address: str) -> bool:
    """Waits for the server's own word that it is ready; False where it ended or took too long."""
    # Most commands start no server, and are there sooner without it.
    import httpx  # noqa: PLC0415

    deadline = time.monotonic() + _PATIENCE_SECONDS
    # One client, without any authority's certificates: reading these takes longer than a start should wait.
    with httpx.Client(verify=ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT), trust_env=False, timeout=5) as asking:
        while time.monotonic() < deadline and process.poll() is None:
            with suppress(httpx.HTTPError, ValueError):
                health = asking.get(f"{address}/api/health").json()
                if health.get("started") and health.get("process") == process.pid:
                    return True
            time.sleep(0.05)
    return False


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
        return process if _is_server(process.cmdline(), known["port"]) else None
    except psutil.NoSuchProcess:
        return None


def _is_server(called_as: list[str], port: int) -> bool:
    return "serve" in called_as and called_as[-2:] == ["--port", str(port)]


def _write_server(path: Path, known: dict[str, Any]) -> None:
    new = path.with_suffix(".new")
    new.write_bytes(orjson.dumps(known))
    os.replace(new, path)


def _listener(kept: int | None) -> socket.socket:
    """Listens on the port that the server had last, or on the first that is free.

    Raises Unavailable where none is.
    """
    ports = range(_FIRST_PORT, _FIRST_PORT + _PORTS)
    for port in dict.fromkeys([*([] if kept is None else [kept]), *ports]):
        with suppress(OSError):
            return socket.create_server(("127.0.0.1", port), backlog=_WAITING_CALLERS)
    raise Unavailable(f"None of the ports {ports[0]} to {ports[-1]} is free.")
