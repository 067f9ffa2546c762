"""The table `changes`: who changed what, and when."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True, slots=True, kw_only=True)
class NotedChange:
    """person: None where nobody signed in. what: the name of the endpoint or command; about: what it was about."""

    id: int
    at: datetime
    person: str | None
    collection: str | None
    what: str
    about: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangesWanted:
    """None: of everything, of everybody. before: changes with a smaller id only."""

    collection_id: int | None = None
    person: str | None = None
    text: str | None = None
    before: int | None = None


def note_change(connection: Connection[Any], collection: str | None, what: str, about: str) -> None:
    """Notes what the acting person did. collection: its name, if it is still there by that name."""
    connection.execute(
        """
        insert into changes (collection, collection_id, what, about)
        values (%(collection)s, (select id from collections where name = %(collection)s), %(what)s, %(about)s)
        """,
        {"collection": collection, "what": what, "about": about},
    )


def forget_changes(connection: Connection[Any], days: int) -> int:
    """Forgets changes that were noted more than so many days ago; returns how many."""
    return connection.execute("delete from changes where at < now() - make_interval(days => %s)", [days]).rowcount


def changes(connection: Connection[Any], wanted: ChangesWanted, count: int) -> list[NotedChange]:
    """The newest changes, the newest first."""
    with connection.cursor(row_factory=class_row(NotedChange)) as cursor:
        return cursor.execute(
            """
            select id, at, person, collection, what, about from changes
            where (%(collection)s::bigint is null or collection_id = %(collection)s)
                and (%(person)s::text is null or person = %(person)s)
                and (%(text)s::text is null or strpos(lower(what || ' ' || about), lower(%(text)s)) > 0)
                and (%(before)s::bigint is null or id < %(before)s)
            order by id desc limit %(count)s
            """,
            {
                "collection": wanted.collection_id,
                "person": wanted.person,
                "text": wanted.text,
                "before": wanted.before,
                "count": count,
            },
        ).fetchall()
