"""Somebody else's MySQL or MariaDB, through its ordinary driver, which is an optional extra of this program."""

from collections.abc import Generator, Iterator, Sequence
from contextlib import closing, contextmanager
from typing import Any, Final, Self

import pymysql
from pymysql.constants import ER, FIELD_TYPE
from pymysql.cursors import SSCursor

from pale_harbor.formats.records.plan import Kind
from pale_harbor.store.following.live.rows import (
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

_NUMBERS: Final = ("DECIMAL", "TINY", "SHORT", "LONG", "FLOAT", "DOUBLE", "LONGLONG", "INT24", "YEAR", "NEWDECIMAL")
_DATES: Final = ("TIMESTAMP", "DATE", "DATETIME", "NEWDATE", "TIMESTAMP2", "DATETIME2")
_LETS_NOBODY_IN: Final = ("ACCESS_DENIED_ERROR", "DBACCESS_DENIED_ERROR", "BAD_DB_ERROR")
# MySQL's and MariaDB's own word for a question that took too long.
_TOO_LONG: Final = (1969, 3024, 1317)
_LOCKED: Final = (1205, 1213)


class LiveMySQL(Expecting):
    """One session that may not write. host: an address that may be asked."""

    def __init__(
        self,
        host: str,
        port: int,
        database: str,
        user: str,
        password: str,
        *,
        encrypted: bool = False,
        bounds: Bounds | None = None,
    ) -> None:
        bounds = bounds or Bounds()
        with _told():
            self._connection: Any = pymysql.connect(
                host=host,
                port=port,
                database=database,
                user=user,
                password=password,
                charset="utf8mb4",
                autocommit=True,
                connect_timeout=max(1, round(bounds.connect_s)),
                read_timeout=round(bounds.statement_s) + 10,
                local_infile=False,
                ssl={} if encrypted else None,
                ssl_disabled=False if encrypted else None,
            )
            for statement in (
                "set session transaction read only",
                "set session transaction isolation level repeatable read",
                f"set session lock_wait_timeout = {max(1, round(bounds.lock_s))}",
                # Names are quoted as everywhere else, and moments told alike.
                "set session sql_mode = concat(@@sql_mode, ',ANSI_QUOTES')",
                "set session time_zone = '+00:00'",
            ):
                self._execute(statement)
            within = (
                f"max_statement_time = {bounds.statement_s:g}"
                if "MariaDB" in self._connection.get_server_info()
                else f"max_execution_time = {round(1_000 * bounds.statement_s)}"
            )
            self._execute(f"set session {within}")

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._connection.close()

    def version(self) -> str:
        """What it calls itself."""
        told = str(self._connection.get_server_info())
        return told if "MariaDB" in told else f"MySQL {told}"

    def columns(self, query: str) -> list[LiveColumn]:
        """The columns that a query gives."""
        with _told(), closing(self._connection.cursor()) as cursor:
            cursor.execute(_around(query, "select * from ({}) as record_rows limit 0"), [])
            found = [LiveColumn(one[0], _type_named(one[1]), _kind(one[1])) for one in cursor.description]
        check_columns([one.name for one in found])
        return found

    def planned(self, query: str) -> Planned:
        """How it would answer, in the database's own lines."""
        with _told(), closing(self._connection.cursor()) as cursor:
            cursor.execute(_around(query, "explain select * from ({}) as record_rows"), [])
            names = [one[0] for one in cursor.description]
            steps = [dict(zip(names, row, strict=True)) for row in cursor.fetchall()]
        lines = [", ".join(f"{name}: {value}" for name, value in step.items() if value is not None) for step in steps]
        return Planned(lines, None, None, [])

    def rows(self, query: str, key: str | None, most: int | None = None) -> Iterator[LiveRow]:
        """The rows of a query, streamed."""
        limit = "" if most is None else f" limit {int(most)}"
        yield from self._streamed(_around(query, f"select * from ({{}}) as record_rows{limit}"), [], key)

    def rows_with_keys(self, query: str, key: str, keys: Sequence[str]) -> list[LiveRow]:
        """Those of its rows whose key is one of these."""
        if not keys:
            return []
        places = ", ".join(["%s"] * len(keys))
        statement = _around(query, f"select * from ({{}}) as record_rows where {_name(key)} in ({places})")
        return list(self._streamed(statement, list(keys), key))

    def rows_since(
        self, query: str, key: str | None, changed_at: str, since: str | None, overlap_s: float
    ) -> Iterator[LiveRow]:
        """Those that changed since, in the order of their changes."""
        column = _name(changed_at)
        if since is None:
            condition, values = "%s is null", [None]
        elif self._is_moment(query, changed_at):
            condition, values = f"{column} >= date_sub(%s, interval %s second)", [since, overlap_s]
        else:
            condition, values = f"{column} >= %s", [since]
        statement = _around(query, f"select * from ({{}}) as record_rows where {condition} order by {column}")
        yield from self._streamed(statement, values, key, changed_at)

    def keys(self, query: str, key: str, changed_at: str | None) -> Iterator[tuple[str, Any]]:
        """Every key that the query has, with its stamp."""
        stamp = "null" if changed_at is None else _name(changed_at)
        around = f"select {_name(key)} as live_key, {stamp} as live_stamp from ({{}}) as record_rows"
        for row in self._streamed(_around(query, around), [], "live_key", is_records=False):
            if row.key is not None:
                yield row.key, (row.row.values or {}).get("live_stamp")

    def ranked(self, statement: str, asked: str, most: int) -> list[tuple[Any, ...]]:
        """What a statement with {query} in it gives for a query: its first rows."""
        parts = [part.replace("%", "%%") for part in statement.strip().rstrip(";").split("{query}")]
        inner = "%(asked)s".join(parts)
        # As it stands: a statement within another one may lose its order.
        with _told(), closing(self._connection.cursor(SSCursor)) as cursor:
            cursor.execute(inner, {"asked": asked})
            return list(cursor.fetchmany(most))

    def _is_moment(self, query: str, column: str) -> bool:
        written = next((one.written for one in self.columns(query) if one.name == column), "")
        return written in ("TIMESTAMP", "DATETIME")

    def _execute(self, statement: str) -> None:
        with closing(self._connection.cursor()) as cursor:
            cursor.execute(statement)

    def _streamed(
        self,
        statement: str,
        values: Sequence[Any],
        key: str | None,
        stamp: str | None = None,
        *,
        is_records: bool = True,
    ) -> Iterator[LiveRow]:
        with _told(), closing(self._connection.cursor(SSCursor)) as cursor:
            cursor.execute(statement, values)
            names = [one[0] for one in cursor.description]
            if is_records:
                self.check(names, key, stamp)
            yield from live_rows(names, cursor, key, stamp)


@contextmanager
def _told() -> Generator[None]:
    try:
        yield
    except pymysql.MySQLError as error:
        number = error.args[0] if error.args else 0
        line = " ".join(str(error.args[-1] if error.args else error).split())[:500]
        if number in _TOO_LONG:
            raise SourceRefuses("The database needed longer to answer than it is given.") from error
        if number in [getattr(ER, name) for name in _LETS_NOBODY_IN]:
            raise SourceRefuses(f"The database does not let us in: {line}") from error
        if number in _LOCKED or isinstance(error, pymysql.InterfaceError) or 2_000 <= int(number or 0) < 2_100:
            raise SourceAway(f"The database does not answer: {line}") from error
        raise SourceRefuses(f"The database cannot be read: {line}") from error
    except OSError as error:
        raise SourceAway(f"The database does not answer: {error}") from error


def _around(query: str, around: str) -> str:
    # What stands for values is ours alone: a percent sign of theirs is one.
    inner = query.strip().rstrip(";").rstrip().replace("%", "%%")
    return around.replace("{}", f"\n{inner}\n", 1)


def _name(name: str) -> str:
    return '"' + name.replace('"', '""').replace("%", "%%") + '"'


def _type_named(code: int) -> str:
    return next((name for name in vars(FIELD_TYPE) if name.isupper() and getattr(FIELD_TYPE, name) == code), str(code))


def _kind(code: int) -> Kind | None:
    name = _type_named(code)
    return "number" if name in _NUMBERS else "date" if name in _DATES else None
