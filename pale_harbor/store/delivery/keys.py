"""The table `delivery_keys`: who may ask the search endpoint, kept as the SHA-256 of what they show."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

KeyKind = Literal["visitor", "program"]


@dataclass(frozen=True, slots=True, kw_only=True)
class DeliveryKey:
    """A key. collection: its name. terms: of a visitor's key, as they are kept; role: of a program's. person_id: whose
    rights a program's key has at most, None where nobody signed in. ended: whether it is good for nothing any more.
    """

    id: int
    collection_id: int
    collection: str
    kind: KeyKind
    label: str
    terms: dict[str, Any] | None
    role: str | None
    person_id: int | None
    by_person: str | None
    made_at: datetime
    used_at: datetime | None
    ends_at: datetime | None
    revoked_at: datetime | None
    ended: bool


def add_key(
    connection: Connection[Any],
    collection_id: int,
    hash_: bytes,
    *,
    label: str,
    terms: dict[str, Any] | None,
    role: str | None,
    days: float | None,
) -> int:
    """Keeps a key, a visitor's where it has terms and a program's where it has a role; returns its id.

    days: for how long it holds, None until it is revoked.
    """
    row = connection.execute(
        """
        insert into delivery_keys (collection_id, hash, kind, label, terms, role, ends_at)
        values (%s, %s, %s, %s, %s, %s, now() + make_interval(secs => %s)) returning id
        """,
        [
            collection_id,
            hash_,
            "program" if terms is None else "visitor",
            label,
            None if terms is None else Json(terms),
            role,
            None if days is None else days * 86_400,
        ],
    ).fetchone()
    assert row is not None
    return int(row[0])


def key_with(connection: Connection[Any], hash_: bytes) -> DeliveryKey | None:
    """The key that whoever shows what has this hash has; None where there is none, or where it has ended."""
    with connection.cursor(row_factory=class_row(DeliveryKey)) as cursor:
        return cursor.execute(
            """
            select k.id, collection_id, collections.name as collection, kind, label, terms, role, person_id, by_person,
                made_at, used_at, ends_at, revoked_at, false as ended
            from delivery_keys as k join collections on collections.id = collection_id
            where hash = %s and revoked_at is null and coalesce(ends_at > now(), true)
            """,
            [hash_],
        ).fetchone()


@dataclass(frozen=True, slots=True, kw_only=True)
class ProgramKey:
    """A program's key. person_id: who made it, None where nobody signed in; keeper, own_role, left: what they are by
    now."""

    id: int
    label: str
    role: str
    collection: str
    collection_id: int
    person_id: int | None
    keeper: bool
    own_role: str | None
    left: bool


def program_with(connection: Connection[Any], hash_: bytes) -> ProgramKey | None:
    """The program's key that whoever shows what has this hash has; None where there is none, or where it has ended."""
    with connection.cursor(row_factory=class_row(ProgramKey)) as cursor:
        return cursor.execute(
            """
            select k.id, label, k.role, collections.name as collection, k.collection_id, k.person_id,
                coalesce(people.keeper, false) as keeper, members.role as own_role, left_at is not null as left
            from delivery_keys as k join collections on collections.id = k.collection_id
            left join people on people.id = k.person_id
            left join members on members.person_id = k.person_id and members.collection_id = k.collection_id
            where hash = %s and kind = 'program' and revoked_at is null and coalesce(ends_at > now(), true)
            """,
            [hash_],
        ).fetchone()


def keys_of(connection: Connection[Any], collection_id: int) -> list[DeliveryKey]:
    """A collection's keys, those that hold first, and of each the newest first."""
    with connection.cursor(row_factory=class_row(DeliveryKey)) as cursor:
        return cursor.execute(
            """
            select k.id, collection_id, collections.name as collection, kind, label, terms, role, person_id, by_person,
                made_at, used_at, ends_at, revoked_at,
                (revoked_at is not null or coalesce(ends_at <= now(), false)) as ended
            from delivery_keys as k join collections on collections.id = collection_id
            where collection_id = %s order by ended, k.id desc
            """,
            [collection_id],
        ).fetchall()


def origins_allowed(connection: Connection[Any], collection: str) -> set[str]:
    """The origins whose pages some visitor's key of a collection lets ask."""
    rows = connection.execute(
        """
        select distinct json_array_elements_text(terms -> 'origins')
        from delivery_keys join collections on collections.id = collection_id
        where collections.name = %s and kind = 'visitor' and json_typeof(terms -> 'origins') = 'array'
            and revoked_at is null and coalesce(ends_at > now(), true)
        """,
        [collection],
    ).fetchall()
    return {origin for (origin,) in rows}


def put_terms(connection: Connection[Any], collection_id: int, key_id: int, label: str, terms: dict[str, Any]) -> bool:
    """Gives a visitor's key other terms; False where there is none of that number that holds."""
    changed = connection.execute(
        """
        update delivery_keys set label = %s, terms = %s
        where collection_id = %s and id = %s and kind = 'visitor' and revoked_at is null
        """,
        [label, Json(terms), collection_id, key_id],
    )
    return changed.rowcount > 0


def revoke_key(connection: Connection[Any], collection_id: int, key_id: int) -> bool:
    """From now on a key is good for nothing; False where there is none of that number that holds."""
    revoked = connection.execute(
        "update delivery_keys set revoked_at = now() where collection_id = %s and id = %s and revoked_at is null",
        [collection_id, key_id],
    )
    return revoked.rowcount > 0


def note_used(connection: Connection[Any], key_id: int) -> None:
    """Notes that a key is used, to the hour."""
    connection.execute(
        """
        update delivery_keys set used_at = now()
        where id = %s and coalesce(used_at < now() - interval '1 hour', true)
        """,
        [key_id],
    )
