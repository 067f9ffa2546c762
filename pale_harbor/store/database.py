"""Connections to PostgreSQL, and the numbered migrations that make its tables."""

from collections.abc import Generator
from contextlib import contextmanager
from importlib import import_module, resources
from time import monotonic, sleep
from typing import Any, Final, LiteralString, cast
from weakref import WeakKeyDictionary

import orjson
import psycopg
import structlog
from psycopg import Connection, OperationalError, sql
from psycopg.conninfo import make_conninfo
from psycopg.types.json import set_json_dumps, set_json_loads
from psycopg_pool import ConnectionPool, PoolTimeout

from pale_harbor.errors import Unavailable
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.own_role import hand_over
from pale_harbor.store.people.acting import acting_for, acting_person

set_json_dumps(orjson.dumps)
set_json_loads(orjson.loads)

Pool = ConnectionPool[Connection[tuple[Any, ...]]]


class _ActingPool(ConnectionPool[Connection[tuple[Any, ...]]]):
    """Tells each transaction for whom it is, so that what is kept says by whom."""

    @contextmanager
    def connection(self, timeout: float | None = None) -> Generator[Connection[tuple[Any, ...]]]:
        with super().connection(timeout) as connection:
            person = acting_person()
            if person is not None:
                _tell_person(connection, person)
            yield connection


def _tell_person(connection: Connection[Any], person: int) -> None:
    connection.execute("select set_config('pale_harbor.person', %s, true)", [str(person)])


SECONDS_FOR_A_CONNECTION: Final = 8.0
_SECONDS_UNCHECKED: Final = 1.0
_CHECKED: "WeakKeyDictionary[Connection[Any], float]" = WeakKeyDictionary()
# Any number of our own: whoever holds this lock is migrating.
_MIGRATING = 7_301_946_258
_SERVING: Final = 730_194
# In a database that is there already.
SCHEMA: Final = "pale_harbor"
LEAST_VERSION: Final = 14

# What a migration does that SQL cannot, right after its script.
_AFTER: Final = {"0007_present_words.sql": "pale_harbor.store.rewriting:rewrite_kept_documents"}


def open_pool(address: str) -> Pool:
    """A pool of connections to the database at an address (a libpq connection string).

    Raises Unavailable where nobody answers.
    """
    pool: Pool = _ActingPool(
        address,
        min_size=1,
        max_size=16,
        # A database that is gone is told of before a person gives up waiting.
        timeout=SECONDS_FOR_A_CONNECTION,
        open=False,
        # A connection that died with a restarted database is replaced before anyone is handed it.
        check=_check_if_idle,
    )
    try:
        pool.open(wait=True, timeout=15)
    except (OperationalError, PoolTimeout) as error:
        pool.close()
        raise Unavailable("The database does not answer. Start it with ./paleharbor up.") from error
    return pool


def make_database(cluster: Cluster, name: str) -> None:
    """Makes the database where it is missing, and applies the migrations that it lacks."""
    hand_over(cluster, name)
    with psycopg.connect(cluster.address(name)) as connection:
        migrate(connection)


def use_database(address: str) -> str:
    """Brings the tables up to date in a database that is there already, in a schema of their own.

    address: a libpq connection string or URL. Gives the one to connect by from then on. Raises Unavailable.
    """
    own = connection_string(address)
    try:
        with psycopg.connect(own, connect_timeout=10) as connection:
            if connection.info.server_version < LEAST_VERSION * 10_000:
                found = connection.info.server_version // 10_000
                raise Unavailable(f"PostgreSQL {LEAST_VERSION} or newer is needed; the database's is {found}.")
            there = connection.execute("select to_regnamespace(%s) is not null", [SCHEMA]).fetchone()
            if there != (True,):
                connection.execute(sql.SQL("create schema {}").format(sql.Identifier(SCHEMA)))
            migrate(connection)
    except psycopg.errors.InsufficientPrivilege as error:
        raise Unavailable(
            f"The database refuses: {str(error).splitlines()[0]}. The role that Pale Harbor comes as has to own the "
            f'schema "{SCHEMA}", or be allowed to make it (CREATE on the database).'
        ) from error
    except psycopg.OperationalError as error:
        raise Unavailable(
            f"The database that the settings name does not answer: {str(error).splitlines()[0]}"
        ) from error
    return own


def connection_string(address: str) -> str:
    """How our schema is come by in a database that is there already. Raises Unavailable where it is no address."""
    try:
        return make_conninfo(address, options=f"-c search_path={SCHEMA}", application_name="pale harbor")
    except psycopg.ProgrammingError as error:
        raise Unavailable(f'The setting "database" is no address of a database: {error}') from error


def refuse_other_tables(pool: Pool) -> None:
    """Raises Unavailable where the tables are not those of this version, for whoever must not change them."""
    with pool.connection() as connection:
        there = connection.execute("select to_regclass('migrations') is not null").fetchone()
        applied = [] if there != (True,) else connection.execute("select name from migrations order by name").fetchall()
    if [name for (name,) in applied] != known_migrations():
        raise Unavailable(
            "The tables are not those of this version of Pale Harbor. Start the server that changes things first: it "
            "brings them up to date."
        )


@contextmanager
def serving_alone(address: str, patience_s: float = 10.0) -> Generator[None]:
    """Holds what a single server may hold that changes this data, until the `with` ends. Raises as `held_alone`."""
    with held_alone(address, patience_s):
        yield


def held_alone(address: str, patience_s: float = 10.0) -> Connection[Any]:
    """The connection that holds what a single server may hold that changes this data, as long as it is open.

    patience_s: a server that was killed may hold it a moment longer. Raises Unavailable where another one holds it,
    OperationalError where the database does not answer.
    """
    until = monotonic() + patience_s
    holder = psycopg.connect(address, autocommit=True)
    try:
        while not _has(holder, _SERVING):
            if monotonic() >= until:
                raise Unavailable(
                    "Another server works on this data already. Stop it first, or name other data for this one."
                )
            sleep(0.2)
    except BaseException:
        holder.close()
        raise
    return holder


def _has(connection: Connection[Any], lock: int) -> bool:
    # Of this schema alone: another one in the same database is other data.
    row = connection.execute("select pg_try_advisory_lock(%s, hashtext(current_schema()))", [lock]).fetchone()
    return row is not None and bool(row[0])


def answers(address: str, seconds: int) -> None:
    """Asks the database for a sign of life, on a connection of its own. Raises OperationalError where there is none."""
    with psycopg.connect(address, connect_timeout=seconds, options=f"-c statement_timeout={1000 * seconds}") as own:
        own.execute("select 1")


def _check_if_idle(connection: Connection[Any]) -> None:
    """Checks a connection that nobody used for a moment: a page asks for several things at once, each checked once."""
    now = monotonic()
    if now - _CHECKED.get(connection, 0.0) >= _SECONDS_UNCHECKED:
        ConnectionPool.check_connection(connection)
        _CHECKED[connection] = now


def migrate(connection: Connection[Any]) -> list[str]:
    """Applies the migrations that are missing, each in full or not at all; returns their names.

    Raises Unavailable where a newer version has applied others.
    """
    applied = apply_migrations(connection)
    connection.commit()
    return applied


def known_migrations() -> list[str]:
    """The names of all migrations of this version, in their order."""
    folder = resources.files("pale_harbor.store") / "migrations"
    return sorted(file.name for file in folder.iterdir() if file.name.endswith(".sql"))


def apply_migrations(connection: Connection[Any], last: str | None = None) -> list[str]:
    """Applies the migrations that are missing within the transaction; returns their names.

    last: no later one than this. Raises Unavailable where a newer version has applied others.
    """
    connection.execute("select pg_advisory_xact_lock(%s)", [_MIGRATING])
    connection.execute(
        """
        create table if not exists migrations (
            name text primary key,
            applied_at timestamptz not null default now()
        )
        """
    )
    applied = {name for (name,) in connection.execute("select name from migrations order by name")}
    folder = resources.files("pale_harbor.store") / "migrations"
    known = known_migrations()
    if newer := sorted(applied.difference(known)):
        raise Unavailable(
            f"This data was used by a newer version of Pale Harbor, which changed its tables ({newer[-1]}). Start that "
            "version, or name another data folder in PALEHARBOR_DATA: this version would spoil it."
        )
    missing = [name for name in known if name not in applied and (last is None or name <= last)]
    for name in missing:
        script = (folder / name).read_text("utf-8")
        # The script is a file of this package, as literal as any statement in the code.
        connection.execute(cast(LiteralString, script))
        if name in _AFTER:
            # Loaded where it is needed: it reads chains, and most commands do not.
            module, function = _AFTER[name].split(":")
            getattr(import_module(module), function)(connection)
        connection.execute("insert into migrations (name) values (%s)", [name])
        structlog.get_logger().info("migrated", migration=name)
    return missing


@contextmanager
def for_one_statement(pool: Pool) -> Generator[Connection[tuple[Any, ...]]]:
    """A connection for a single statement: nothing is said to the database to begin and to end a transaction."""
    # Nor for whom it is: a single statement looks.
    with acting_for(None), pool.connection() as connection:
        connection.autocommit = True
        try:
            yield connection
        finally:
            # One that broke has nothing to be set back; what broke it is told instead.
            if not connection.closed:
                connection.autocommit = False


def in_one_state(connection: Connection[Any]) -> None:
    """Makes the rest of the transaction see the database as it is now. Must come first in it."""
    person = acting_person()
    if person is not None:
        # For whom it is was said first, and nothing else: it is begun anew.
        connection.rollback()
    connection.execute("set transaction isolation level repeatable read")
    if person is not None:
        _tell_person(connection, person)
