"""The cluster: made once, on loopback, found again, never in anybody's way."""

import shutil
import socket
import subprocess
from collections.abc import Generator
from pathlib import Path

import orjson
import psycopg
import pytest

from pale_harbor.errors import Unavailable
from pale_harbor.store import cluster as cluster_room
from pale_harbor.store.cluster import Cluster, programs_there, reachable_by_database
from tests.conftest import make_data_folder


@pytest.fixture(scope="module")
def own() -> Generator[Cluster]:
    """A cluster of this file's own, in a folder whose name has a blank and an umlaut."""
    folder = make_data_folder()
    cluster = Cluster(folder / "a harbör" / "database")
    cluster.start()
    yield cluster
    cluster.stop()
    shutil.rmtree(folder)


def answers(cluster: Cluster) -> bool:
    try:
        with psycopg.connect(cluster.keepers_address()) as connection:
            return connection.execute("select 1").fetchone() == (1,)
    except psycopg.OperationalError:
        return False


def test_starting_twice_is_starting_once(own: Cluster):
    before = own.keepers_address()
    own.start()
    assert own.keepers_address() == before
    assert answers(own)


def test_it_listens_on_loopback_only_and_wants_its_password(own: Cluster):
    with psycopg.connect(own.keepers_address()) as connection:
        listening = connection.execute("show listen_addresses").fetchone()
        sockets = connection.execute("show unix_socket_directories").fetchone()
    assert (listening, sockets) == (("127.0.0.1",), ("",))
    with pytest.raises(psycopg.OperationalError, match="password authentication failed"):
        psycopg.connect(own.keepers_address().replace("password=", "password=x"))


def test_its_password_is_for_its_owners_eyes_only(own: Cluster):
    assert own.access.stat().st_mode & 0o077 == 0


def test_keys_are_ordered_by_code_point(own: Cluster):
    with psycopg.connect(own.keepers_address()) as connection:
        rows = connection.execute("select k from unnest(array['b', 'Z', 'é', 'a']) as k order by k").fetchall()
    assert [key for (key,) in rows] == ["Z", "a", "b", "é"]


def test_a_port_that_somebody_took_is_left_to_them(own: Cluster):
    own.stop()
    assert not own.running()
    taken = orjson.loads(own.access.read_bytes())["port"]
    with socket.socket() as somebody:
        somebody.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        somebody.bind(("127.0.0.1", taken))
        somebody.listen()
        own.start()
        assert orjson.loads(own.access.read_bytes())["port"] != taken
        assert answers(own)


def test_what_a_cut_off_start_left_is_replaced(own: Cluster):
    half = Cluster(own.folder.parent / "half")
    half.files.mkdir(parents=True)
    (half.files / "PG_VERSION").write_text("15\n")
    half.start()
    try:
        assert answers(half)
    finally:
        half.stop()


@pytest.mark.parametrize(
    ("said", "told"),
    [
        (
            'PANIC:  could not write to file "pg_wal/xlogtemp.31": No space left on device',
            r"there is no room left on the disk of .*\. Make room, and start again; what was kept before is all there",
        ),
        ("FATAL:  lock file is broken", r"did not start:\nFATAL:  lock file is broken$"),
    ],
)
def test_a_start_that_goes_wrong_says_why(
    own: Cluster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, said: str, told: str
):
    broken = Cluster(tmp_path / "database")
    broken.folder.mkdir()
    broken.access.write_bytes(own.access.read_bytes())
    log = broken.folder / "postgresql.log"
    log.write_text("PANIC:  No space left on device, a year ago\n")

    def run(command: list[str]) -> "subprocess.CompletedProcess[str]":
        log.write_text(f"{log.read_text()}{said}\n")
        return subprocess.CompletedProcess(command, 1, "", "")

    monkeypatch.setattr(broken, "_run", run)
    with pytest.raises(Unavailable, match=told):
        broken.start()


def test_a_cluster_that_was_never_made_says_what_to_do(tmp_path: Path):
    with pytest.raises(Unavailable, match=r"Start with \./paleharbor up"):
        Cluster(tmp_path).keepers_address()
    assert not Cluster(tmp_path).running()


def test_a_folder_that_is_not_there_yet_is_judged_by_its_parents():
    folder = make_data_folder()
    assert reachable_by_database(folder / "not" / "there" / "yet")
    folder.rmdir()


def test_files_of_another_version_are_told_of_in_words(tmp_path: Path):
    cluster = Cluster(tmp_path / "database")
    cluster.files.mkdir(parents=True)
    cluster.access.write_text('{"port": 5432, "password": "x"}')
    (cluster.files / "PG_VERSION").write_text("9\n")
    with pytest.raises(Unavailable) as told:
        cluster.start()
    there = " and ".join(str(one) for one in sorted(programs_there()))
    assert str(told.value) == (
        f"The database was made by PostgreSQL 9, and here is {there}, which cannot read its files. Install the "
        "programs of version 9 beside it (on Debian: sudo apt-get install postgresql-9); both may be there. "
        "Then ./paleharbor upgrade moves it to the newer one."
    )


def test_the_version_that_made_the_files_is_taken_before_a_newer_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    for version in (15, 9, 17):
        (tmp_path / f"{version}/bin").mkdir(parents=True)
        (tmp_path / f"{version}/bin/initdb").touch()
    monkeypatch.setattr(cluster_room, "_DEBIAN", tmp_path)
    assert {version: cluster_room._programs(version).parent.name for version in (9, 15, 17)} == {  # pyright: ignore
        9: "9",
        15: "15",
        17: "17",
    }
    assert cluster_room._programs(None).parent.name == "17"  # pyright: ignore
