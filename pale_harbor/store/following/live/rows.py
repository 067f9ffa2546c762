"""Rows of other databases as records can be made of them."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol, Self

import orjson

from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.formats.records.plan import Kind
from pale_harbor.formats.records.rows import RawRow
from pale_harbor.formats.records.values import plain_value

ROWS_AT_ONCE = 1_000


class SourceAway(Unavailable):
    """A database does not answer now; it may later."""


class SourceRefuses(BadInput):
    """A database answers that it cannot be asked so: the query, the rights or the tables have to change."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """For how long a database is asked, in seconds. statement: one question; lock: waiting for what others hold."""

    statement_s: float = 60.0
    lock_s: float = 5.0
    connect_s: float = 10.0


@dataclass(frozen=True, slots=True)
class LiveColumn:
    """A column of a query. written: its type as the database writes it; kind: what a field of it is, None where the
    values have to tell."""

    name: str
    written: str
    kind: Kind | None


@dataclass(frozen=True, slots=True)
class LiveRow:
    """A row. key: its key as text, None where it has none; stamp: what its column of changes tells, as text."""

    key: str | None
    row: RawRow
    stamp: str | None = None


@dataclass(frozen=True, slots=True)
class Planned:
    """How a database would answer a query: its plan in lines, the cost and the number of rows that it expects (None
    where it does not tell), and the tables that it would read."""

    lines: list[str]
    cost: float | None
    rows: float | None
    tables: list[str]


class Unheard(SourceRefuses):
    """What should tell of changes does not: some may be known to nobody, and everything has to be compared."""


class ColumnsChanged(SourceRefuses):
    """A query gives other columns than it gave before. missing, new: their names."""

    def __init__(self, missing: Sequence[str], new: Sequence[str]) -> None:
        told = [
            *([f"no longer the column{'s' * (len(missing) > 1)} {', '.join(missing)}"] if missing else []),
            *([f"the new column{'s' * (len(new) > 1)} {', '.join(new)}"] if new else []),
        ]
        super().__init__(f"The query gives {' and '.join(told)}.")
        self.missing, self.new = list(missing), list(new)


class Expecting:
    """Whoever asks a query again and again, and is told when its columns are others. expects: their names, None where
    any will do."""

    expects: frozenset[str] | None = None

    def check(self, names: Sequence[str], *wanted: str | None) -> None:
        """Raises ColumnsChanged, and SourceRefuses where columns share a name or one that is wanted is not there."""
        if self.expects is not None and self.expects != frozenset(names):
            raise ColumnsChanged(sorted(self.expects - set(names)), sorted(set(names) - self.expects))
        check_columns(names, *wanted)


class LiveDatabase(Protocol):
    """A database that is asked, and never written to. All raise SourceAway and SourceRefuses.

    expects: the columns that its query gives, None where any will do; where they are others, ColumnsChanged is raised.
    """

    expects: frozenset[str] | None

    def __enter__(self) -> Self: ...

    def __exit__(self, *_: object) -> None: ...

    def version(self) -> str:
        """What it calls itself."""
        ...

    def columns(self, query: str) -> list[LiveColumn]:
        """The columns that a query gives."""
        ...

    def planned(self, query: str) -> Planned:
        """How it would answer."""
        ...

    def rows(self, query: str, key: str | None, most: int | None = None) -> Iterator[LiveRow]:
        """The rows of a query, streamed; no more than `most`."""
        ...

    def rows_with_keys(self, query: str, key: str, keys: Sequence[str]) -> list[LiveRow]:
        """Those of its rows whose key is one of these."""
        ...

    def rows_since(
        self, query: str, key: str | None, changed_at: str, since: str | None, overlap_s: float
    ) -> Iterator[LiveRow]:
        """Those that changed at or after a moment, less the overlap, in the order of their changes, with their stamps;
        all where it is None."""
        ...

    def keys(self, query: str, key: str, changed_at: str | None) -> Iterator[tuple[str, Any]]:
        """Every key that the query has, with what its column of changes holds, as a record would."""
        ...

    def ranked(self, statement: str, asked: str, most: int) -> list[tuple[Any, ...]]:
        """What a statement with {query} in it gives for a query: its first rows."""
        ...


def check_columns(names: Sequence[str], *wanted: str | None) -> None:
    """Raises SourceRefuses where columns share a name or one that is wanted is not among them."""
    twice = {name for name in names if names.count(name) > 1}
    if twice:
        raise SourceRefuses(f"The query gives more than one column {sorted(twice)[0]!r}. Name them apart with `as`.")
    for name in wanted:
        if name is not None and name not in names:
            raise SourceRefuses(f"The query gives no column {name!r}. It gives: {', '.join(names)}.")


def live_rows(
    names: Sequence[str], rows: Iterable[Sequence[Any]], key: str | None, stamp: str | None = None
) -> Iterator[LiveRow]:
    """Rows as they came, one after another."""
    for line, row in enumerate(rows, start=1):
        yield live_row(line, names, row, key, stamp)


def live_row(line: int, names: Sequence[str], row: Sequence[Any], key: str | None, stamp: str | None) -> LiveRow:
    """One row; a value that cannot be kept is told in it."""
    given = dict(zip(names, row, strict=True))
    name = None if key is None else key_text(given[key])
    stamped = None if stamp is None or given[stamp] is None else str(given[stamp])
    return LiveRow(name, _raw(line, given), stamped)


def key_text(value: Any) -> str | None:
    """A key as a record has it, None for none.

    >>> key_text(7), key_text("a"), key_text(None), key_text("")
    ('7', 'a', None, None)
    """
    return None if value is None or value == "" else str(value)


def _raw(line: int, given: Mapping[str, Any]) -> RawRow:
    values: dict[str, Any] = {}
    for name, value in given.items():
        if value is None:
            continue
        try:
            values[name] = plain_value(value)
        except ValueError as error:
            shown = repr(tuple(given.values()))[:10_000]
            return RawRow(line, None, f'the column "{name}" cannot be kept: {error}.', shown.encode())
    return RawRow(line, values, raw=orjson.dumps(values, default=str))
