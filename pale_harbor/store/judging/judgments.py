"""The tables `judgments` and `settlements`: what each judge said, and what somebody settled by hand."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb


@dataclass(frozen=True, slots=True, kw_only=True)
class Judgment:
    """grade: None where the judge passed; judge: empty where nobody said who; taken_back: undone by the judge.

    judged_at: when the server heard of it; on its way in, by the judge's clock. device, order: on its way in, from
    where it comes and how far that device is in what it says.
    """

    query_id: str
    record_key: str
    judge: str
    grade: int | None
    note: str
    judged_at: datetime
    taken_back: bool = False
    device: str | None = None
    order: int | None = None


# A judge has a few devices. Whoever makes up more is not remembered by all of them.
_LONGEST_ORDERS: Final = 4_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Settlement:
    """What somebody settled by hand."""

    query_id: str
    record_key: str
    grade: int
    note: str
    settled_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class StaleJudgment:
    """A judgment of a record that has changed since, or is gone."""

    query_id: str
    record_key: str
    judge: str
    grade: int | None
    judged_at: datetime
    gone: bool


def judgments_of(connection: Connection[Any], set_id: int) -> list[Judgment]:
    """What stands, by query, record and judge; what was taken back is left out."""
    with connection.cursor(row_factory=class_row(Judgment)) as cursor:
        return cursor.execute(
            """
            select query_id, record_key, judge, grade, note, judged_at, taken_back from judgments
            where set_id = %s and not taken_back order by query_id, record_key, judge
            """,
            [set_id],
        ).fetchall()


def judgments_about(
    connection: Connection[Any], set_id: int, pairs: Iterable[tuple[str, str]]
) -> dict[tuple[str, str], list[Judgment]]:
    """What stands about some queries and records."""
    asked = list(pairs)
    found: dict[tuple[str, str], list[Judgment]] = {}
    with connection.cursor(row_factory=class_row(Judgment)) as cursor:
        for one in cursor.execute(
            """
            select query_id, record_key, judge, grade, note, judged_at, taken_back from judgments
            where set_id = %s and not taken_back
                and (query_id, record_key) in (select * from unnest(%s::text[], %s::text[]))
            order by query_id, record_key, judge
            """,
            [set_id, [query for query, _ in asked], [record for _, record in asked]],
        ):
            found.setdefault((one.query_id, one.record_key), []).append(one)
    return found


def judgments_by(connection: Connection[Any], set_id: int, judge: str) -> list[Judgment]:
    """What stands of one judge."""
    with connection.cursor(row_factory=class_row(Judgment)) as cursor:
        return cursor.execute(
            """
            select query_id, record_key, judge, grade, note, judged_at, taken_back from judgments
            where set_id = %s and judge = %s and not taken_back order by query_id, record_key
            """,
            [set_id, judge],
        ).fetchall()


def last_said_by(connection: Connection[Any], set_id: int, judge: str) -> datetime | None:
    """When a judge last said something, what was taken back included; None where they never did."""
    row = connection.execute(
        "select max(judged_at) from judgments where set_id = %s and judge = %s", [set_id, judge]
    ).fetchone()
    return None if row is None else row[0]


def judges_of(connection: Connection[Any], set_id: int) -> dict[str, int]:
    """How many judgments stand of each judge; under an empty name those of which nobody said who."""
    rows = connection.execute(
        "select judge, count(*) from judgments where set_id = %s and not taken_back group by judge order by judge",
        [set_id],
    )
    return {str(judge): int(count) for judge, count in rows}


def put_judgments(
    connection: Connection[Any], collection_id: int, set_id: int, judgments: Sequence[Judgment]
) -> list[tuple[str, str]]:
    """Keeps what judges said, each about the record as it is now; returns the queries and records concerned.

    What comes later counts later, in its own order within one delivery, even where the clock was set back. What comes
    twice counts once; and what a device said before something else of the same record counts no more, however late it
    comes.
    """
    kept: list[tuple[str, str]] = []
    for number, one in enumerate(sorted(judgments, key=lambda one: (one.order or 0, one.judged_at))):
        row = connection.execute(
            """
            insert into judgments
                (set_id, query_id, record_key, judge, grade, note, judged_at, said_at, said_orders, taken_back,
                    record_hash)
            values (%(set)s, %(query)s, %(record)s, %(judge)s, %(grade)s, %(note)s,
                -- one after the other, also within a delivery
                greatest(clock_timestamp() + %(number)s * interval '1 microsecond',
                    (select max(judged_at) + interval '1 microsecond' from judgments
                    where set_id = %(set)s and query_id = %(query)s and record_key = %(record)s)),
                %(at)s, %(orders)s, %(back)s,
                (select content_hash from records where collection_id = %(collection)s and key = %(record)s))
            on conflict (set_id, query_id, record_key, judge) do update
                set grade = excluded.grade, note = excluded.note, judged_at = excluded.judged_at,
                    said_at = excluded.said_at, taken_back = excluded.taken_back, record_hash = excluded.record_hash,
                    said_orders = case when octet_length(judgments.said_orders::text) < %(longest)s
                        then judgments.said_orders || excluded.said_orders else excluded.said_orders end
                where case when %(device)s::text is null
                    then judgments.said_at is distinct from excluded.said_at
                    else coalesce((judgments.said_orders ->> %(device)s)::bigint, -1) < %(order)s::bigint end
            returning 1
            """,
            {
                "set": set_id,
                "collection": collection_id,
                "query": one.query_id,
                "record": one.record_key,
                "judge": one.judge,
                "grade": one.grade,
                "note": one.note,
                "number": number,
                "at": one.judged_at,
                "device": one.device,
                "order": one.order,
                "orders": Jsonb({} if one.device is None else {one.device: one.order}),
                "longest": _LONGEST_ORDERS,
                "back": one.taken_back,
            },
        ).fetchone()
        if row is not None:
            kept.append((one.query_id, one.record_key))
    return kept


def replace_judgments(
    connection: Connection[Any], collection_id: int, set_id: int, judgments: Sequence[Judgment]
) -> None:
    """Puts these in place of all that was judged; what stays as it is stays about the record as it was then."""
    before, wanted = set(judgments_of(connection, set_id)), set(judgments)
    new = [one for one in judgments if one not in before]
    gone = [*(before - wanted), *new]
    connection.execute(
        """
        delete from judgments where set_id = %s
            and (query_id, record_key, judge) in (select * from unnest(%s::text[], %s::text[], %s::text[]))
        """,
        [set_id, *([getattr(one, name) for one in gone] for name in ("query_id", "record_key", "judge"))],
    )
    with (
        connection.cursor() as cursor,
        cursor.copy("copy judgments (set_id, query_id, record_key, judge, grade, note, judged_at) from stdin") as copy,
    ):
        for one in new:
            copy.write_row(
                (set_id, one.query_id, one.record_key, one.judge, one.grade, one.note, one.judged_at),
            )
    connection.execute(
        """
        update judgments set record_hash = content_hash from records
        where set_id = %s and collection_id = %s and key = record_key and record_hash is null
        """,
        [set_id, collection_id],
    )


def replace_settlements(connection: Connection[Any], set_id: int, settlements: Sequence[Settlement]) -> None:
    """Puts these in place of all that was settled by hand."""
    connection.execute("delete from settlements where set_id = %s", [set_id])
    with (
        connection.cursor() as cursor,
        cursor.copy("copy settlements (set_id, query_id, record_key, grade, note, settled_at) from stdin") as copy,
    ):
        for one in settlements:
            copy.write_row((set_id, one.query_id, one.record_key, one.grade, one.note, one.settled_at))


def drop_judgments_of(connection: Connection[Any], set_id: int, query_ids: Sequence[str]) -> None:
    """Forgets what was judged and settled for queries that are no more."""
    for statement in (
        "delete from judgments where set_id = %s and query_id = any(%s::text[])",
        "delete from settlements where set_id = %s and query_id = any(%s::text[])",
    ):
        connection.execute(statement, [set_id, list(query_ids)])


def settlements_of(connection: Connection[Any], set_id: int) -> list[Settlement]:
    """What was settled by hand, by query and record."""
    with connection.cursor(row_factory=class_row(Settlement)) as cursor:
        return cursor.execute(
            """
            select query_id, record_key, grade, note, settled_at from settlements
            where set_id = %s order by query_id, record_key
            """,
            [set_id],
        ).fetchall()


def put_settlement(
    connection: Connection[Any], set_id: int, query_id: str, record_key: str, grade: int | None, note: str
) -> None:
    """Settles a record's grade by hand; None: the set's rule decides again."""
    if grade is None:
        connection.execute(
            "delete from settlements where set_id = %s and query_id = %s and record_key = %s",
            [set_id, query_id, record_key],
        )
        return
    connection.execute(
        """
        insert into settlements (set_id, query_id, record_key, grade, note) values (%s, %s, %s, %s, %s)
        on conflict (set_id, query_id, record_key) do update
            set grade = excluded.grade, note = excluded.note, settled_at = now(), by_person = acting_person()
        """,
        [set_id, query_id, record_key, grade, note],
    )


def stale_judgments(connection: Connection[Any], collection_id: int, set_id: int) -> list[StaleJudgment]:
    """Judgments of records that are not as they were when they were judged."""
    with connection.cursor(row_factory=class_row(StaleJudgment)) as cursor:
        return cursor.execute(
            """
            select query_id, record_key, judge, grade, judged_at, records.key is null as gone
            from judgments left join records on records.collection_id = %s and records.key = record_key
            where set_id = %s and not taken_back and record_hash is not null
                and record_hash is distinct from content_hash
            order by query_id, record_key, judge
            """,
            [collection_id, set_id],
        ).fetchall()


def confirm_judgments(
    connection: Connection[Any], collection_id: int, set_id: int, query_id: str, record_key: str
) -> int:
    """Says that what was judged of a record holds for it as it is now; returns of how many judgments."""
    return connection.execute(
        """
        update judgments
        set record_hash = (select content_hash from records where collection_id = %s and key = record_key)
        where set_id = %s and query_id = %s and record_key = %s
        """,
        [collection_id, set_id, query_id, record_key],
    ).rowcount
