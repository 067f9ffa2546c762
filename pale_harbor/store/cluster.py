"""The project's own PostgreSQL: a cluster in the data folder, on loopback, with its own port.

It is never the system's cluster. PostgreSQL refuses to run as root: there it runs as the user
`postgres`, that Debian's package makes.
"""

import errno
import hmac
import os
import pwd
import re
import secrets
import shutil
import socket
import subprocess
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final

import orjson

from pale_harbor.errors import Unavailable

# Who keeps the cluster, a superuser, and who works in its database, who is none.
KEEPER: Final = "paleharbor"
WORKER: Final = "paleharbor_worker"
_DEBIAN: Final = Path("/usr/lib/postgresql")
_ADDRESS: Final = "127.0.0.1"
_UNPRIVILEGED: Final = "postgres"


class Cluster:
    """A PostgreSQL cluster in a folder of its own. options: for its server, as postgres takes them."""

    def __init__(self, folder: Path, options: str = "") -> None:
        self.folder = folder
        self.options = options
        self.files = folder / "cluster"
        self.access = folder / "access.json"

    def address(self, database: str) -> str:
        """The libpq connection string of who works in a database. Raises Unavailable where there is no cluster yet."""
        return self._address(WORKER, self.workers_password(), database)

    def keepers_address(self, database: str = "postgres") -> str:
        """The same of who may do everything in the cluster: to make a database, and hand it over."""
        return self._address(KEEPER, str(self._access()["password"]), database)

    def workers_password(self) -> str:
        """Made of the keeper's, which it does not give away. Raises Unavailable where there is no cluster yet."""
        return hmac.digest(str(self._access()["password"]).encode(), WORKER.encode(), "sha256").hex()

    def _address(self, role: str, password: str, database: str) -> str:
        return f"host={_ADDRESS} port={self._access()['port']} user={role} password={password} dbname={database}"

    def _access(self) -> dict[str, Any]:
        try:
            return orjson.loads(self.access.read_bytes())
        except OSError as error:
            raise Unavailable("There is no database yet. Start with ./paleharbor up.") from error

    def running(self) -> bool:
        """Whether the cluster's server is running."""
        return self.files.exists() and self._run(["pg_ctl", "status", "-D", str(self.files)]).returncode == 0

    def start(self) -> None:
        """Starts the cluster, made first where there is none. Raises Unavailable."""
        finish_taking_place(self.folder)
        if not self.access.exists():
            self._make()
        if self.running():
            return
        access = self._access()
        if not _free(access["port"]):
            access["port"] = _free_port()
            self._write_access(access)
        log = self.folder / "postgresql.log"
        before = log.stat().st_size if log.exists() else 0
        options = f"-p {access['port']} -c listen_addresses={_ADDRESS} -c unix_socket_directories='' {self.options}"
        started = self._run(["pg_ctl", "start", "-w", "-t", "60", "-D", str(self.files), "-l", str(log), "-o", options])
        if started.returncode != 0:
            # Of this start alone: what went wrong before it may be mended.
            said = log.read_bytes()[before:].decode("utf-8", "replace").splitlines() if log.exists() else []
            if any(os.strerror(errno.ENOSPC) in line for line in said):
                raise Unavailable(
                    f"PostgreSQL did not start: there is no room left on the disk of {self.folder}. Make room, and "
                    "start again; what was kept before is all there."
                )
            raise Unavailable("PostgreSQL did not start:\n" + "\n".join(said[-3:] or [started.stderr.strip()]))

    def stop(self, *, at_once: bool = False) -> None:
        """Stops the cluster's server if it is running. at_once: without writing down what its log holds already."""
        if self.running():
            how = "immediate" if at_once else "fast"
            self._run(["pg_ctl", "stop", "-w", "-t", "60", "-m", how, "-D", str(self.files)])

    def _make(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        self._hand_over(self.folder)
        if self.files.exists():
            # Left by a start that was cut off before it was ever used.
            shutil.rmtree(self.files)
        password = secrets.token_urlsafe(24)
        password_file = self.folder / "password"
        password_file.touch(mode=0o600)
        password_file.write_text(password)
        self._hand_over(password_file)
        try:
            made = self._run(
                [
                    *("initdb", "-D", str(self.files), "-U", KEEPER, "--encoding=UTF8", "--locale=C"),
                    *("--auth=scram-sha-256", f"--pwfile={password_file}"),
                ]
            )
        finally:
            password_file.unlink(missing_ok=True)
        if made.returncode != 0:
            raise Unavailable(f"PostgreSQL could not make its cluster in {self.files}:\n{made.stderr.strip()}")
        self._write_access({"port": _free_port(), "password": password})

    def version(self) -> int | None:
        """The major version of PostgreSQL that made the cluster, None where there is none yet."""
        try:
            return int((self.files / "PG_VERSION").read_text())
        except (OSError, ValueError):
            return None

    def _write_access(self, access: dict[str, object]) -> None:
        new = self.access.with_suffix(".new")
        new.touch(mode=0o600)
        new.write_bytes(orjson.dumps(access))
        new.replace(self.access)

    def _hand_over(self, path: Path) -> None:
        if os.geteuid() == 0:
            shutil.chown(path, _UNPRIVILEGED, _UNPRIVILEGED)

    def _run(self, command: Sequence[str]) -> "subprocess.CompletedProcess[str]":
        program = str(_programs(self.version()) / command[0])
        as_user = ["runuser", "-u", _UNPRIVILEGED, "--"] if os.geteuid() == 0 else []
        environment = {name: value for name, value in os.environ.items() if not name.startswith("PG")}
        # Output goes to a file, not a pipe: the server would inherit the pipe and hold it open.
        with (Path(os.devnull)).open("w") as nowhere:
            quiet = command[0] == "pg_ctl" and command[1] == "start"
            return subprocess.run(
                [*as_user, program, *command[1:]],
                cwd="/",
                env=environment,
                text=True,
                check=False,
                stdin=subprocess.DEVNULL,
                stdout=nowhere if quiet else subprocess.PIPE,
                stderr=subprocess.STDOUT if quiet else subprocess.PIPE,
            )


def take_place(folder: Path, new: Path, aside: Path) -> None:
    """Puts a stopped cluster's folder where another stopped one is, which goes aside.

    A start finishes what was cut off.
    """
    noted = _taking_place(folder)
    unfinished = noted.with_suffix(".new")
    unfinished.write_bytes(orjson.dumps({"new": str(new), "aside": str(aside)}))
    unfinished.replace(noted)
    finish_taking_place(folder)


def finish_taking_place(folder: Path) -> None:
    """Ends what `take_place` began and a crash cut off."""
    noted = _taking_place(folder)
    if not noted.exists():
        return
    places = orjson.loads(noted.read_bytes())
    new = Path(places["new"])
    if new.exists():
        if folder.exists():
            folder.rename(places["aside"])
        new.rename(folder)
    noted.unlink()


def _taking_place(folder: Path) -> Path:
    return folder.with_name(f"{folder.name}-taking-place.json")


def reachable_by_database(folder: Path) -> bool:
    """Whether the user that PostgreSQL runs as may come to a folder (or to where it will be)."""
    if os.geteuid() != 0:
        return True
    try:
        user = pwd.getpwnam(_UNPRIVILEGED)
    except KeyError:
        return True
    existing = next(parent for parent in (folder, *folder.parents) if parent.exists())
    asked = subprocess.run(
        ["runuser", "-u", user.pw_name, "--", "test", "-x", str(existing)],
        check=False,
        cwd="/",
        capture_output=True,
    )
    return asked.returncode == 0


def _programs(version: int | None) -> Path:
    """The folder of the server's programs, of the version that made the cluster, else of the newest there is.

    Raises Unavailable where there is none of them.
    """
    there = programs_there()
    if not there:
        raise Unavailable("PostgreSQL is not installed. On Debian: sudo apt-get install postgresql")
    if version is None:
        return there[max(there)]
    if version not in there:
        others = " and ".join(str(one) for one in sorted(there))
        raise Unavailable(
            f"The database was made by PostgreSQL {version}, and here is {others}, which cannot read its files. "
            f"Install the programs of version {version} beside it (on Debian: sudo apt-get install "
            f"postgresql-{version}); both may be there. Then ./paleharbor upgrade moves it to the newer one."
        )
    return there[version]


def programs_there() -> dict[int, Path]:
    """The folders of PostgreSQL's programs by major version. Debian keeps them apart."""
    found = {int(one.parent.parent.name): one.parent for one in _DEBIAN.glob("*/bin/initdb")}
    on_path = shutil.which("initdb")
    if found or on_path is None:
        return found
    said = subprocess.run([on_path, "--version"], check=False, capture_output=True, text=True).stdout
    version = re.search(r"(\d+)", said)
    return {} if version is None else {int(version[1]): Path(on_path).parent}


def _free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((_ADDRESS, port))
        except OSError:
            return False
        return True


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind((_ADDRESS, 0))
        return int(probe.getsockname()[1])
