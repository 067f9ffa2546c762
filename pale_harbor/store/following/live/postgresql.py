"""Somebody else's PostgreSQL, asked in transactions that may not write."""

from collections.abc import Generator, Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from typing import Any, Final, LiteralString, Self, cast

import psycopg
from psycopg import Connection, sql
from psycopg.conninfo import make_conninfo

from pale_harbor.formats.records.plan import Kind
from pale_harbor.store.following.live.rows import (
    ROWS_AT_ONCE,
    Bounds,
    Expecting,
    LiveColumn,
    LiveRow,
    Planned,
    SourceAway,
    SourceRefuses,
    check_columns,
    live_rows,
)

# Keys are told as texts, and asked for as what they are: of these types both are the same wherever it is done.
KEY_TYPES: Final = ("smallint", "integer", "bigint", "text", "character varying", "uuid")
_KINDS: Final[dict[str, Kind]] = {
    **dict.fromkeys(("smallint", "integer", "bigint", "real", "double precision", "numeric"), "number"),
    **dict.fromkeys(("date", "timestamp without time zone", "timestamp with time zone"), "date"),
    "boolean": "flag",
}
_MOMENTS: Final = ("timestamp without time zone", "timestamp with time zone")
# Written by an address to whoever looks which sessions there are.
_CALLED: Final = "pale harbor"
_OLDEST: Final = 12

# Whatever of it a session may change, it is set back to at the beginning of every transaction.
_AWAY: Final = (
    psycopg.errors.AdminShutdown,
    psycopg.errors.CrashShutdown,
    psycopg.errors.CannotConnectNow,
    psycopg.errors.IdleInTransactionSessionTimeout,
    psycopg.errors.LockNotAvailable,
    psycopg.errors.TooManyConnections,
    psycopg.errors.SerializationFailure,
    psycopg.errors.DeadlockDetected,
    psycopg.errors.ReadOnlySqlTransaction,
)


class LivePostgreSQL(Expecting):
    """One session. address: a libpq connection string that may be asked."""

    def __init__(self, address: str, bounds: Bounds | None = None) -> None:
        self._address, self._bounds = address, bounds or Bounds()
        self._types: dict[int, str] = {}
        self._columns: dict[str, list[LiveColumn]] = {}
        self.connection: Connection[Any] = self._connected()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.connection.close()

    @property
    def address(self) -> str:
        """By which it was reached."""
        return self._address

    def _connected(self) -> Connection[Any]:
        bounds = self._bounds
        settings = {
            "default_transaction_read_only": "on",
            "statement_timeout": str(round(1_000 * bounds.statement_s)),
            "lock_timeout": str(round(1_000 * bounds.lock_s)),
            "idle_in_transaction_session_timeout": "120000",
            # Moments are told alike, whoever asks.
            "timezone": "UTC",
            "datestyle": "ISO, YMD",
        }
        with told():
            address = make_conninfo(
                self._address,
                application_name=_CALLED,
                keepalives_idle=10,
                keepalives_interval=5,
                keepalives_count=3,
                tcp_user_timeout=20_000,
                connect_timeout=max(2, round(bounds.connect_s)),
            )
            # No plans are kept for statements: tables may be altered meanwhile.
            connection = psycopg.connect(address, autocommit=True, prepare_threshold=None)
            try:
                if connection.info.server_version < 10_000 * _OLDEST:
                    found = connection.info.server_version // 10_000
                    raise SourceRefuses(f"PostgreSQL {_OLDEST} or newer is needed; this is {found}.")
                for name, value in settings.items():
                    connection.execute("select set_config(%s, %s, false)", [name, value])
            except BaseException:
                connection.close()
                raise
        return connection

    @contextmanager
    def reading(self) -> Generator[Connection[Any]]:
        """What is read within is read as it stands at one moment; whatever is done beside is taken back.

        Raises SourceAway, SourceRefuses where it cannot be begun.
        """
        with told():
            self.connection.execute("begin isolation level repeatable read read only")
        try:
            yield self.connection
        finally:
            with suppress(psycopg.Error):
                self.connection.rollback()

    def version(self) -> str:
        """What it calls itself."""
        number = self.connection.info.server_version
        return f"PostgreSQL {number // 10_000}.{number % 10_000}"

    def columns(self, query: str) -> list[LiveColumn]:
        """The columns that a query gives."""
        if query not in self._columns:
            with told(), self.reading() as connection:
                cursor = connection.execute(_around(query, "select * from ({query}) as record_rows limit %s"), [0])
                found = [(column.name, column.type_code) for column in cursor.description or []]
                self._learn_types(connection, [oid for _, oid in found])
            self._columns[query] = [
                LiveColumn(name, self._types[oid], _KINDS.get(self._types[oid])) for name, oid in found
            ]
        self.check([one.name for one in self._columns[query]])
        return self._columns[query]

    def forget_columns(self) -> None:
        """Has them asked for anew: tables may have been altered."""
        self._columns.clear()

    def planned(self, query: str) -> Planned:
        """How it would answer."""
        with told(), self.reading() as connection:
            all_of_it = "select * from ({query}) as record_rows limit %s"
            lines = connection.execute(_around(query, f"explain {all_of_it}"), [None]).fetchall()
            row = connection.execute(_around(query, f"explain (format json, verbose) {all_of_it}"), [None]).fetchone()
        plan = row[0][0]["Plan"] if row is not None else {}
        return Planned(
            [line for (line,) in lines], plan.get("Total Cost"), plan.get("Plan Rows"), sorted(_tables_in(plan))
        )

    def rows(self, query: str, key: str | None, most: int | None = None) -> Iterator[LiveRow]:
        """The rows of a query, streamed."""
        statement = _around(query, "select * from ({query}) as record_rows limit %s")
        yield from self._streamed(statement, [most], key)

    def rows_with_keys(self, query: str, key: str, keys: Sequence[str]) -> list[LiveRow]:
        """Those of its rows whose key is one of these."""
        statement = _around(
            query,
            "select * from ({query}) as record_rows where {key} = any(%s::text[]::{type}[])",
            key=sql.Identifier(key),
            type=_as_written(self.key_type(query, key)),
        )
        with self._within_transaction() as connection, told():
            cursor = connection.execute(statement, [list(keys)])
            names = [column.name for column in cursor.description or []]
            self.check(names, key)
            return list(live_rows(names, cursor.fetchall(), key))

    def rows_since(
        self, query: str, key: str | None, changed_at: str, since: str | None, overlap_s: float
    ) -> Iterator[LiveRow]:
        """Those that changed since, in the order of their changes."""
        columns = self.columns(query)
        check_columns([one.name for one in columns], key, changed_at)
        written = next(one.written for one in columns if one.name == changed_at)
        parts = {"column": sql.Identifier(changed_at), "type": _as_written(written)}
        # At or after: rows of the same moment may have come since. Only a moment can be told a while earlier.
        if since is None:
            condition, values = "%s::text is null", [None]
        elif written in _MOMENTS:
            condition, values = "{column} >= %s::{type} - make_interval(secs => %s)", [since, overlap_s]
        else:
            condition, values = "{column} >= %s::{type}", [since]
        around = f"select * from ({{query}}) as record_rows where {condition} order by {{column}} nulls first"
        yield from self._streamed(_around(query, around, **parts), values, key, changed_at)

    def keys(self, query: str, key: str, changed_at: str | None) -> Iterator[tuple[str, Any]]:
        """Every key that the query has, with its stamp."""
        self.key_type(query, key)
        check_columns([one.name for one in self.columns(query)], changed_at)
        stamp = sql.SQL("null") if changed_at is None else sql.Identifier(changed_at)
        around = "select {key} as live_key, {stamp} as live_stamp from ({query}) as record_rows limit %s"
        statement = _around(query, around, key=sql.Identifier(key), stamp=stamp)
        for row in self._streamed(statement, [None], "live_key", is_records=False):
            if row.key is not None:
                yield row.key, (row.row.values or {}).get("live_stamp")

    def ranked(self, statement: str, asked: str, most: int) -> list[tuple[Any, ...]]:
        """What a statement with {query} in it gives for a query: its first rows."""
        inner = sql.SQL("%(asked)s").join(_written(part) for part in _ended(statement).split("{query}"))
        around = sql.SQL("select * from (\n{inner}\n) as ranked_rows limit %(most)s").format(inner=inner)
        with told(), self.reading() as connection:
            return connection.execute(around, {"asked": asked, "most": most}).fetchall()

    @contextmanager
    def _within_transaction(self) -> Generator[Connection[Any]]:
        """In the transaction that is under way, so that it sees what that sees; else in one of its own."""
        if self.connection.info.transaction_status == psycopg.pq.TransactionStatus.IDLE:
            with self.reading() as connection:
                yield connection
        else:
            yield self.connection

    def _streamed(
        self,
        statement: sql.Composed,
        values: Sequence[Any],
        key: str | None,
        stamp: str | None = None,
        *,
        is_records: bool = True,
    ) -> Iterator[LiveRow]:
        with self._within_transaction() as connection, told(), closing(connection.cursor(name="rows")) as cursor:
            cursor.itersize = ROWS_AT_ONCE
            # With values: then it is one statement, whatever the query says.
            cursor.execute(statement, values)
            names = [column.name for column in cursor.description or []]
            if is_records:
                self.check(names, key, stamp)
            yield from live_rows(names, cursor, key, stamp)

    def key_type(self, query: str, key: str) -> str:
        """The type of a query's key. Raises SourceRefuses where it is not written in one way alone; SourceAway."""
        columns = self.columns(query)
        check_columns([one.name for one in columns], key)
        written = next(one.written for one in columns if one.name == key)
        if written not in KEY_TYPES:
            raise SourceRefuses(
                f'The key "{key}" is of the type {written}, which is not written in one way alone. Write it as a text '
                f"in the query: {key}::text as {key}."
            )
        return written

    def _learn_types(self, connection: Connection[Any], oids: Sequence[int]) -> None:
        unknown = sorted(set(oids) - self._types.keys())
        if unknown:
            rows = connection.execute("select oid, format_type(oid, -1) from unnest(%s::oid[]) as oid", [unknown])
            self._types.update(rows.fetchall())


@contextmanager
def told() -> Generator[None]:
    """Says in our words what a database of others complains of. Raises SourceAway, SourceRefuses."""
    try:
        yield
    except psycopg.errors.QueryCanceled as error:
        raise SourceRefuses("The database needed longer to answer than it is given.") from error
    except _AWAY as error:
        raise SourceAway(f"The database cannot answer now: {_line(error)}") from error
    except (psycopg.OperationalError, psycopg.InterfaceError) as error:
        if getattr(error, "sqlstate", None) in ("28000", "28P01", "3D000"):
            raise SourceRefuses(f"The database does not let us in: {_line(error)}") from error
        raise SourceAway(f"The database does not answer: {_line(error)}") from error
    except psycopg.Error as error:
        raise SourceRefuses(f"The database cannot be read: {_line(error)}") from error


def _line(error: Exception) -> str:
    return " ".join(str(error).split())[:500]


def _around(query: str, around: str, **parts: sql.Composable) -> sql.Composed:
    """A statement around the engineer's query, which is run with the rights of the address that they gave."""
    inner = sql.SQL("\n{}\n").format(_written(_ended(query)))
    return sql.SQL(cast(LiteralString, around)).format(query=inner, **parts)


def _ended(query: str) -> str:
    return query.strip().rstrip(";").rstrip()


def _written(text: str) -> sql.SQL:
    # What stands for values is ours alone: a percent sign of theirs is one.
    return sql.SQL(cast(LiteralString, text.replace("%", "%%")))


def _as_written(kind: str) -> sql.SQL:
    # A type, as the database itself writes it.
    return sql.SQL(cast(LiteralString, kind))


def _tables_in(plan: dict[str, Any]) -> set[str]:
    own = {f"{plan['Schema']}.{plan['Relation Name']}"} if "Relation Name" in plan and "Schema" in plan else set[str]()
    return own.union(*(_tables_in(one) for one in plan.get("Plans", [])))
