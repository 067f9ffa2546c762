"""What tests stand on: a PostgreSQL cluster of their own, databases in it, and a running server."""

import fcntl
import os
import shutil
import socket
import subprocess
import tempfile
import time
from collections.abc import Callable, Generator
from contextlib import contextmanager
from itertools import count
from pathlib import Path
from typing import Any

import orjson
import psycopg
import pytest
from hypothesis import settings as hypothesis_settings
from psycopg import sql

from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.store.cluster import WORKER, Cluster
from pale_harbor.store.database import Pool, make_database, open_pool
from pale_harbor.work.workbench import Workbench
from tests.command_host import CommandHost

ROOT = Path(__file__).parents[1]

# What a test's database acknowledged outlives its own death, and need not outlive the machine's. Its hundreds of
# databases live for a moment each: nobody tidies them.
NO_FSYNC = " ".join(
    f"-c {setting}"
    for setting in ("fsync=off", "full_page_writes=off", "autovacuum=off", "checkpoint_timeout=1h", "max_wal_size=2GB")
)
_TEMPLATE = "all_tables"

# Kernels are compiled on their first call: a deadline would measure the compiler.
hypothesis_settings.register_profile("pale harbor", deadline=None, print_blob=True)
# For whoever tries many changes of the code one after another (tools/mutate.py).
hypothesis_settings.register_profile("quick", deadline=None, max_examples=15)
hypothesis_settings.load_profile("quick" if os.environ.get("HYPOTHESIS_PROFILE") == "quick" else "pale harbor")

_numbers = count(1)


# Files that take longest are begun first: whoever is done sooner takes what is short, and nobody waits at the end.
LONG = (
    "fuzzing/",
    "endurance/",
    "work/test_importing",
    "cli/test_up_and_down",
    "work/test_record_changes",
    "browser/",
    "cli/",
    "core/test_ranking",
)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Sorts files by how long they take; tests of a file stay in their order."""
    places = {name: number for number, name in enumerate(LONG)}
    items.sort(
        key=lambda item: min((place for name, place in places.items() if name in item.nodeid), default=len(LONG))
    )


def make_data_folder() -> Path:
    """A folder that the database's user may come to; pytest's own are closed to it."""
    folder = Path(tempfile.mkdtemp(prefix="paleharbor-test-"))
    folder.chmod(0o755)
    return folder


@pytest.fixture(scope="session")
def cluster() -> Generator[Cluster]:
    """A PostgreSQL cluster for this process's tests, gone at the end."""
    folder = make_data_folder()
    own = Cluster(folder / "database", NO_FSYNC)
    own.start()
    yield own
    own.stop(at_once=True)
    # Hundreds of thousands of files: nobody waits for that.
    subprocess.Popen(["rm", "-rf", str(folder)], start_new_session=True)


@pytest.fixture(scope="session")
def empty_database(cluster: Cluster) -> Callable[[], str]:
    """Makes an empty database with all its tables, copied from one that the migrations made; gives its name."""
    make_database(cluster, _TEMPLATE)

    def make() -> str:
        name = f"test_{next(_numbers)}"
        with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
            copy = sql.SQL("create database {} template {} owner {} strategy file_copy").format(
                sql.Identifier(name), sql.Identifier(_TEMPLATE), sql.Identifier(WORKER)
            )
            connection.execute(copy)
        return name

    return make


@pytest.fixture
def pool(cluster: Cluster, empty_database: Callable[[], str]) -> Generator[Pool]:
    """An empty database with all its tables."""
    with open_pool(cluster.address(empty_database())) as opened:
        yield opened


@pytest.fixture
def bench(pool: Pool, tmp_path: Path) -> Workbench:
    """A workbench on an empty database."""
    return Workbench(pool, tmp_path / "indexes")


Command = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture(scope="session")
def host() -> Generator[CommandHost]:
    """Where this process's tests have their commands carried out."""
    with CommandHost() as warm:
        yield warm


@contextmanager
def command_line(host: CommandHost, data: Path | None = None) -> Generator[Command]:
    """The command line as a user calls it, on a data folder of its own that is gone at the end.

    data: the folder, made where it is None.
    """
    folder = data or make_data_folder()
    environment = os.environ | {
        "PALEHARBOR_DATA": str(folder),
        "PALEHARBOR_DATABASE_OPTIONS": NO_FSYNC,
        "PYTHONPATH": str(ROOT),
    }

    def call(*arguments: str, text: str | None = None, person: str | None = None) -> "subprocess.CompletedProcess[str]":
        own = {} if person is None else {"PALEHARBOR_PERSON": person}
        return host.run(list(arguments), text or "", environment | own)

    call.data = folder  # pyright: ignore[reportFunctionMemberAccess]
    yield call
    call("down")
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="module")
def command(host: CommandHost) -> Generator[Command]:
    """A command line for the tests of one file."""
    with command_line(host) as call:
        yield call


def _demo_folders(run: int) -> Path:
    return Path(tempfile.gettempdir()) / f"paleharbor-demo-{run}"


def pytest_sessionfinish(session: pytest.Session) -> None:
    """Clears away the demo that a run's processes shared."""
    if "PYTEST_XDIST_WORKER" not in os.environ:
        shutil.rmtree(_demo_folders(os.getpid()), ignore_errors=True)


@pytest.fixture(scope="session")
def demo_folder(host: CommandHost, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A stopped data folder that holds the demo, made once for all processes of a test run; it is only copied."""
    shared = tmp_path_factory.getbasetemp().parent
    # Workers are children of the run that they belong to, which clears it away.
    run = os.getppid() if "PYTEST_XDIST_WORKER" in os.environ else os.getpid()
    folder = _demo_folders(run) / os.environ.get("PYTEST_XDIST_TESTRUNUID", "alone")
    with (shared / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            made = make_data_folder()
            environment = os.environ | {"PALEHARBOR_DATA": str(made), "PALEHARBOR_DATABASE_OPTIONS": NO_FSYNC}
            assert host.run(["up"], "", environment).returncode == 0
            # Whoever gets a copy finds its spaces filled, as a day later.
            deadline = time.monotonic() + 120
            while any(one["state"] != "done" for one in _spaces_of(host, environment)):
                assert time.monotonic() < deadline, "the demo's spaces are not filled"
                time.sleep(0.2)
            assert host.run(["down"], "", environment).returncode == 0
            folder.parent.mkdir(mode=0o755, exist_ok=True)
            made.rename(folder)
    return folder


def _spaces_of(host: CommandHost, environment: dict[str, str]) -> list[dict[str, Any]]:
    listed = host.run(["space", "list", "saltmere", "--json"], "", environment)
    assert listed.returncode == 0, listed.stderr
    return orjson.loads(listed.stdout)


@contextmanager
def demo_copy(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    """The command line on a data folder of its own that holds the demo already."""
    own = make_data_folder()
    # Owners too: the database's files are its user's.
    subprocess.run(["cp", "-a", f"{demo_folder}/.", str(own)], check=True)
    # Copies run beside one another.
    (own / "port").unlink(missing_ok=True)
    access = own / "database/access.json"
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    access.write_bytes(orjson.dumps(orjson.loads(access.read_bytes()) | {"port": port}))
    with command_line(host, own) as call:
        yield call


@pytest.fixture
def simple_ranker() -> RankerDocument:
    """A title and a text, read as words."""
    return ranker_document(
        {
            "readings": [
                {"field": "title", "chain": "words > lower", "weight": 2},
                {"field": "text", "chain": "words > lower > stopwords(en) > stem(en)"},
            ]
        }
    )
