"""The tables `members` and `invitations`: who may do what with a collection, and who is asked to."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True, slots=True, kw_only=True)
class Member:
    name: str
    shown: str
    role: str
    since: datetime
    left: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Invitation:
    """shown: the name of whoever is invited. collection, role: None for a keeper of the whole."""

    id: int
    shown: str
    collection: str | None
    collection_id: int | None
    role: str | None
    keeper: bool
    by_person: str | None
    made_at: datetime
    ends_at: datetime


def members_of(connection: Connection[Any], collection_id: int) -> list[Member]:
    """A collection's members, by name."""
    with connection.cursor(row_factory=class_row(Member)) as cursor:
        return cursor.execute(
            """
            select name, shown, role, since, left_at is not null as left
            from members join people on people.id = person_id where collection_id = %s order by name
            """,
            [collection_id],
        ).fetchall()


def set_member(connection: Connection[Any], collection_id: int, person_id: int, role: str) -> None:
    """Makes somebody a member, or gives them another role."""
    connection.execute(
        """
        insert into members (collection_id, person_id, role) values (%s, %s, %s)
        on conflict (collection_id, person_id) do update set role = excluded.role
        """,
        [collection_id, person_id, role],
    )


def drop_member(connection: Connection[Any], collection_id: int, person_id: int) -> bool:
    """Whether somebody was a member, who is none now."""
    dropped = connection.execute(
        "delete from members where collection_id = %s and person_id = %s", [collection_id, person_id]
    )
    return dropped.rowcount > 0


def add_invitation(
    connection: Connection[Any],
    hash_: bytes,
    shown: str,
    collection_id: int | None,
    role: str | None,
    *,
    keeper: bool,
    days: float,
) -> None:
    """Invites somebody, for so many days."""
    connection.execute(
        """
        insert into invitations (hash, shown, collection_id, role, keeper, by_person, ends_at)
        values (%s, %s, %s, %s, %s, acting_person(), now() + make_interval(secs => %s))
        """,
        [hash_, shown, collection_id, role, keeper, days * 86_400],
    )


def invitation_with(connection: Connection[Any], hash_: bytes) -> Invitation | None:
    """An invitation that still holds, its row locked: it is taken once."""
    with connection.cursor(row_factory=class_row(Invitation)) as cursor:
        return cursor.execute(
            """
            select invitations.id, shown, collections.name as collection, collection_id, role, keeper, by_person,
                made_at, ends_at
            from invitations left join collections on collections.id = collection_id
            where hash = %s and ends_at > now() for update of invitations
            """,
            [hash_],
        ).fetchone()


def invitations_of(connection: Connection[Any], collection_id: int | None) -> list[Invitation]:
    """Invitations to a collection, or to the whole, that still hold, the newest first."""
    with connection.cursor(row_factory=class_row(Invitation)) as cursor:
        return cursor.execute(
            """
            select invitations.id, shown, collections.name as collection, collection_id, role, keeper, by_person,
                made_at, ends_at
            from invitations left join collections on collections.id = collection_id
            where collection_id is not distinct from %s and ends_at > now() order by invitations.id desc
            """,
            [collection_id],
        ).fetchall()


def drop_invitation(connection: Connection[Any], invitation_id: int, collection_id: int | None) -> bool:
    """Draws an invitation back; False where there is none any more."""
    dropped = connection.execute(
        "delete from invitations where id = %s and collection_id is not distinct from %s",
        [invitation_id, collection_id],
    )
    return dropped.rowcount > 0
