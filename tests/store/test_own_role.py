"""Who works in the own cluster owns one database, and may nothing beyond it."""

from collections.abc import Generator
from itertools import count
from pathlib import Path

import psycopg
import pytest
from psycopg import sql
from psycopg.conninfo import conninfo_to_dict

from pale_harbor.store.cluster import KEEPER, WORKER, Cluster
from pale_harbor.store.database import known_migrations, make_database, migrate, open_pool
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

_numbers = count(1)


@pytest.fixture
def of_an_older_version(cluster: Cluster) -> Generator[str]:
    """The name of a database with all its tables that the keeper owns, as versions made it that had no other role."""
    name = f"older_{next(_numbers)}"
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
        connection.execute(sql.SQL("create database {}").format(sql.Identifier(name)))
    with psycopg.connect(cluster.keepers_address(name)) as connection:
        migrate(connection)
    yield name
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
        connection.execute(sql.SQL("drop database {} with (force)").format(sql.Identifier(name)))


def test_it_may_nothing_that_a_superuser_may(cluster: Cluster):
    make_database(cluster, "modest")
    with psycopg.connect(cluster.address("modest"), autocommit=True) as connection:
        rights = connection.execute(
            "select rolsuper, rolcreatedb, rolcreaterole, rolreplication, rolbypassrls from pg_roles "
            "where rolname = current_user"
        ).fetchone()
        assert rights == (False,) * 5
        for reaching_out in (
            "copy migrations to program 'true'",
            "copy migrations to '/tmp/out'",
            "select lo_import('/etc/hostname')",
            "select pg_read_file('/etc/hostname')",
            "create database another",
            "create role another",
            f"alter role {KEEPER} password 'mine'",
        ):
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute(reaching_out)


def test_its_password_does_not_give_the_keepers_away(cluster: Cluster):
    worker = conninfo_to_dict(cluster.address("modest"))
    keeper = conninfo_to_dict(cluster.keepers_address())
    assert (worker["user"], keeper["user"]) == (WORKER, KEEPER)
    assert worker["password"] != keeper["password"]
    with pytest.raises(psycopg.OperationalError, match="password authentication failed"):
        psycopg.connect(cluster.keepers_address().replace(str(keeper["password"]), str(worker["password"])))


def test_what_an_older_version_made_is_handed_over_once(cluster: Cluster, of_an_older_version: str, tmp_path: Path):
    address = cluster.address(of_an_older_version)
    with psycopg.connect(cluster.keepers_address(of_an_older_version)) as connection:
        connection.execute("create view lamps as select name from migrations")
    make_database(cluster, of_an_older_version)
    make_database(cluster, of_an_older_version)
    with psycopg.connect(address) as connection:
        owners = connection.execute(
            "select distinct rolname from pg_class join pg_roles on pg_roles.oid = relowner "
            "where relnamespace = 'public'::regnamespace and relkind in ('r', 'v', 'S', 'i') "
            "union select rolname from pg_proc join pg_roles on pg_roles.oid = proowner "
            "where pronamespace = 'public'::regnamespace "
            "union select rolname from pg_database join pg_roles on pg_roles.oid = datdba "
            "where datname = current_database()"
        ).fetchall()
        assert owners == [(WORKER,)]
        assert connection.execute("select count(*) from lamps").fetchone() == (len(known_migrations()),)
        # As the migrations to come will.
        connection.execute("alter table collections add column harbour text")
        connection.execute("create table quays (name text)")
        connection.rollback()
    with open_pool(address) as pool:
        load_rows(pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
        assert [one.name for one in Workbench(pool, tmp_path / "indexes").collections()] == ["coast"]
