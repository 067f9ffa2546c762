"""SQLite and MariaDB followed by a column of changes, through their ordinary drivers."""

import shutil
import sqlite3
import subprocess
import tempfile
import time
from collections.abc import Callable, Generator
from contextlib import closing, contextmanager
from pathlib import Path
from threading import Event
from typing import Any

import pymysql
import pytest

from pale_harbor.errors import BadInput
from pale_harbor.store.database import Pool
from pale_harbor.store.following.live.mysql import LiveMySQL
from pale_harbor.store.following.live.rows import Bounds, SourceAway, SourceRefuses
from pale_harbor.store.following.live.sqlite import LiveSQLite
from pale_harbor.work.following.connecting import catalogue, follow, keep_connection, look, reached
from pale_harbor.work.following.follower import Follower
from pale_harbor.work.running.door import Door, use_door
from tests.endurance.harbor import free_port
from tests.following.conftest import SEALING
from tests.following.test_ways import kept

TABLES = """
create table goods (id int primary key, name varchar(80) not null, price decimal(8, 2), changed datetime not null);
create table makers (id int primary key, name varchar(80));
insert into goods values (1, 'brass lamp 100%', 12.50, '2026-05-03 10:00:00'), (2, 'rope', null, '2026-05-03 10:00:01');
insert into makers values (1, 'Coyle');
"""
QUERY = "select id, name, price, changed from goods where name like '%' -- every one"
Does = Callable[[str], object]


@pytest.fixture(scope="module")
def mariadb() -> Generator[int]:
    """A MariaDB server on a port of its own."""
    folder = Path(tempfile.mkdtemp(prefix="paleharbor-test-mariadb-"))
    folder.chmod(0o755)
    data, port = folder / "data", free_port()
    subprocess.run(
        ["mariadb-install-db", "--no-defaults", f"--datadir={data}", "--auth-root-authentication-method=normal",
         "--skip-test-db", "--user=root"],
        check=True, capture_output=True,
    )  # fmt: skip
    server = subprocess.Popen(
        ["mariadbd", "--no-defaults", f"--datadir={data}", f"--socket={folder}/socket", f"--port={port}",
         "--bind-address=127.0.0.1", f"--pid-file={folder}/pid", "--user=root", "--innodb-flush-log-at-trx-commit=0"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        with closing(_as_root(folder)) as connection, connection.cursor() as cursor:
            cursor.execute("create user reader@'127.0.0.1' identified by 'only to look'")
        server.folder = folder  # pyright: ignore[reportAttributeAccessIssue]
        _FOLDER["mariadb"] = folder
        yield port
    finally:
        server.kill()
        server.wait(30)
        shutil.rmtree(folder, ignore_errors=True)


_FOLDER: dict[str, Path] = {}


def _as_root(folder: Path) -> Any:
    for _ in range(300):
        try:
            return pymysql.connect(unix_socket=str(folder / "socket"), user="root", autocommit=True)
        except pymysql.MySQLError:
            time.sleep(0.1)
    raise AssertionError("MariaDB does not come up.")


@contextmanager
def shop(kind: str, tmp_path: Path, request: pytest.FixtureRequest) -> Generator[tuple[dict[str, Any], Does]]:
    """How a shop's database is reached, and how its owner changes it."""
    if kind == "sqlite":
        path = tmp_path / "shop.db"
        with closing(sqlite3.connect(path, isolation_level=None)) as connection:
            connection.executescript(TABLES)
            yield {"kind": "sqlite", "path": str(path)}, connection.execute
        return
    port = request.getfixturevalue("mariadb")
    with closing(_as_root(_FOLDER["mariadb"])) as connection, connection.cursor() as cursor:
        cursor.execute("drop database if exists shop")
        cursor.execute("create database shop character set utf8mb4")
        cursor.execute("grant select on shop.* to reader@'127.0.0.1'")
        cursor.execute("use shop")
        for statement in TABLES.strip().rstrip(";").split(";"):
            cursor.execute(statement)
        yield (
            {"kind": "mysql", "host": "127.0.0.1", "port": port, "database": "shop", "user": "reader"},
            cursor.execute,
        )


def names(pool: Pool) -> dict[str, str]:
    with pool.connection() as connection:
        (collection_id,) = connection.execute("select id from collections").fetchone() or (0,)
    Follower(pool, SEALING, collection_id, Event(), sweeps_at_once=True).catch_up()
    return {key: one["name"] for key, one in kept(pool, collection_id).items()}


@pytest.mark.parametrize("kind", ["sqlite", "mysql"])
def test_what_changes_is_followed(kind: str, pool: Pool, tmp_path: Path, request: pytest.FixtureRequest):
    with shop(kind, tmp_path, request) as (address, does):
        keep_connection(pool, SEALING, "goods", "shop", address, "only to look")
        assert reached(pool, SEALING, "goods", "shop").kind == kind
        looked = look(pool, SEALING, "goods", "shop", QUERY, "id", [], "changed")
        assert [one.values["name"] for one in looked.rows] == ["brass lamp 100%", "rope"]
        assert [(one.way, one.by, one.is_ready) for one in looked.ways] == [("asking", "column", True)]
        assert looked.planned.lines
        follow(
            pool, SEALING, "goods",
            {"connection": "shop", "query": QUERY, "key": "id", "way": "asking", "changed_at": "changed"},
        )  # fmt: skip
        assert names(pool) == {"1": "brass lamp 100%", "2": "rope"}
        does("update goods set name = 'hemp rope', changed = '2026-05-03 10:00:05' where id = 2")
        does("insert into goods values (3, 'bell', 7, '2026-05-03 10:00:05')")
        assert names(pool) == {"1": "brass lamp 100%", "2": "hemp rope", "3": "bell"}
        # Within the overlap, and told of late.
        does("update goods set name = 'lamp', changed = '2026-05-03 09:59:30' where id = 1")
        assert names(pool)["1"] == "lamp"
        does("delete from goods where id = 3")
        assert names(pool) == {"1": "lamp", "2": "hemp rope"}


@pytest.mark.parametrize("kind", ["sqlite", "mysql"])
def test_nothing_is_written_whatever_is_asked(kind: str, tmp_path: Path, request: pytest.FixtureRequest, pool: Pool):
    with shop(kind, tmp_path, request) as (address, does):
        if kind == "mysql":
            does("grant all on shop.* to reader@'127.0.0.1'")
        keep_connection(pool, SEALING, "goods", "shop", address, "only to look")
        for sly in (
            "select 1 as id; delete from goods",
            "select 1 as id) as a; delete from goods; select * from (select 1 as id",
            "delete from goods returning id",
        ):
            with pytest.raises(BadInput):
                look(pool, SEALING, "goods", "shop", sly, "id", [], None)
        keep_connection(pool, SEALING, "goods", "shop", address, "only to look")
        looked = look(pool, SEALING, "goods", "shop", QUERY, "id", [], "changed")
        assert looked.looked_at == 2


@pytest.mark.parametrize("kind", ["sqlite", "mysql"])
def test_they_are_followed_by_a_column_of_changes_alone(
    kind: str, tmp_path: Path, request: pytest.FixtureRequest, pool: Pool
):
    with shop(kind, tmp_path, request) as (address, _):
        keep_connection(pool, SEALING, "goods", "shop", address, "only to look")
        tables = [{"name": "goods", "owners": "select {id}"}]
        with pytest.raises(SourceRefuses, match="by a column of changes alone"):
            follow(pool, SEALING, "goods", {"connection": "shop", "query": QUERY, "key": "id", "tables": tables})
        with pytest.raises(BadInput, match="is no PostgreSQL"):
            catalogue(pool, SEALING, "goods", "shop")


@pytest.mark.parametrize("kind", ["sqlite", "mysql"])
def test_a_search_of_theirs_is_asked_with_the_query_as_one_value(
    kind: str, tmp_path: Path, request: pytest.FixtureRequest
):
    with shop(kind, tmp_path, request) as (address, _):
        live = (
            LiveSQLite(Path(address["path"]))
            if kind == "sqlite"
            else LiveMySQL("127.0.0.1", address["port"], "shop", "reader", "only to look")
        )
        with live:
            statement = "select id from goods where name like concat('%', {query}, '%') order by id desc"
            if kind == "sqlite":
                statement = "select id from goods where name like '%' || {query} || '%' order by id desc"
            assert live.ranked(statement, "r", 10) == [(2,), (1,)]
            assert live.ranked(statement, "r", 1) == [(2,)]
            assert live.ranked(statement, "' or 1=1 --", 10) == []


def test_a_question_to_sqlite_has_its_time(tmp_path: Path, request: pytest.FixtureRequest):
    with (
        shop("sqlite", tmp_path, request) as (address, _),
        LiveSQLite(Path(address["path"]), Bounds(statement_s=0.2)) as live,
    ):
        endless = "with recursive n(i) as (select 1 union all select i + 1 from n) select max(i) as id from n"
        with pytest.raises(SourceRefuses, match="longer to answer"):
            list(live.rows(endless, "id"))


def test_another_file_is_not_attached(tmp_path: Path, request: pytest.FixtureRequest):
    with shop("sqlite", tmp_path, request) as (address, _), LiveSQLite(Path(address["path"])) as live:
        with pytest.raises(SourceRefuses):
            live.ranked(f"attach '{tmp_path}/other.db' as other --{{query}}", "x", 1)
        with pytest.raises(SourceRefuses):
            live.ranked("select load_extension({query})", "x", 1)


def test_a_file_that_is_not_there_is_told(tmp_path: Path):
    with pytest.raises(SourceAway, match="There is no file"):
        LiveSQLite(tmp_path / "nowhere.db")
    (tmp_path / "text.db").write_text("no database " * 100)
    with pytest.raises(SourceRefuses, match="cannot be read"):
        LiveSQLite(tmp_path / "text.db")


def test_files_are_read_only_where_nobody_else_reaches_the_server(pool: Pool, tmp_path: Path):
    keep_connection(pool, SEALING, "goods", "shop", {"kind": "sqlite", "path": str(tmp_path / "shop.db")}, None)
    use_door(Door(()))
    try:
        with pytest.raises(BadInput, match="nobody but who is at that machine"):
            reached(pool, SEALING, "goods", "shop")
    finally:
        use_door(Door())
