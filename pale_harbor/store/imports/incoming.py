"""The table `incoming_rows`: rows on their way in, and how they become records."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.types.json import Json

from pale_harbor.store.collections.collections import Collection
from pale_harbor.store.imports.staged import begin_staging, stage_rows

# row number, line, key, content hash, values
IncomingRow = tuple[int, int, str, bytes, dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Merged:
    """What became of incoming rows."""

    added: int
    updated: int
    unchanged: int
    deleted: int

    @property
    def changed(self) -> bool:
        """Whether any record came, went or changed."""
        return bool(self.added or self.updated or self.deleted)


@dataclass(frozen=True, slots=True)
class Outlook:
    """What incoming rows would do to a collection that has so many records now.

    emptied: of each field, how many records that are changed lose the value they have.
    """

    records: int
    added: int
    updated: int
    unchanged: int
    deleted: int
    emptied: dict[str, int]

    @property
    def deletes_many(self) -> bool:
        """Whether it deletes more than a tenth of the records."""
        return 10 * self.deleted > self.records


def add_incoming(connection: Connection[Any], job_id: int, rows: Iterable[IncomingRow]) -> None:
    """Adds rows to those that wait to be merged."""
    with (
        connection.cursor() as cursor,
        cursor.copy(
            "copy incoming_rows (job_id, row_number, line, key, content_hash, field_values) from stdin"
        ) as copy,
    ):
        for row_number, line, key, content_hash, values in rows:
            copy.write_row((job_id, row_number, line, key, content_hash, Json(values)))


def add_incoming_deletions(connection: Connection[Any], job_id: int, keys: Iterable[str]) -> None:
    """Adds keys of records that are to be deleted."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into incoming_deletions (job_id, key) values (%s, %s) on conflict do nothing",
            [(job_id, key) for key in keys],
        )


def drop_incoming(connection: Connection[Any], job_id: int) -> None:
    """Lets go of the rows that wait to be merged, and of what came with them."""
    connection.execute("delete from incoming_rows where job_id = %s", [job_id])
    connection.execute("delete from incoming_deletions where job_id = %s", [job_id])
    connection.execute("delete from incoming_places where job_id = %s", [job_id])
    connection.execute("delete from incoming_pictures where job_id = %s", [job_id])


def repeated_rows(connection: Connection[Any], job_id: int) -> list[tuple[int, int, str, int]]:
    """Rows whose key an earlier row has: row number, line, key, and the earlier row's line."""
    return connection.execute(
        """
        select row_number, line, key, first_line from (
            select row_number, line, key,
                first_value(row_number) over same as first_row, first_value(line) over same as first_line
            from incoming_rows where job_id = %s
            window same as (partition by key order by row_number)
        ) as numbered
        where row_number > first_row order by row_number
        """,
        [job_id],
    ).fetchall()


def gather_incoming(connection: Connection[Any], job_id: int) -> None:
    """Makes a job's rows the rows to merge, of rows with the same key the first, and the keys to delete that no row
    has, until the transaction ends."""
    connection.execute(
        """
        create temporary table first_rows on commit drop as
        select distinct on (key) key, content_hash, field_values from incoming_rows
        where job_id = %s order by key, row_number
        """,
        [job_id],
    )
    connection.execute("alter table first_rows add primary key (key)")
    connection.execute("analyze first_rows")
    connection.execute(
        """
        create temporary table gone_keys on commit drop as
        select key from incoming_deletions where job_id = %s
            and not exists (select from first_rows where first_rows.key = incoming_deletions.key)
        """,
        [job_id],
    )


def gathered_beside_records(
    connection: Connection[Any], collection: Collection, count: int = 5_000
) -> Iterator[list[tuple[str, dict[str, Any], dict[str, Any]]]]:
    """Of gathered rows that differ from the record with their key: key, the record's values, the row's; in batches."""
    after = ""
    while True:
        rows: list[tuple[str, dict[str, Any], dict[str, Any]]] = connection.execute(
            """
            select key, records.field_values, first_rows.field_values from first_rows join records using (key)
            where collection_id = %s and key > %s and records.content_hash <> first_rows.content_hash
            order by key limit %s
            """,
            [collection.id, after, count],
        ).fetchall()
        if not rows:
            return
        yield rows
        after = rows[-1][0]


def keying_field(connection: Connection[Any]) -> str | None:
    """The field whose value is the key of every gathered row; None where there is none."""
    row = connection.execute(
        """
        select name from first_rows, json_each_text(field_values) as own(name, value)
        group by name having count(*) filter (where value = key) = (select count(*) from first_rows)
        order by name limit 1
        """
    ).fetchone()
    return None if row is None else str(row[0])


def put_gathered(connection: Connection[Any], rows: Sequence[tuple[str, bytes, dict[str, Any]]]) -> None:
    """Gives gathered rows other values: key, content hash, values."""
    connection.execute(
        'create temporary table given (key text collate "C", content_hash bytea, field_values json) on commit drop'
    )
    with (
        connection.cursor() as cursor,
        cursor.copy("copy given (key, content_hash, field_values) from stdin") as copy,
    ):
        for key, content_hash, values in rows:
            copy.write_row((key, content_hash, Json(values)))
    connection.execute(
        """
        update first_rows set content_hash = given.content_hash, field_values = given.field_values
        from given where first_rows.key = given.key
        """
    )
    connection.execute("drop table given")


def outlook_of_gathered(connection: Connection[Any], collection: Collection, *, replace: bool) -> Outlook:
    """What merging the gathered rows would do."""
    counted = connection.execute(
        """
        select
            (select count(*) from records where collection_id = %(id)s),
            count(*) filter (where records.key is null),
            count(*) filter (where records.content_hash <> first_rows.content_hash),
            count(*) filter (where records.content_hash = first_rows.content_hash)
        from first_rows left join records on collection_id = %(id)s and records.key = first_rows.key
        """,
        {"id": collection.id},
    ).fetchone()
    assert counted is not None
    records, added, updated, unchanged = counted
    emptied = connection.execute(
        """
        select name, count(*)
        from first_rows join records using (key), json_each_text(records.field_values) as had(name, value)
        where collection_id = %s and records.content_hash <> first_rows.content_hash
            and value not in ('', '[]') and coalesce(first_rows.field_values ->> name, '') in ('', '[]')
        group by name order by name
        """,
        [collection.id],
    ).fetchall()
    deleted = records - updated - unchanged if replace else _named_gone(connection, collection)
    return Outlook(records, added, updated, unchanged, deleted, dict(emptied))


def merge_gathered(connection: Connection[Any], collection: Collection, *, replace: bool) -> Merged:
    """Makes the gathered rows the collection's records; what was there before is kept as earlier records.

    replace: records that no row names are deleted, else those of the gathered keys. All in the caller's transaction,
    which holds the collection.
    """
    row = connection.execute("select count(*) from first_rows").fetchone()
    assert row is not None
    return _merge(connection, collection, int(row[0]), replace=replace)


def gathered_values(connection: Connection[Any], count: int = 5_000) -> Iterator[dict[str, Any]]:
    """The values of every gathered row."""
    after = ""
    while True:
        rows = connection.execute(
            "select key, field_values from first_rows where key > %s order by key limit %s", [after, count]
        ).fetchall()
        if not rows:
            return
        yield from (values for _, values in rows)
        after = rows[-1][0]


def merge_rows(
    connection: Connection[Any], collection: Collection, rows: Sequence[tuple[str, bytes, dict[str, Any]]]
) -> Merged:
    """Makes a few rows (key, content hash, values; each key once) records of a collection, as an import does.

    All in the caller's transaction, which holds the collection.
    """
    begin_staging(connection)
    stage_rows(connection, rows)
    return _merge(connection, collection, len(rows), replace=False)


def _merge(connection: Connection[Any], collection: Collection, count: int, *, replace: bool) -> Merged:
    """Makes the temporary table of rows, each key once, the collection's records."""
    names: dict[str, Any] = {"id": collection.id, "revision": collection.revision + 1}
    # Else a few rows are looked for by reading all records.
    connection.execute("analyze first_rows")
    # Of a replaced collection everything is summed anew, once it is there.
    gone = [] if replace else _sums_of_gone(connection, names)
    deleted = _delete_others(connection, names) if replace else _delete_named(connection, names)
    connection.execute(
        """
        insert into earlier_records
            (collection_id, key, revision, ended_revision, ended_by, content_hash, field_values)
        select collection_id, records.key, records.revision, %(revision)s, 'change',
            records.content_hash, records.field_values
        from records join first_rows using (key)
        where collection_id = %(id)s and records.content_hash <> first_rows.content_hash
        """,
        names,
    )
    updated = connection.execute(
        """
        update records set
            content_hash = first_rows.content_hash, field_values = first_rows.field_values, revision = %(revision)s
        from first_rows
        where collection_id = %(id)s and records.key = first_rows.key
            and records.content_hash <> first_rows.content_hash
        """,
        names,
    ).rowcount
    added = connection.execute(
        """
        insert into records (collection_id, key, revision, content_hash, field_values)
        select %(id)s, key, %(revision)s, content_hash, field_values from first_rows
        on conflict (collection_id, key) do nothing
        """,
        names,
    ).rowcount
    merged = Merged(added, updated, count - added - updated, deleted)
    if merged.changed:
        if not replace:
            came = _sums(
                connection.execute(
                    """
                    select quarter, sum(hash_quarter(content_hash, quarter))
                    from records, generate_series(0, 3) as quarter
                    where collection_id = %(id)s and revision = %(revision)s group by quarter
                    """,
                    names,
                ).fetchall()
            )
            total = [old - out + new for old, out, new in zip(_parse(collection.fingerprint), gone, came, strict=True)]
        else:
            total = _quarters(connection, collection.id)
        _set_revision(connection, collection, total)
    connection.execute("drop table first_rows")
    connection.execute("drop table if exists gone_keys")
    return merged


def delete_records(connection: Connection[Any], collection: Collection, keys: list[str]) -> int:
    """Deletes records by key and keeps them as earlier ones; returns how many were there."""
    names: dict[str, Any] = {"id": collection.id, "revision": collection.revision + 1, "keys": keys}
    gone = _sums(
        connection.execute(
            """
            select quarter, sum(hash_quarter(content_hash, quarter))
            from records, generate_series(0, 3) as quarter
            where collection_id = %(id)s and key = any(%(keys)s) group by quarter
            """,
            names,
        ).fetchall()
    )
    deleted = connection.execute(
        """
        with gone as (
            delete from records where collection_id = %(id)s and key = any(%(keys)s) returning *
        )
        insert into earlier_records
            (collection_id, key, revision, ended_revision, ended_by, content_hash, field_values)
        select collection_id, key, revision, %(revision)s, 'deletion', content_hash, field_values from gone
        """,
        names,
    ).rowcount
    if deleted:
        total = [old - out for old, out in zip(_parse(collection.fingerprint), gone, strict=True)]
        _set_revision(connection, collection, total)
    return deleted


def _delete_others(connection: Connection[Any], names: dict[str, Any]) -> int:
    """Deletes what no row of a replacing import names."""
    return connection.execute(
        """
        with gone as (
            delete from records where collection_id = %(id)s
                and not exists (select from first_rows where first_rows.key = records.key)
            returning *
        )
        insert into earlier_records
            (collection_id, key, revision, ended_revision, ended_by, content_hash, field_values)
        select collection_id, key, revision, %(revision)s, 'deletion', content_hash, field_values from gone
        """,
        names,
    ).rowcount


def _sums_of_gone(connection: Connection[Any], names: dict[str, Any]) -> list[int]:
    """The sums of the content hashes of records that gathered rows change, or gathered keys delete."""
    changed = _sums(
        connection.execute(
            """
            select quarter, sum(hash_quarter(records.content_hash, quarter))
            from records join first_rows using (key), generate_series(0, 3) as quarter
            where collection_id = %(id)s and records.content_hash <> first_rows.content_hash
            group by quarter
            """,
            names,
        ).fetchall()
    )
    if not _names_any_gone(connection):
        return changed
    deleted = _sums(
        connection.execute(
            """
            select quarter, sum(hash_quarter(records.content_hash, quarter))
            from records join gone_keys using (key), generate_series(0, 3) as quarter
            where collection_id = %(id)s group by quarter
            """,
            names,
        ).fetchall()
    )
    return [one + other for one, other in zip(changed, deleted, strict=True)]


def _names_any_gone(connection: Connection[Any]) -> bool:
    """Whether keys of records that go were gathered: only what is read from elsewhere names any."""
    row = connection.execute("select to_regclass('pg_temp.gone_keys') is not null").fetchone()
    return row is not None and bool(row[0])


def _named_gone(connection: Connection[Any], collection: Collection) -> int:
    """How many records the gathered keys would delete."""
    if not _names_any_gone(connection):
        return 0
    row = connection.execute(
        "select count(*) from records join gone_keys using (key) where collection_id = %s", [collection.id]
    ).fetchone()
    return 0 if row is None else int(row[0])


def _delete_named(connection: Connection[Any], names: dict[str, Any]) -> int:
    """Deletes the records of the gathered keys."""
    if not _names_any_gone(connection):
        return 0
    return connection.execute(
        """
        with gone as (
            delete from records where collection_id = %(id)s and key in (select key from gone_keys) returning *
        )
        insert into earlier_records
            (collection_id, key, revision, ended_revision, ended_by, content_hash, field_values)
        select collection_id, key, revision, %(revision)s, 'deletion', content_hash, field_values from gone
        """,
        names,
    ).rowcount


def _quarters(connection: Connection[Any], collection_id: int) -> list[int]:
    return _sums(
        connection.execute(
            """
            select quarter, sum(hash_quarter(content_hash, quarter))
            from records, generate_series(0, 3) as quarter
            where collection_id = %s group by quarter
            """,
            [collection_id],
        ).fetchall()
    )


def _sums(rows: list[tuple[int, Any]]) -> list[int]:
    by_quarter = {quarter: int(total) for quarter, total in rows}
    return [by_quarter.get(quarter, 0) for quarter in range(4)]


def _parse(fingerprint: str) -> list[int]:
    return [int(fingerprint[16 * quarter : 16 * quarter + 16] or "0", 16) for quarter in range(4)]


def _set_revision(connection: Connection[Any], collection: Collection, total: list[int]) -> None:
    """The next revision. The fingerprint is the sum of all content hashes, by quarters, modulo 2^64."""
    fingerprint = "".join(f"{quarter % 2**64:016x}" for quarter in total) if any(q % 2**64 for q in total) else ""
    connection.execute(
        "update collections set revision = %s, fingerprint = %s where id = %s",
        [collection.revision + 1, fingerprint, collection.id],
    )
