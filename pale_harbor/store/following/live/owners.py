"""Which records changed rows of a table belong to, asked of the database that has them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final, LiteralString, cast

import orjson
from psycopg import sql

from pale_harbor.formats.following.document import FollowedTable, with_places
from pale_harbor.store.following.live.catalogue import LiveTable, tables_named
from pale_harbor.store.following.live.postgresql import LivePostgreSQL, told
from pale_harbor.store.following.live.rows import SourceRefuses

_ROWS_AT_ONCE: Final = 5_000
# By column: as the database tells it, as a text or not.
ChangedRow = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class KnownTable:
    """A followed table as it is in the database. columns: those that tell whose a row is, each with its type."""

    followed: FollowedTable
    table: LiveTable
    columns: dict[str, str]


def known_tables(live: LivePostgreSQL, followed: Sequence[FollowedTable]) -> list[KnownTable]:
    """The followed tables, in their order.

    Raises SourceRefuses where one, or a column of one, is not there; SourceAway.
    """
    found = tables_named(live, [one.name for one in followed])
    known: list[KnownTable] = []
    for one in followed:
        table = found[one.name]
        if table is None:
            raise SourceRefuses(f"There is no table {one.name} that {live.connection.info.user} may read.")
        types = {column.name: column.written for column in table.columns}
        missing = next((name for name in one.columns if name not in types), None)
        if missing is not None:
            raise SourceRefuses(f'The table {one.name} has no column "{missing}". It has: {", ".join(types)}.')
        known.append(KnownTable(one, table, {name: types[name] for name in one.columns}))
    return known


def owning_keys(live: LivePostgreSQL, known: KnownTable, rows: Sequence[ChangedRow]) -> set[str]:
    """The keys of the records that changed rows belong to now. Raises SourceAway, SourceRefuses.

    To be asked in the transaction in which the records are read. rows: each with the columns that tell whose it is.
    """
    own = known.followed.own_key
    if own is not None:
        # It says itself whose it is: nobody has to be asked.
        return {str(row[own]) for row in rows if row[own] is not None}
    statement = sql.SQL(
        "select distinct owner.key::text from jsonb_to_recordset(%s::jsonb) as changed({columns}) "
        "cross join lateral (\n{owners}\n) as owner(key) where owner.key is not null"
    ).format(columns=_typed(known.columns), owners=_owners(known.followed, "changed"))
    keys: set[str] = set()
    with told():
        for first in range(0, len(rows), _ROWS_AT_ONCE):
            given = orjson.dumps([dict(row) for row in rows[first : first + _ROWS_AT_ONCE]]).decode()
            keys.update(key for (key,) in live.connection.execute(statement, [given]).fetchall())
    return keys


def keys_written_since(live: LivePostgreSQL, known: KnownTable, transaction: int) -> set[str]:
    """The keys of the records that rows belong to which a transaction of this number or a later one wrote.

    To be asked in the transaction in which the records are read. Raises SourceAway, SourceRefuses.
    """
    # xmin has 32 bits and goes round: what is less than half the way ahead is later. Below 3 it is no transaction's.
    statement = sql.SQL(
        "select distinct owner.key::text from {table} as changed cross join lateral (\n{owners}\n) as owner(key) "
        "where owner.key is not null and changed.xmin::text::bigint > 2 "
        "and ((changed.xmin::text::bigint - %s::bigint) & 4294967295) < 2147483648"
    ).format(table=sql.SQL(cast(LiteralString, known.table.written)), owners=_owners(known.followed, "changed"))
    with told():
        return {key for (key,) in live.connection.execute(statement, [transaction]).fetchall()}


def oldest_unended(live: LivePostgreSQL) -> int:
    """The number of the oldest transaction that has not ended: all before it can be seen, or never will be.

    In the transaction in which rows are read. Raises SourceAway, SourceRefuses.
    """
    with told():
        row = live.connection.execute("select txid_snapshot_xmin(txid_current_snapshot())").fetchone()
    assert row is not None
    return int(row[0])


def are_seen(live: LivePostgreSQL, transactions: set[int]) -> bool:
    """Whether what these transactions did, by their numbers of 32 bits, is seen in the transaction that is under way.

    The log may tell of a transaction a moment before it can be seen. Raises SourceAway, SourceRefuses.
    """
    with told():
        row = live.connection.execute(
            """
            select not exists (
                select from unnest(%s::bigint[]) as own
                where own in (select unended & 4294967295 from txid_snapshot_xip(now.snapshot) as unended)
                    or ((own - txid_snapshot_xmax(now.snapshot)) & 4294967295) < 2147483648
            )
            from (select txid_current_snapshot() as snapshot) as now
            """,
            [sorted(transactions)],
        ).fetchone()
    return row == (True,)


def try_owners(live: LivePostgreSQL, known: KnownTable) -> None:
    """Raises SourceRefuses where the SELECT of keys cannot be asked; SourceAway."""
    with live.reading():
        try:
            owning_keys(live, known, [dict.fromkeys(known.columns)])
        except SourceRefuses as error:
            raise SourceRefuses(f"The keys for {known.followed.name} cannot be asked for: {error}") from error


def _owners(followed: FollowedTable, row: LiteralString) -> sql.SQL:
    text = with_places(followed.owners.strip().rstrip(";"), row).replace("%", "%%")
    return sql.SQL(cast(LiteralString, text))


def _typed(columns: Mapping[str, str]) -> sql.Composed:
    return sql.SQL(", ").join(
        sql.SQL("{} {}").format(sql.Identifier(name), sql.SQL(cast(LiteralString, written)))
        for name, written in columns.items()
    )
