"""What tests stand on: a PostgreSQL cluster of their own, databases in it, and a running server."""

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Generator
from contextlib import contextmanager
from itertools import count
from pathlib import Path

import pytest
from hypothesis import settings as hypothesis_settings

from pale_harbor.formats.ranker_document import RankerDocument, ranker_document
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import Pool, open_pool
from pale_harbor.work.serving import make_database
from pale_harbor.work.workbench import Workbench

ROOT = Path(__file__).parents[1]

# Kernels are compiled on their first call: a deadline would measure the compiler.
hypothesis_settings.register_profile("pale harbor", deadline=None, print_blob=True)
hypothesis_settings.load_profile("pale harbor")

_numbers = count(1)


def make_data_folder() -> Path:
    """A folder that the database's user may come to; pytest's own are closed to it."""
    folder = Path(tempfile.mkdtemp(prefix="paleharbor-test-"))
    folder.chmod(0o755)
    return folder


@pytest.fixture(scope="session")
def cluster() -> Generator[Cluster]:
    """A PostgreSQL cluster for this process's tests, gone at the end."""
    folder = make_data_folder()
    own = Cluster(folder / "database")
    own.start()
    yield own
    own.stop()
    shutil.rmtree(folder)


@pytest.fixture
def pool(cluster: Cluster) -> Generator[Pool]:
    """An empty database with all its tables."""
    name = f"test_{next(_numbers)}"
    make_database(cluster, name)
    with open_pool(cluster.address(name)) as opened:
        yield opened


@pytest.fixture
def bench(pool: Pool, tmp_path: Path) -> Workbench:
    """A workbench on an empty database."""
    return Workbench(pool, tmp_path / "indexes")


Command = Callable[..., "subprocess.CompletedProcess[str]"]


@contextmanager
def command_line() -> Generator[Command]:
    """The command line as a user calls it, on a data folder of its own that is gone at the end."""
    data = make_data_folder()
    environment = os.environ | {"PALEHARBOR_DATA": str(data), "PYTHONPATH": str(ROOT)}

    def call(*arguments: str, text: str | None = None) -> "subprocess.CompletedProcess[str]":
        return subprocess.run(
            [sys.executable, "-m", "pale_harbor.cli", *arguments],
            input=text if text is not None else "",
            capture_output=True,
            text=True,
            encoding="utf-8",
            env=environment,
            cwd=ROOT,
            check=False,
            timeout=240,
        )

    call.data = data  # pyright: ignore[reportFunctionMemberAccess]
    yield call
    call("down")
    shutil.rmtree(data, ignore_errors=True)


@pytest.fixture(scope="module")
def command() -> Generator[Command]:
    """A command line for the tests of one file."""
    with command_line() as call:
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
