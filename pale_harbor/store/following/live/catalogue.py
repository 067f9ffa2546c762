"""What tables another PostgreSQL has, and which of them refer to which: from its own catalogue."""

from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection

from pale_harbor.store.following.live.postgresql import LivePostgreSQL, told

_MOST_TABLES: Final = 2_000


@dataclass(frozen=True, slots=True)
class TableColumn:
    """A column as the database writes its type. is_value: whether a record can hold it: no bytes, and nothing that only
    the database itself understands."""

    name: str
    written: str
    is_value: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveTable:
    """A table that may be read. rows: about how many, None where nobody counted; key: the columns of its primary key;
    keys: every set of columns that name a row. log_columns: what the log says of a row that went or changed (its
    replica identity): None for all columns."""

    schema: str
    name: str
    written: str
    rows: int | None
    columns: list[TableColumn]
    key: list[str]
    keys: list[list[str]]
    log_columns: list[str] | None

    @property
    def full_name(self) -> str:
        """With its schema, unquoted, as the log tells it."""
        return f"{self.schema}.{self.name}"


@dataclass(frozen=True, slots=True)
class Reference:
    """A foreign key: the columns of a table (by its full name) that name rows of another one."""

    table: str
    columns: list[str]
    to: str
    to_columns: list[str]


@dataclass(frozen=True, slots=True)
class Catalogue:
    """Tables by schema and name, and what refers to what. tables: those that a role may read; more: whether there are
    more than are told."""

    tables: list[LiveTable]
    references: list[Reference]
    more: bool

    def table(self, full_name: str) -> LiveTable | None:
        """None where there is none of that name that may be read."""
        return next((one for one in self.tables if one.full_name == full_name), None)


def catalogue_of(live: LivePostgreSQL) -> Catalogue:
    """What may be read of a database. Raises SourceAway, SourceRefuses."""
    with told(), live.reading() as connection:
        tables = _tables(connection)
        references = connection.execute(
            """
            select own_schema.nspname || '.' || own.relname, from_columns.names,
                other_schema.nspname || '.' || other.relname, to_columns.names
            from pg_constraint
            join pg_class as own on own.oid = conrelid
            join pg_namespace as own_schema on own_schema.oid = own.relnamespace
            join pg_class as other on other.oid = confrelid
            join pg_namespace as other_schema on other_schema.oid = other.relnamespace
            cross join lateral (
                select array_agg(attname::text order by place) as names
                from unnest(conkey) with ordinality as at(number, place)
                join pg_attribute on attrelid = conrelid and attnum = at.number
            ) as from_columns
            cross join lateral (
                select array_agg(attname::text order by place) as names
                from unnest(confkey) with ordinality as at(number, place)
                join pg_attribute on attrelid = confrelid and attnum = at.number
            ) as to_columns
            where contype = 'f' and conparentid = 0
            order by 1, conname
            """
        ).fetchall()
    known = {one.full_name for one in tables}
    return Catalogue(
        tables[:_MOST_TABLES],
        [one for one in (Reference(*row) for row in references) if one.table in known and one.to in known],
        len(tables) > _MOST_TABLES,
    )


def tables_named(live: LivePostgreSQL, names: list[str]) -> dict[str, LiveTable | None]:
    """Tables by how SQL writes them; None where there is none that may be read. Raises SourceAway, SourceRefuses."""
    with told(), live.reading() as connection:
        found = dict(
            connection.execute(
                """
                select written, nspname || '.' || relname
                from unnest(%s::text[]) as written
                left join pg_class on pg_class.oid = to_regclass(written)
                left join pg_namespace on pg_namespace.oid = relnamespace
                """,
                [names],
            ).fetchall()
        )
        by_name = {one.full_name: one for one in _tables(connection, [name for name in found.values() if name])}
    return {name: by_name.get(found.get(name) or "") for name in names}


def _tables(connection: Connection[Any], only: list[str] | None = None) -> list[LiveTable]:
    rows = connection.execute(
        """
        select nspname, relname, pg_class.oid::regclass::text, reltuples::bigint, relreplident,
            (
                select json_agg(json_build_array(attname, format_type(atttypid, atttypmod),
                    held.typcategory in ('B', 'D', 'E', 'I', 'N', 'S', 'T')
                    or held.typname in ('uuid', 'json', 'jsonb')) order by attnum)
                from pg_attribute join pg_type as own on own.oid = atttypid
                join pg_type as held on held.oid = case own.typcategory when 'A' then own.typelem else own.oid end
                where attrelid = pg_class.oid and attnum > 0 and not attisdropped
            ),
            (
                select json_agg(json_build_array(indisprimary, indisreplident, (
                    select json_agg(attname order by place)
                    from unnest(indkey::int2[]) with ordinality as at(number, place)
                    join pg_attribute on attrelid = pg_class.oid and attnum = at.number
                )) order by indisprimary desc, indexrelid)
                from pg_index where indrelid = pg_class.oid and indisunique and indisvalid and indpred is null
                    and not (0 = any(indkey::int2[]))
            )
        from pg_class join pg_namespace on pg_namespace.oid = relnamespace
        where relkind in ('r', 'p') and not relispartition and nspname not like 'pg\\_%%'
            and nspname <> 'information_schema' and nspname not like 'pale\\_harbor\\_%%'
            and has_schema_privilege(pg_namespace.oid, 'usage')
            and has_any_column_privilege(pg_class.oid, 'select')
            and (%s::text[] is null or nspname || '.' || relname = any(%s))
        order by nspname, relname limit %s
        """,
        [only, only, _MOST_TABLES + 1],
    ).fetchall()
    return [_table(*row) for row in rows]


def _table(
    schema: str, name: str, written: str, rows: int, identity: Any, columns: list[Any] | None, indexes: list[Any] | None
) -> LiveTable:
    keys = [(bool(primary), bool(told), list(names)) for primary, told, names in indexes or []]
    key = next((names for primary, _, names in keys if primary), [])
    identity = identity.decode() if isinstance(identity, bytes) else str(identity)
    log_columns: list[str] | None
    match identity:
        case "f":
            log_columns = None
        case "i":
            log_columns = next((names for _, told, names in keys if told), [])
        case "d":
            log_columns = key
        case _:
            log_columns = []
    return LiveTable(
        schema=schema,
        name=name,
        written=written,
        rows=rows if rows >= 0 else None,
        columns=[TableColumn(*one) for one in columns or []],
        key=key,
        keys=[names for _, _, names in keys],
        log_columns=log_columns,
    )
