"""The tables `visits` and `failed_visits`: what a browser or a program shows to be somebody, kept as its SHA-256."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row

VisitKind = Literal["browser", "key"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """Somebody's sign-in in a browser, or a key of a program of theirs. number: tells it from their others."""

    number: str
    kind: VisitKind
    label: str
    begun_at: datetime
    seen_at: datetime
    ends_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Visitor:
    """Whoever showed something valid. roles: by the names of the collections that they are members of;
    collections: the ids of those that they may look at."""

    person_id: int
    name: str
    shown: str
    has_password: bool
    keeper: bool
    makes_collections: bool
    kind: VisitKind
    roles: dict[str, str]
    collections: list[int]


def add_visit(
    connection: Connection[Any], hash_: bytes, person_id: int, kind: VisitKind, label: str, days: float
) -> None:
    """From now on whoever shows what has this hash is that person, for so many days."""
    connection.execute(
        """
        insert into visits (hash, person_id, kind, label, ends_at)
        values (%s, %s, %s, %s, now() + make_interval(secs => %s))
        """,
        [hash_, person_id, kind, label, days * 86_400],
    )


def visitor_with(connection: Connection[Any], hash_: bytes, unseen_days: float) -> Visitor | None:
    """Who shows what has this hash; None where nobody does, or not any more.

    unseen_days: a browser that did not come for so long has to sign in again.
    """
    with connection.cursor(row_factory=class_row(Visitor)) as cursor:
        return cursor.execute(
            """
            select person_id, name, shown, has_password, keeper, makes_collections, kind, roles, collections
            from visits join visitors using (person_id)
            where hash = %s and ends_at > now()
                and (kind = 'key' or seen_at > now() - make_interval(secs => %s))
            """,
            [hash_, unseen_days * 86_400],
        ).fetchone()


def visitor_named(connection: Connection[Any], name: str) -> Visitor | None:
    """Somebody of this name who may come in, as if they had."""
    with connection.cursor(row_factory=class_row(Visitor)) as cursor:
        return cursor.execute(
            """
            select person_id, name, shown, has_password, keeper, makes_collections, 'key' as kind, roles, collections
            from visitors where name = %s
            """,
            [name.strip().lower()],
        ).fetchone()


def note_seen(connection: Connection[Any], hash_: bytes) -> None:
    """Notes that somebody comes, to the hour."""
    connection.execute(
        "update visits set seen_at = now() where hash = %s and seen_at < now() - interval '1 hour'", [hash_]
    )


def visits_of(connection: Connection[Any], person_id: int) -> list[Visit]:
    """Somebody's browsers and keys that still count, the newest first."""
    with connection.cursor(row_factory=class_row(Visit)) as cursor:
        return cursor.execute(
            """
            select encode(substr(hash, 1, 8), 'hex') as number, kind, label, begun_at, seen_at, ends_at
            from visits where person_id = %s and ends_at > now() order by begun_at desc
            """,
            [person_id],
        ).fetchall()


def end_visit(connection: Connection[Any], hash_: bytes) -> None:
    """Whoever shows what has this hash is nobody any more."""
    connection.execute("delete from visits where hash = %s", [hash_])


def end_numbered(connection: Connection[Any], person_id: int, number: str) -> bool:
    """Ends one of somebody's; False where there is none of that number."""
    ended = connection.execute(
        "delete from visits where person_id = %s and encode(substr(hash, 1, 8), 'hex') = %s", [person_id, number]
    )
    return ended.rowcount > 0


def end_others(connection: Connection[Any], person_id: int, but: bytes | None) -> None:
    """Ends all of somebody's, but for the one that they are here by."""
    connection.execute("delete from visits where person_id = %s and hash is distinct from %s", [person_id, but])


def note_failure(connection: Connection[Any], name: str, address: str) -> None:
    """Notes an attempt that failed, and forgets those that do not count any more."""
    connection.execute("delete from failed_visits where failed_at < now() - interval '1 day'")
    connection.execute("insert into failed_visits (name, address) values (%s, %s)", [name, address])


def failures(connection: Connection[Any], name: str, address: str, minutes: float) -> tuple[int, int]:
    """How often it failed lately: by this name, and from this address.

    What a clock that was ahead noted does not count: nobody is to wait until it is that late.
    """
    row = connection.execute(
        """
        select count(*) filter (where name = %s), count(*) filter (where address = %s)
        from failed_visits where failed_at > now() - make_interval(secs => %s) and failed_at <= now()
        """,
        [name, address, minutes * 60],
    ).fetchone()
    assert row is not None
    return int(row[0]), int(row[1])


def forget_failures(connection: Connection[Any], name: str) -> None:
    """Somebody came in by this name: what failed before does not count any more."""
    connection.execute("delete from failed_visits where name = %s", [name])


def forget_ended(connection: Connection[Any]) -> None:
    """Forgets visits that ended."""
    connection.execute("delete from visits where ends_at < now()")
