"""Somebody else's SQLite file, opened to be read alone."""

import sqlite3
import time
from collections.abc import Generator, Iterator, Sequence
from contextlib import closing, contextmanager
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, Final, Self
from urllib.parse import quote

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

_STEPS_BETWEEN_LOOKS: Final = 20_000
_VALUES_AT_ONCE: Final = 400
_AWAY: Final = (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_IOERR)
_ALLOWED: Final = (
    sqlite3.SQLITE_SELECT,
    sqlite3.SQLITE_READ,
    sqlite3.SQLITE_FUNCTION,
    sqlite3.SQLITE_RECURSIVE,
    sqlite3.SQLITE_TRANSACTION,
)


class LiveSQLite(Expecting):
    """One connection to a file. Raises SourceAway where it is not there."""

    def __init__(self, path: Path, bounds: Bounds | None = None) -> None:
        self._bounds = bounds or Bounds()
        self._until = 0.0
        if not path.is_file():
            raise SourceAway(f"There is no file {path}.")
        with _told():
            self._connection = sqlite3.connect(
                f"file:{quote(str(path))}?mode=ro",
                uri=True,
                timeout=self._bounds.lock_s,
                isolation_level=None,
                # One thread at a time: whoever reads hands rows on as they come.
                check_same_thread=False,
            )
            self._connection.execute("pragma query_only = on")
            # Whether it is one at all.
            self._connection.execute("select count(*) from sqlite_master").fetchone()
        self._connection.set_authorizer(_lets)
        self._connection.set_progress_handler(self._is_over, _STEPS_BETWEEN_LOOKS)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._connection.close()

    def _is_over(self) -> bool:
        return time.monotonic() > self._until

    def version(self) -> str:
        """What it is read by."""
        return f"SQLite {sqlite3.sqlite_version}"

    def columns(self, query: str) -> list[LiveColumn]:
        """The columns that a query gives; their values tell what they are."""
        with self._asking(_around(query, "select * from ({}) as record_rows limit 0"), []) as cursor:
            names = [one[0] for one in cursor.description]
        check_columns(names)
        return [LiveColumn(name, "", None) for name in names]

    def planned(self, query: str) -> Planned:
        """How it would answer."""
        with self._asking(_around(query, "explain query plan select * from ({}) as record_rows"), []) as cursor:
            return Planned([str(row[-1]) for row in cursor.fetchall()], None, None, [])

    def rows(self, query: str, key: str | None, most: int | None = None) -> Iterator[LiveRow]:
        """The rows of a query, streamed."""
        limit = -1 if most is None else most
        yield from self._streamed(_around(query, "select * from ({}) as record_rows limit ?"), [limit], key)

    def rows_with_keys(self, query: str, key: str, keys: Sequence[str]) -> list[LiveRow]:
        """Those of its rows whose key is one of these."""
        found: list[LiveRow] = []
        for first in range(0, len(keys), _VALUES_AT_ONCE):
            some = keys[first : first + _VALUES_AT_ONCE]
            # A column of a query may have no type: then 7 is not '7'.
            values: list[Any] = [*some, *(int(one) for one in some if _is_number(one))]
            places = ", ".join("?" * len(values))
            statement = _around(query, f"select * from ({{}}) as record_rows where {_name(key)} in ({places})")
            found += self._streamed(statement, values, key)
        return found

    def rows_since(
        self, query: str, key: str | None, changed_at: str, since: str | None, overlap_s: float
    ) -> Iterator[LiveRow]:
        """Those that changed since, in the order of their changes."""
        column = _name(changed_at)
        condition, values = ("1", []) if since is None else (f"{column} >= ?", [_earlier(since, overlap_s)])
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
        inner = statement.strip().rstrip(";").replace("{query}", ":asked")
        wrapped = f"select * from (\n{inner}\n) as ranked_rows limit :most"  # the engineer's own
        with self._asking(wrapped, {"asked": asked, "most": most}) as cursor:
            return list(cursor.fetchall())

    @contextmanager
    def _asking(self, statement: str, values: Any) -> Generator[sqlite3.Cursor]:
        self._until = time.monotonic() + self._bounds.statement_s
        with _told(), closing(self._connection.cursor()) as cursor:
            cursor.execute(statement, values)
            yield cursor

    def _streamed(
        self,
        statement: str,
        values: Sequence[Any],
        key: str | None,
        stamp: str | None = None,
        *,
        is_records: bool = True,
    ) -> Iterator[LiveRow]:
        with self._asking(statement, values) as cursor:
            names = [one[0] for one in cursor.description]
            if is_records:
                self.check(names, key, stamp)
            yield from live_rows(names, cursor, key, stamp)


@contextmanager
def _told() -> Generator[None]:
    try:
        yield
    except sqlite3.Error as error:
        line = " ".join(str(error).split())[:500]
        code = getattr(error, "sqlite_errorcode", 0) & 0xFF
        if code == sqlite3.SQLITE_INTERRUPT:
            raise SourceRefuses("The database needed longer to answer than it is given.") from error
        if code in _AWAY:
            raise SourceAway(f"The database does not answer: {line}") from error
        raise SourceRefuses(f"The database cannot be read: {line}") from error


def _lets(action: int, first: str | None, _second: str | None, _database: str | None, _by: str | None) -> int:
    # It is opened to be read, but another file could be attached to it.
    if action == sqlite3.SQLITE_FUNCTION and str(_second).lower() == "load_extension":
        return sqlite3.SQLITE_DENY
    return sqlite3.SQLITE_OK if action in _ALLOWED else sqlite3.SQLITE_DENY


def _earlier(since: str, seconds: float) -> Any:
    """A moment so many seconds earlier, written as it is written; anything else as it is.

    >>> _earlier("2026-05-03 10:00:30", 60), _earlier("17", 60)
    ('2026-05-03 09:59:30', 17)
    """
    if _is_number(since):
        return int(since)
    try:
        earlier = datetime.fromisoformat(since) - timedelta(seconds=seconds)
    except ValueError:
        return since
    if len(since) <= 10:
        return since
    return earlier.isoformat(sep=since[10])


def _is_number(text: str) -> bool:
    return text.removeprefix("-").isdecimal() and str(int(text)) == text


def _around(query: str, around: str) -> str:
    return around.replace("{}", f"\n{query.strip().rstrip(';').rstrip()}\n", 1)


def _name(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
