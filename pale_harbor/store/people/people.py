"""The table `people`: who may come in."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.errors import UniqueViolation
from psycopg.rows import class_row

from pale_harbor.errors import BadInput, NotFound


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """name: by which they sign in; shown: by which others know them. has_password: False where another place says who
    they are (issuer). left_at: from when on they may not come in."""

    id: int
    name: str
    shown: str
    has_password: bool
    issuer: str | None
    keeper: bool
    makes_collections: bool
    left_at: datetime | None
    made_at: datetime


def add_person(
    connection: Connection[Any], name: str, shown: str, password: str | None, *, keeper: bool = False
) -> Person:
    """A new person. password: its hash. Raises BadInput where the name is taken."""
    try:
        with connection.transaction(), connection.cursor(row_factory=class_row(Person)) as cursor:
            made = cursor.execute(
                """
                insert into people (name, shown, password, keeper) values (%s, %s, %s, %s)
                returning id, name, shown, password is not null as has_password, issuer, keeper, makes_collections,
                    left_at, made_at
                """,
                [name, shown, password, keeper],
            ).fetchone()
    except UniqueViolation as error:
        taken = shown if "shown" in str(error) else name
        raise BadInput(f'There is somebody called "{taken}" already. Choose another name.') from error
    assert made is not None
    return made


def all_people(connection: Connection[Any]) -> list[Person]:
    """Everybody, by name."""
    with connection.cursor(row_factory=class_row(Person)) as cursor:
        return cursor.execute(
            """
            select id, name, shown, password is not null as has_password, issuer, keeper, makes_collections, left_at,
                made_at
            from people order by name
            """
        ).fetchall()


def person_named(connection: Connection[Any], name: str) -> Person:
    """Raises NotFound."""
    for person in all_people(connection):
        if person.name == name.strip().lower():
            return person
    raise NotFound(f'There is nobody called "{name[:100]}".')


def are_there_people(connection: Connection[Any]) -> bool:
    """Whether anybody is known here, so that everybody signs in."""
    row = connection.execute("select exists (select from people)").fetchone()
    return row is not None and bool(row[0])


def keepers_locked(connection: Connection[Any]) -> list[int]:
    """The ids of keepers who may come in, held until the transaction ends: at least one is to stay."""
    found = connection.execute("select id from people where keeper and left_at is null order by id for update")
    return [int(row[0]) for row in found]


def password_of(connection: Connection[Any], name: str) -> tuple[int, str | None] | None:
    """The id and the password's hash of somebody who may come in."""
    row = connection.execute(
        "select id, password from people where name = %s and left_at is null", [name.strip().lower()]
    ).fetchone()
    return (int(row[0]), row[1]) if row else None


def set_password(connection: Connection[Any], person_id: int, password: str) -> None:
    """password: its hash."""
    connection.execute("update people set password = %s where id = %s", [password, person_id])


def change_person(
    connection: Connection[Any], person_id: int, *, keeper: bool, makes_collections: bool, left: bool
) -> None:
    """Sets what somebody may do here, and whether they may come in."""
    connection.execute(
        """
        update people set keeper = %s, makes_collections = %s,
            left_at = case when not %s then null else coalesce(left_at, now()) end
        where id = %s
        """,
        [keeper, makes_collections, left, person_id],
    )


def forget_person(connection: Connection[Any], person: Person) -> None:
    """Forgets somebody for good: what they did stays, as done by somebody who left."""
    for statement in (
        "update rankers set by_person = 'somebody who left' where by_person = %s",
        "update chains set by_person = 'somebody who left' where by_person = %s",
        "update word_lists set by_person = 'somebody who left' where by_person = %s",
        "update diary set by_person = 'somebody who left' where by_person = %s",
        "update settlements set by_person = 'somebody who left' where by_person = %s",
        "update earlier_records set by_person = 'somebody who left' where by_person = %s",
        "update drafts set by_person = 'somebody who left' where by_person = %s",
        "update jobs set by_person = 'somebody who left' where by_person = %s",
        "update changes set person = 'somebody who left' where person = %s",
        "update invitations set by_person = 'somebody who left' where by_person = %s",
    ):
        connection.execute(statement, [person.shown])
    connection.execute("delete from failed_visits where name = %s", [person.name])
    connection.execute("delete from people where id = %s", [person.id])


def person_of_issuer(connection: Connection[Any], issuer: str, subject: str) -> int | None:
    """The id of somebody whom another place knows, if they may come in."""
    row = connection.execute(
        "select id from people where issuer = %s and subject = %s and left_at is null", [issuer, subject]
    ).fetchone()
    return int(row[0]) if row else None


def unbound_person(connection: Connection[Any], name: str) -> Person | None:
    """Somebody who may come in and has no password yet, nor anybody elsewhere who says who they are."""
    return next(
        (
            one
            for one in all_people(connection)
            if one.name == name and not one.has_password and one.issuer is None and one.left_at is None
        ),
        None,
    )


def bind_to_issuer(connection: Connection[Any], person_id: int, issuer: str, subject: str) -> None:
    """From now on another place says who this is. Raises BadInput where it says so of somebody else."""
    try:
        with connection.transaction():
            connection.execute(
                "update people set issuer = %s, subject = %s where id = %s", [issuer, subject, person_id]
            )
    except UniqueViolation as error:
        raise BadInput("Somebody else signs in here by that account already.") from error
