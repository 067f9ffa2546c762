"""The tables `collections` and `fields`."""

from dataclasses import dataclass
from typing import Any, Final, Literal, LiteralString
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.storable import unstorable

FieldKind = Literal["text", "exact", "number", "date", "flag"]
FieldRole = Literal["key", "title", "language", "picture", "places"]

# The ranker that a collection begins with.
START_RANKER: Final = "start"


@dataclass(frozen=True, slots=True, kw_only=True)
class Collection:
    """A collection as kept: `fingerprint` is of its records' keys and contents.

    uid: of this collection alone, also after another one took its name. display: how its records
    are shown, None until somebody says.
    """

    id: int
    uid: UUID
    name: str
    revision: int
    fingerprint: str
    default_ranker: str | None
    display: dict[str, Any] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class CollectionField:
    """A field of a collection, in the order in which fields were first seen.

    several: whether a record may hold more than one value of it; passages: how its long values
    are cut, None where they are not.
    """

    name: str
    kind: FieldKind
    several: bool = False
    role: FieldRole | None = None
    passages: dict[str, Any] | None = None

    @property
    def is_key(self) -> bool:
        """Whether records are named by it."""
        return self.role == "key"


def all_collections(connection: Connection[Any]) -> list[Collection]:
    """Every collection, by name."""
    with connection.cursor(row_factory=class_row(Collection)) as cursor:
        return cursor.execute(
            """
            select id, uid, name, revision, fingerprint, default_ranker, display
            from collections order by name
            """
        ).fetchall()


def collection_named(connection: Connection[Any], name: str, *, lock: bool = False) -> Collection:
    """The collection of a name; with `lock` nobody else changes it until the transaction ends.

    Raises NotFound with the names there are.
    """
    refuse_unstorable(name)
    with connection.cursor(row_factory=class_row(Collection)) as cursor:
        if lock:
            cursor.execute(
                """
                select id, uid, name, revision, fingerprint, default_ranker, display
                from collections where name = %s for update
                """,
                [name],
            )
        else:
            cursor.execute(
                """
                select id, uid, name, revision, fingerprint, default_ranker, display
                from collections where name = %s
                """,
                [name],
            )
        collection = cursor.fetchone()
    if collection is None:
        names = [other.name for other in all_collections(connection)]
        known = f"There are: {', '.join(names)}." if names else "There is none yet: load one first."
        raise NotFound(f'There is no collection "{name}". {known}')
    return collection


def hold_still(connection: Connection[Any], name: str) -> None:
    """Keeps everybody from changing the collection's records until the transaction ends."""
    connection.execute("select from collections where name = %s for share", [name])


def make_collection(connection: Connection[Any], name: str) -> None:
    """Makes the collection where there is none of that name."""
    check_name(name)
    connection.execute("insert into collections (name) values (%s) on conflict (name) do nothing", [name])


def set_default_ranker(connection: Connection[Any], collection_id: int, ranker: str) -> None:
    """Makes a ranker the one that is taken where none is named."""
    connection.execute("update collections set default_ranker = %s where id = %s", [ranker, collection_id])


def set_display(connection: Connection[Any], collection_id: int, display: dict[str, Any] | None) -> None:
    """Keeps how records are shown, None for by the roles of their fields."""
    connection.execute(
        "update collections set display = %s where id = %s",
        [None if display is None else Json(display), collection_id],
    )


def name_and_revision(connection: Connection[Any], collection_id: int) -> tuple[str, int]:
    """What a collection is called now, and its revision. Raises NotFound where it was dropped."""
    row = connection.execute("select name, revision from collections where id = %s", [collection_id]).fetchone()
    if row is None:
        raise NotFound("The collection was dropped meanwhile.")
    return str(row[0]), int(row[1])


def rename_collection(connection: Connection[Any], collection: Collection, name: str) -> None:
    """Gives a collection another name. Raises BadInput where the name is taken or cannot be one."""
    check_name(name)
    _refuse_taken(connection, name)
    connection.execute("update collections set name = %s where id = %s", [name, collection.id])


def copy_collection(connection: Connection[Any], collection: Collection, name: str) -> None:
    """Makes another collection of the same records, fields, chains, word lists, rankers, judged sets, past queries and
    spaces.

    Earlier states of its records, and runs, stay with the first. Raises BadInput where the name is taken.
    """
    check_name(name)
    _refuse_taken(connection, name)
    row = connection.execute(
        """
        insert into collections (name, revision, fingerprint, default_ranker, display)
        select %s, revision, fingerprint, default_ranker, display from collections where id = %s
        returning id
        """,
        [name, collection.id],
    ).fetchone()
    assert row is not None
    both = {"copy": row[0], "id": collection.id}
    connection.execute(
        """
        insert into fields (collection_id, name, place, kind, several, role, passages)
        select %(copy)s, name, place, kind, several, role, passages from fields where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into records (collection_id, key, revision, content_hash, field_values)
        select %(copy)s, key, revision, content_hash, field_values from records where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into chains (collection_id, name, version, notation, created_at, by_person)
        select %(copy)s, name, version, notation, created_at, by_person from chains where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into word_lists (collection_id, name, version, kind, entries, entry_count, created_at, by_person)
        select %(copy)s, name, version, kind, entries, entry_count, created_at, by_person
        from word_lists where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into rankers (collection_id, name, version, document, chain_versions, list_versions, note, created_at,
            by_person)
        select %(copy)s, name, version, document, chain_versions, list_versions, note, created_at, by_person
        from rankers where collection_id = %(id)s order by id
        """,
        both,
    )
    connection.execute(
        """
        insert into spaces (collection_id, name, document, model, dimensions, epoch, revision, records_revision, report)
        select %(copy)s, name, document, model, dimensions, epoch, revision, records_revision, report
        from spaces where collection_id = %(id)s order by id
        """,
        both,
    )
    connection.execute(
        """
        insert into jobs (kind, collection_id, space_id, by_server, state, problem)
        select 'filling', %(copy)s, copied.id, by_server,
            case when state in ('waiting', 'running') then 'cancelled' else state end, problem
        from jobs join spaces as own on own.id = space_id and own.collection_id = %(id)s
        join spaces as copied on copied.collection_id = %(copy)s and copied.name = own.name
        order by jobs.id
        """,
        both,
    )
    connection.execute(
        """
        insert into learned_models (space_id, epoch, content)
        select copied.id, learned_models.epoch, content
        from learned_models join spaces as own on own.id = space_id and own.collection_id = %(id)s
        join spaces as copied on copied.collection_id = %(copy)s and copied.name = own.name
        """,
        both,
    )
    connection.execute(
        """
        insert into vectors (space_id, about, name, vector, fault)
        select copied.id, about, vectors.name, vector, fault
        from vectors join spaces as own on own.id = space_id and own.collection_id = %(id)s
        join spaces as copied on copied.collection_id = %(copy)s and copied.name = own.name
        """,
        both,
    )
    connection.execute(
        """
        insert into pictures (collection_id, name, media_type, content, small)
        select %(copy)s, name, media_type, content, small from pictures where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into page_places (collection_id, digest, content)
        select %(copy)s, digest, content from page_places where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into past_query_lists (collection_id, source, queries, asked, loaded_at)
        select %(copy)s, source, queries, asked, loaded_at from past_query_lists where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into past_queries (collection_id, query, language, asked)
        select %(copy)s, query, language, asked from past_queries where collection_id = %(id)s
        """,
        both,
    )
    connection.execute(
        """
        insert into judged_sets (
            collection_id, name, revision, queries_revision, settling, locked_share, meanings
        )
        select %(copy)s, name, revision, queries_revision, settling, locked_share, meanings
        from judged_sets where collection_id = %(id)s
        """,
        both,
    )
    for statement in _COPIES_OF_SETS:
        connection.execute(statement, both)


# Whatever holds now of judged sets; earlier revisions stay with the first.
_COPIES_OF_SETS: Final[tuple[LiteralString, ...]] = (
    """
    insert into queries (
        set_id, query_id, place, query, need, tags, filters, language, asked, nothing_to_find, locked, since
    )
    select copied.id, query_id, place, query, need, tags, filters, language, asked, nothing_to_find, locked, since
    from queries join judged_sets as first on first.id = set_id and first.collection_id = %(id)s
    join judged_sets as copied on copied.collection_id = %(copy)s and copied.name = first.name
    where until is null
    """,
    """
    insert into grades (set_id, query_id, record_key, grade, since)
    select copied.id, query_id, record_key, grade, since
    from grades join judged_sets as first on first.id = set_id and first.collection_id = %(id)s
    join judged_sets as copied on copied.collection_id = %(copy)s and copied.name = first.name
    where until is null
    """,
    """
    insert into judgments (set_id, query_id, record_key, judge, grade, note, judged_at, record_hash)
    select copied.id, query_id, record_key, judge, grade, note, judged_at, record_hash
    from judgments join judged_sets as first on first.id = set_id and first.collection_id = %(id)s
    join judged_sets as copied on copied.collection_id = %(copy)s and copied.name = first.name
    where not taken_back
    """,
    """
    insert into settlements (set_id, query_id, record_key, grade, note, settled_at, by_person)
    select copied.id, query_id, record_key, grade, note, settled_at, by_person
    from settlements join judged_sets as first on first.id = set_id and first.collection_id = %(id)s
    join judged_sets as copied on copied.collection_id = %(copy)s and copied.name = first.name
    """,
    """
    insert into expectations (set_id, query_id, kind, record_key, number, note, since)
    select copied.id, query_id, kind, record_key, number, note, since
    from expectations join judged_sets as first on first.id = set_id and first.collection_id = %(id)s
    join judged_sets as copied on copied.collection_id = %(copy)s and copied.name = first.name
    where until is null
    """,
)


def drop_collection(connection: Connection[Any], collection: Collection) -> None:
    """Drops a collection with all that belongs to it."""
    connection.execute("delete from collections where id = %s", [collection.id])


def fields_of(connection: Connection[Any], collection_id: int) -> list[CollectionField]:
    """A collection's fields, in the order in which they were first seen."""
    with connection.cursor(row_factory=class_row(CollectionField)) as cursor:
        return cursor.execute(
            """
            select name, kind, several, role, passages from fields
            where collection_id = %s order by place
            """,
            [collection_id],
        ).fetchall()


def put_fields(connection: Connection[Any], collection_id: int, fields: list[CollectionField]) -> None:
    """Replaces the collection's fields."""
    connection.execute("delete from fields where collection_id = %s", [collection_id])
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into fields (collection_id, name, place, kind, several, role, passages)
            values (%s, %s, %s, %s, %s, %s, %s)
            """,
            [
                (
                    collection_id,
                    f.name,
                    place,
                    f.kind,
                    f.several,
                    f.role,
                    None if f.passages is None else Json(f.passages),
                )
                for place, f in enumerate(fields)
            ],
        )


def _refuse_taken(connection: Connection[Any], name: str) -> None:
    if any(other.name == name for other in all_collections(connection)):
        raise BadInput(f'There is a collection "{name}" already. Choose another name.')


def refuse_unstorable(name: str) -> None:
    """Raises NotFound for a name that cannot be in the database, and cannot be asked for there either."""
    if (wrong := unstorable(name)) is not None:
        raise NotFound(f"There is nothing of that name: it holds {wrong}.")


def check_name(name: str) -> None:
    """Raises BadInput unless a collection, chain, ranker or judged set can be called so."""
    plain = name.replace("-", "a").replace("_", "a")
    if not (plain.isascii() and plain.isalnum() and plain == plain.lower() and len(name) <= 63 and name[0] not in "-_"):
        raise BadInput(
            f'"{name[:80]}" cannot be a name: a name has 1 to 63 small letters, digits, "-" and "_", '
            "and begins with a letter or digit."
        )
