"""Following by triggers: the database notes in a table of its own what changed, until it is kept here.

What is noted stays until it is taken away, by the numbers it was read under: nothing is passed over, in whatever order
transactions end, and nothing is lost while nobody listens. Whoever is waited for is woken; a transaction wakes nobody
while changes are being read anyway, since to wake somebody makes commits wait for each other.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import Any, Final, LiteralString, cast

import orjson
import psycopg
from psycopg import Connection, sql

from pale_harbor.store.following.live.owners import KnownTable
from pale_harbor.store.following.live.postgresql import LivePostgreSQL, told
from pale_harbor.store.following.live.rows import SourceRefuses, Unheard

_CHANGES_AT_ONCE: Final = 5_000
# Any number of our own; with the hash of the queue's name the lock of whoever waits to be woken.
_WAITING: Final = 7_302


@dataclass(frozen=True, slots=True)
class Noted:
    """Changes as they were noted. ids: their numbers; rows: of each table, by its place, what tells whose rows they
    are; whole: whether a table was emptied at once; more: whether there may be more; behind_s: since when the oldest
    waits."""

    ids: list[int]
    rows: dict[int, list[dict[str, Any]]]
    whole: bool
    more: bool
    behind_s: float


@dataclass(frozen=True, slots=True)
class QueueState:
    """installed: of this making of the queue alone; batch: what was taken away from it last."""

    installed: str
    batch: str


def queue_script(mark: str, known: Sequence[KnownTable], role: str, connection: Connection[Any]) -> str:
    """What the owner of the tables runs once. role: who follows."""
    names: dict[str, sql.Composable] = {
        "schema": sql.Identifier(_schema(mark)),
        "digest": sql.Literal(queue_digest(known)),
        "lock": sql.Literal(_lock_of(mark)),
        "kind": sql.Literal(_WAITING),
        "channel": sql.Literal(_schema(mark)),
        "role": sql.Identifier(role),
    }
    tables = [
        sql.SQL(_OF_A_TABLE).format(
            **names,
            number=sql.Literal(number),
            noting=sql.Identifier(f"note_{number}"),
            table=sql.SQL(cast(LiteralString, one.table.written)),
            changed=sql.Identifier(f"{_schema(mark)}_change"),
            emptied=sql.Identifier(f"{_schema(mark)}_truncate"),
            old=_telling(one, sql.Identifier("old")),
            new=_telling(one, sql.Identifier("new")),
        )
        for number, one in enumerate(known)
    ]
    whole = sql.Composed([sql.SQL(_BEFORE).format(**names), *tables, sql.SQL(_AFTER).format(**names)])
    return whole.as_string(connection).strip() + "\n"


def queue_removal(mark: str) -> str:
    """What the owner of the tables runs once nobody follows any more."""
    return f"drop schema if exists {_schema(mark)} cascade;\n"


def queue_digest(known: Sequence[KnownTable]) -> str:
    """What a queue notes, in short: another one is needed where it is otherwise."""
    said = [[one.table.full_name, sorted(one.columns.items())] for one in known]
    return sha256(orjson.dumps(said)).hexdigest()[:16]


class Queue:
    """The queue of one follower in a database."""

    def __init__(self, live: LivePostgreSQL, mark: str, known: Sequence[KnownTable]) -> None:
        self._live, self._known = live, known
        self._schema = _schema(mark)
        self._lock = _lock_of(mark)
        self._names = {"schema": sql.Identifier(self._schema)}
        self._listening = False

    def state(self) -> QueueState:
        """How the queue stands. Raises SourceRefuses with what to do where it does not note what is followed."""
        with told(), self._live.reading() as connection:
            row = connection.execute(
                "select obj_description(oid, 'pg_namespace') from pg_namespace where nspname = %s", [self._schema]
            ).fetchone()
            if row is None:
                raise SourceRefuses(
                    "nothing is noted there yet: have the script run in the database by the owner of its tables."
                )
            if row[0] != queue_digest(self._known):
                raise SourceRefuses(
                    "what is noted there is not what is followed now: have the script, which is another one, run "
                    "once more."
                )
            self._refuse_silent(connection)
            return self._state(connection)

    def _state(self, connection: Connection[Any]) -> QueueState:
        try:
            row = connection.execute(
                sql.SQL("select installed, batch from {schema}.follower").format(**self._names)
            ).fetchone()
        except psycopg.errors.InsufficientPrivilege as error:
            raise SourceRefuses(
                f"{self._live.connection.info.user} may not read what is noted: have the script run once more, which "
                "grants it."
            ) from error
        assert row is not None
        return QueueState(*row)

    def _refuse_silent(self, connection: Connection[Any]) -> None:
        """Raises Unheard where a trigger is gone or switched off: what it did not note is known to nobody."""
        wanted = {
            (one.table.full_name, f"{self._schema}_{how}") for one in self._known for how in ("change", "truncate")
        }
        rows = connection.execute(
            """
            select nspname || '.' || relname, tgname from pg_trigger
            join pg_class on pg_class.oid = tgrelid join pg_namespace on pg_namespace.oid = relnamespace
            where tgname like %s and tgenabled in ('O', 'A')
            """,
            [self._schema.replace("_", "\\_") + "\\_%"],
        ).fetchall()
        missing = sorted(wanted - {(table, name) for table, name in rows})
        if missing:
            table, name = missing[0]
            raise Unheard(
                f"The trigger {name} on {table} is gone or switched off. Switch it on, or have the script run once "
                "more; everything is compared then."
            )

    def read(self) -> Noted:
        """The oldest changes, whole transactions of them. To be asked in the transaction in which records are read.

        Raises SourceAway, SourceRefuses.
        """
        rows = self._rows("true", _CHANGES_AT_ONCE)
        if len(rows) >= _CHANGES_AT_ONCE:
            # Whatever else belongs to the transactions that are cut off there.
            rows = self._rows("by = any(array(select distinct by from oldest))", None)
        by_table: dict[int, list[dict[str, Any]]] = {}
        for _, of, row, _ in rows:
            if row is not None:
                by_table.setdefault(of, []).append(row)
        return Noted(
            ids=[row[0] for row in rows],
            rows=by_table,
            whole=any(row is None for _, _, row, _ in rows),
            more=len(rows) >= _CHANGES_AT_ONCE,
            behind_s=max((float(row[3]) for row in rows), default=0.0),
        )

    def _rows(self, where: LiteralString, most: int | None) -> list[tuple[Any, ...]]:
        statement = sql.SQL(
            """
            with oldest as (select by from {schema}.changes order by id limit %s)
            select id, of, row, extract(epoch from clock_timestamp() - at)::float8 from {schema}.changes
            where {where} order by id limit %s
            """
        )
        with told():
            return self._live.connection.execute(
                statement.format(**self._names, where=sql.SQL(where)), [_CHANGES_AT_ONCE, most]
            ).fetchall()

    def waiting(self) -> int:
        """How many changes wait. Raises SourceAway, SourceRefuses."""
        with told(), self._live.reading() as connection:
            row = connection.execute(sql.SQL("select count(*) from {schema}.changes").format(**self._names)).fetchone()
        return 0 if row is None else int(row[0])

    def take_away(self, ids: Sequence[int], batch: str) -> None:
        """Has the database forget changes that are kept here. batch: what the taking is noted by, here as there.

        Raises SourceAway, SourceRefuses.
        """
        with told(), self._live.connection.transaction():
            self._live.connection.execute("set transaction read write")
            # Too much may have been given for one statement to be quick with.
            self._live.connection.execute(
                sql.SQL("delete from {schema}.changes where id = any(%s)").format(**self._names), [list(ids)]
            )
            self._live.connection.execute(
                sql.SQL("update {schema}.follower set batch = %s").format(**self._names), [batch]
            )

    def is_empty(self) -> bool:
        """Whether nothing waits. Raises SourceAway, SourceRefuses."""
        with told():
            row = self._live.connection.execute(
                sql.SQL("select exists (select from {schema}.changes)").format(**self._names)
            ).fetchone()
        return row == (False,)

    def wait(self, seconds: float) -> bool:
        """Waits until something is noted, no longer than that; whether something is.

        Raises SourceAway, SourceRefuses.
        """
        with told():
            connection = self._live.connection
            if not self._listening:
                connection.execute(sql.SQL("listen {}").format(sql.Identifier(self._schema)))
                self._listening = True
            row = connection.execute("select pg_try_advisory_lock(%s, %s)", [_WAITING, self._lock]).fetchone()
            try:
                # Whoever ended before this was held woke nobody.
                if not self.is_empty():
                    return True
                for _ in connection.notifies(timeout=seconds, stop_after=1):
                    return True
                return False
            finally:
                if row == (True,) and not connection.closed:
                    connection.execute("select pg_advisory_unlock(%s, %s)", [_WAITING, self._lock])


def _telling(known: KnownTable, row: sql.Identifier) -> sql.Composed:
    """What tells whose a row is."""
    parts = [sql.SQL("{}, {}.{}").format(sql.Literal(name), row, sql.Identifier(name)) for name in known.columns]
    return sql.SQL("pg_catalog.jsonb_build_object({})").format(sql.SQL(", ").join(parts))


def _schema(mark: str) -> str:
    return f"pale_harbor_{mark}"


def _lock_of(mark: str) -> int:
    return int(mark[:7], 16)


_BEFORE: Final = """
begin;
drop schema if exists {schema} cascade;
create schema {schema};
comment on schema {schema} is {digest};

-- What changed, until it is kept: of which table, what tells whose row it is, by which transaction.
create table {schema}.changes (
    id bigint generated always as identity primary key,
    of integer not null,
    row jsonb,
    by bigint not null default txid_current(),
    at timestamptz not null default clock_timestamp()
);
-- Who follows: this making of the queue, and what they took away last.
create table {schema}.follower (
    installed text not null default md5(random()::text || clock_timestamp()::text),
    batch text not null default ''
);
insert into {schema}.follower default values;

"""

_OF_A_TABLE: Final = """
-- Every name says where it is from, so that nobody's search_path matters: to set one here costs more than the rest.
create function {schema}.{noting}() returns trigger language plpgsql security definer as $$
begin
    if tg_op operator(pg_catalog.=) 'TRUNCATE' then
        insert into {schema}.changes (of) values ({number});
    elsif tg_op operator(pg_catalog.=) 'DELETE' then
        insert into {schema}.changes (of, row) values ({number}, {old});
    else
        insert into {schema}.changes (of, row) values ({number}, {new});
        if tg_op operator(pg_catalog.=) 'UPDATE' and {old} operator(pg_catalog.<>) {new} then
            insert into {schema}.changes (of, row) values ({number}, {old});
        end if;
    end if;
    -- Whoever waits holds this lock; while nobody waits, nobody has to be woken.
    if pg_catalog.pg_try_advisory_lock_shared({kind}, {lock}) then
        perform pg_catalog.pg_advisory_unlock_shared({kind}, {lock});
    else
        perform pg_catalog.pg_notify({channel}, '');
    end if;
    return null;
end $$;
create trigger {changed} after insert or update or delete on {table}
    for each row execute function {schema}.{noting}();
create trigger {emptied} after truncate on {table}
    for each statement execute function {schema}.{noting}();
"""

_AFTER: Final = """
grant usage on schema {schema} to {role};
grant select, delete on {schema}.changes to {role};
grant select, update (batch) on {schema}.follower to {role};
commit;
"""
