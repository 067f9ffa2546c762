"""A PostgreSQL that is there already: a schema of its own, by a role that may nothing more than it needs."""

from collections.abc import Callable
from itertools import count
from pathlib import Path

import psycopg
import pytest
from psycopg import sql
from psycopg.conninfo import make_conninfo

from pale_harbor.errors import Unavailable
from pale_harbor.store import database
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import SCHEMA, open_pool, serving_alone, use_database
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

_numbers = count(1)


@pytest.fixture
def theirs(cluster: Cluster) -> Callable[..., str]:
    """Makes an empty database of somebody's and a role that may connect, and make a schema there if told so."""

    def make(*, may_make: bool) -> str:
        name = f"theirs_{next(_numbers)}"
        with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
            own = sql.Identifier(name)
            connection.execute(sql.SQL("create role {} login password 'ropes' nosuperuser").format(own))
            connection.execute(sql.SQL("create database {}").format(own))
            if may_make:
                connection.execute(sql.SQL("grant create on database {} to {}").format(own, own))
        return make_conninfo(cluster.address(name), user=name, password="ropes")

    return make


def test_everything_stands_in_a_schema_of_its_own(theirs: Callable[..., str], tmp_path: Path):
    address = use_database(theirs(may_make=True))
    # The second time there is nothing to do.
    assert use_database(address) == address
    with open_pool(address) as pool:
        bench = Workbench(pool, tmp_path / "indexes")
        load_rows(pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
        assert [one.name for one in bench.collections()] == ["coast"]
        with pool.connection() as connection:
            schemas = {row[0] for row in connection.execute("select schemaname from pg_tables where tableowner = user")}
        assert schemas == {SCHEMA}


def test_a_role_that_may_not_is_told_what_it_needs(theirs: Callable[..., str]):
    with pytest.raises(Unavailable, match=r"own the schema .pale_harbor., or be allowed to make it"):
        use_database(theirs(may_make=False))


def test_what_is_no_address_and_what_does_not_answer_are_told_of(theirs: Callable[..., str]):
    with pytest.raises(Unavailable, match="is no address of a database"):
        use_database("harbor = ropes and lamps")
    with pytest.raises(Unavailable, match="does not answer"):
        use_database(make_conninfo(theirs(may_make=True), password="another"))


def test_an_older_postgresql_is_refused_by_its_number(theirs: Callable[..., str], monkeypatch: pytest.MonkeyPatch):
    address = theirs(may_make=True)
    with psycopg.connect(address) as connection:
        version = connection.info.server_version // 10_000
    monkeypatch.setattr(database, "LEAST_VERSION", version + 1)
    with pytest.raises(Unavailable, match=f"PostgreSQL {version + 1} or newer is needed; the database's is {version}"):
        use_database(address)
    monkeypatch.setattr(database, "LEAST_VERSION", version)
    use_database(address)


def test_a_second_server_on_the_same_data_is_refused(theirs: Callable[..., str], cluster: Cluster):
    address = use_database(theirs(may_make=True))
    with serving_alone(address):
        with pytest.raises(Unavailable, match="Another server works on this data already"), serving_alone(address, 0.0):
            pass
        # Another schema of the same database is other data.
        with serving_alone(make_conninfo(address, options="-c search_path=pg_catalog"), 0.0):
            pass
    with serving_alone(address, 0.0):
        pass


def test_whoever_must_not_change_the_tables_works_on_those_of_this_version_alone(theirs: Callable[..., str]):
    given = theirs(may_make=True)
    with open_pool(database.connection_string(given)) as pool, pytest.raises(Unavailable, match="not those of this"):
        # Nothing was made yet.
        database.refuse_other_tables(pool)
    with open_pool(use_database(given)) as pool:
        database.refuse_other_tables(pool)
        with pool.connection() as connection:
            connection.execute("insert into migrations values ('9000_sails.sql')")
        with pytest.raises(Unavailable, match="brings them up to date"):
            database.refuse_other_tables(pool)
        with pool.connection() as connection:
            connection.execute("delete from migrations where name in ('9000_sails.sql', '0021_people.sql')")
        with pytest.raises(Unavailable, match="brings them up to date"):
            database.refuse_other_tables(pool)
