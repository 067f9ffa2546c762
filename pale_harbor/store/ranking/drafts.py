"""The table `drafts`: rankers that are being edited and that nobody kept yet."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound, Overtaken

# So many are kept of a collection; the one that was left longest goes first.
MOST_DRAFTS: Final = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptDraft:
    """A draft. ranker, version: what it stands on; newest: the newest version of that name when it was begun.

    by_person: who changed it last; revision: how often it was changed.
    """

    id: int
    ranker: str
    version: int
    newest: int
    document: dict[str, Any]
    begun_at: datetime
    changed_at: datetime
    by_person: str | None
    revision: int


def drafts_of(connection: Connection[Any], collection_id: int) -> list[KeptDraft]:
    """A collection's drafts, the latest changed first."""
    with connection.cursor(row_factory=class_row(KeptDraft)) as cursor:
        return cursor.execute(
            """
            select id, ranker, version, newest, document, begun_at, changed_at, by_person, revision
            from drafts
            where collection_id = %s order by changed_at desc, id desc
            """,
            [collection_id],
        ).fetchall()


def add_draft(
    connection: Connection[Any], collection_id: int, ranker: str, version: int, newest: int, document: dict[str, Any]
) -> int:
    """A new draft; returns its id. The collection is held by the caller's transaction.

    It is the latest, also where the clock was set back: what was changed last must not be the first to go.
    """
    row = connection.execute(
        """
        insert into drafts (collection_id, ranker, version, newest, document, changed_at)
        select %(id)s, %(ranker)s, %(version)s, %(newest)s, %(document)s,
            greatest(clock_timestamp(), max(changed_at) + interval '1 microsecond')
        from drafts where collection_id = %(id)s
        returning id
        """,
        {"id": collection_id, "ranker": ranker, "version": version, "newest": newest, "document": Json(document)},
    ).fetchone()
    assert row is not None
    connection.execute(
        """
        delete from drafts where collection_id = %(id)s and id not in (
            select id from drafts where collection_id = %(id)s order by changed_at desc, id desc limit %(most)s
        )
        """,
        {"id": collection_id, "most": MOST_DRAFTS},
    )
    return int(row[0])


def change_draft(
    connection: Connection[Any], collection_id: int, draft_id: int, document: dict[str, Any], known: int | None = None
) -> int:
    """What a draft is from now on; returns its revision. known: the one that whoever changes it knows of.

    Raises NotFound; Overtaken where it was changed since.
    """
    changed = connection.execute(
        """
        update drafts set document = %(document)s, by_person = acting_person(), revision = revision + 1,
            changed_at = greatest(clock_timestamp(),
                (select max(changed_at) + interval '1 microsecond' from drafts where collection_id = %(collection)s))
        where collection_id = %(collection)s and id = %(id)s
            and (%(known)s::bigint is null or revision = %(known)s)
        returning revision
        """,
        {"document": Json(document), "collection": collection_id, "id": draft_id, "known": known},
    ).fetchone()
    if changed is not None:
        return int(changed[0])
    now = next((one for one in drafts_of(connection, collection_id) if one.id == draft_id), None)
    if now is None:
        raise NotFound("This draft is no longer there: it was kept as a version or discarded.")
    raise Overtaken(f"{now.by_person or 'Somebody'} changed this draft meanwhile. Look at it as it is now first.")


def drop_draft(connection: Connection[Any], collection_id: int, draft_id: int) -> None:
    """Forgets a draft, if it is there."""
    connection.execute("delete from drafts where collection_id = %s and id = %s", [collection_id, draft_id])
