"""Every table as text, out and in: what they hold is moved as it is, by the names of tables and columns alone.

A backup is of one moment (one transaction sees the database as it was when it began). It holds no definitions: the
migrations make the tables as they were, and those that came since bring what they hold up to date. So a backup can go
into any PostgreSQL, into whatever schema, by a role that owns that schema and is no superuser.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import Any, Final, LiteralString, cast

from psycopg import Connection, sql

from pale_harbor.store.database import apply_migrations

# Which migrations there were is made again by applying them.
_MIGRATIONS: Final = "migrations"


@dataclass(frozen=True, slots=True)
class TableShape:
    """A table and its columns, in their order."""

    name: str
    columns: list[str]


@dataclass(frozen=True, slots=True)
class Counter:
    """How far a column that numbers its rows has counted. last: None where it has not begun."""

    table: str
    column: str
    last: int | None


@dataclass(frozen=True, slots=True)
class Copied:
    """What of a table was copied. digest: the SHA-256 of its text."""

    rows: int
    size: int
    digest: str


def table_shapes(connection: Connection[Any]) -> list[TableShape]:
    """All tables of the schema by name, but for the list of migrations."""
    rows = connection.execute(
        """
        select relname, array_agg(attname::text order by attnum)
        from pg_class join pg_attribute on attrelid = pg_class.oid
        where relnamespace = current_schema()::regnamespace and relkind = 'r' and relname <> %s
            and attnum > 0 and not attisdropped and attgenerated = ''
        group by relname order by relname
        """,
        [_MIGRATIONS],
    ).fetchall()
    return [TableShape(name, columns) for name, columns in rows]


def counters(connection: Connection[Any]) -> list[Counter]:
    """How far each column that numbers its rows has counted."""
    rows = connection.execute(
        """
        select relname, attname, pg_sequence_last_value(
            pg_get_serial_sequence(format('%I.%I', current_schema(), relname), attname)::regclass
        )
        from pg_class join pg_attribute on attrelid = pg_class.oid
        where relnamespace = current_schema()::regnamespace and relkind = 'r' and attidentity <> ''
        order by relname, attname
        """
    ).fetchall()
    return [Counter(*row) for row in rows]


def applied_migrations(connection: Connection[Any]) -> list[str]:
    """The migrations that made the tables, in their order."""
    return [name for (name,) in connection.execute("select name from migrations order by name").fetchall()]


def copy_out(connection: Connection[Any], table: TableShape, take: Callable[[bytes], object]) -> Copied:
    """Hands a table's rows on as PostgreSQL's text, piece by piece."""
    digest, size = sha256(), 0
    with connection.cursor() as cursor:
        with cursor.copy(sql.SQL("copy {} to stdout").format(_with_columns(table))) as copy:
            for piece in copy:
                digest.update(piece)
                size += len(piece)
                take(bytes(piece))
        rows = cursor.rowcount
    return Copied(rows, size, digest.hexdigest())


def copy_in(connection: Connection[Any], table: TableShape, pieces: Iterator[bytes]) -> Copied:
    """Puts rows into a table as `copy_out` gave them."""
    digest, size = sha256(), 0
    with connection.cursor() as cursor:
        with cursor.copy(sql.SQL("copy {} from stdin").format(_with_columns(table))) as copy:
            for piece in pieces:
                digest.update(piece)
                size += len(piece)
                copy.write(piece)
        rows = cursor.rowcount
    return Copied(rows, size, digest.hexdigest())


def make_empty_tables(connection: Connection[Any], last_migration: str) -> None:
    """Drops all that the schema holds of ours and makes the tables as they were after that migration, empty."""
    drop: tuple[tuple[str, LiteralString], ...] = (
        ("v", "drop view if exists {} cascade"),
        ("r", "drop table if exists {} cascade"),
    )
    for kind, statement in drop:
        rows = connection.execute(
            "select relname from pg_class where relnamespace = current_schema()::regnamespace and relkind = %s", [kind]
        ).fetchall()
        for (name,) in rows:
            # One that another one took along is gone already.
            connection.execute(sql.SQL(statement).format(sql.Identifier(name)))
    functions = connection.execute(
        """
        select oid::regprocedure::text from pg_proc
        where pronamespace = current_schema()::regnamespace
            and not exists (select from pg_depend where objid = pg_proc.oid and deptype = 'e')
        """
    ).fetchall()
    for (name,) in functions:
        # As the database itself writes it, with whatever has to be quoted.
        connection.execute(sql.SQL("drop function if exists {} cascade").format(_as_it_writes(name)))
    apply_migrations(connection, last_migration)
    for table in table_shapes(connection):
        connection.execute(sql.SQL("truncate {} cascade").format(sql.Identifier(table.name)))


@dataclass(frozen=True, slots=True)
class _Reference:
    table: str
    name: str
    definition: str


def without_guards(connection: Connection[Any], fill: Callable[[], None]) -> None:
    """Has tables filled in any order: what they refer to is checked at the end, and nobody is told of their rows."""
    tables = [one.name for one in table_shapes(connection)]
    references = [
        _Reference(*row)
        for row in connection.execute(
            """
            select relname, conname, pg_get_constraintdef(pg_constraint.oid)
            from pg_constraint join pg_class on pg_class.oid = conrelid
            where contype = 'f' and relnamespace = current_schema()::regnamespace order by relname, conname
            """
        ).fetchall()
    ]
    for one in references:
        connection.execute(
            sql.SQL("alter table {} drop constraint {}").format(sql.Identifier(one.table), sql.Identifier(one.name))
        )
    _triggers(connection, tables, "alter table {} disable trigger user")
    fill()
    for one in references:
        connection.execute(
            sql.SQL("alter table {} add constraint {} {}").format(
                sql.Identifier(one.table), sql.Identifier(one.name), _as_it_writes(one.definition)
            )
        )
    _triggers(connection, tables, "alter table {} enable trigger user")


def _triggers(connection: Connection[Any], tables: Sequence[str], statement: LiteralString) -> None:
    for table in tables:
        connection.execute(sql.SQL(statement).format(sql.Identifier(table)))


def _as_it_writes(text: str) -> sql.SQL:
    """What the database itself wrote of its own tables, quoted as it has to be."""
    return sql.SQL(cast(LiteralString, text))


def set_counters(connection: Connection[Any], counted: Sequence[Counter]) -> None:
    """Lets columns that number their rows go on where they were."""
    for one in counted:
        if one.last is not None:
            connection.execute(
                "select setval(pg_get_serial_sequence(format('%%I.%%I', current_schema(), %s::text), %s), %s)",
                [one.table, one.column, one.last],
            )


def is_empty(connection: Connection[Any]) -> bool:
    """Whether nobody has kept anything here yet."""
    row = connection.execute(
        "select not exists (select from collections) and not exists (select from people)"
    ).fetchone()
    return row == (True,)


def _with_columns(table: TableShape) -> sql.Composed:
    return sql.SQL("{} ({})").format(
        sql.Identifier(table.name), sql.SQL(", ").join(sql.Identifier(column) for column in table.columns)
    )
