"""The tables `past_query_lists` and `past_queries`: what visitors asked, one list of a collection."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.formats.past_queries import PastQuery
from pale_harbor.store.collections.collections import refuse_unstorable


@dataclass(frozen=True, slots=True)
class PastQueryList:
    """A collection's past queries. state: another one with every list; asked: of all queries together."""

    state: UUID
    source: str
    queries: int
    asked: int
    loaded_at: datetime


def put_past_queries(
    connection: Connection[Any], collection_id: int, source: str, queries: Sequence[PastQuery]
) -> PastQueryList:
    """Puts a list in the place of the one that was there."""
    refuse_unstorable(source)
    drop_past_queries(connection, collection_id)
    connection.execute(
        "insert into past_query_lists (collection_id, source, queries, asked) values (%s, %s, %s, %s)",
        [collection_id, source, len(queries), sum(one.asked for one in queries)],
    )
    with connection.cursor().copy("copy past_queries (collection_id, query, language, asked) from stdin") as copy:
        for one in queries:
            copy.write_row((collection_id, one.query, one.language, one.asked))
    kept = past_query_list(connection, collection_id)
    assert kept is not None, "it was written above"
    return kept


def drop_past_queries(connection: Connection[Any], collection_id: int) -> bool:
    """Takes a collection's past queries away; False where there were none."""
    return connection.execute("delete from past_query_lists where collection_id = %s", [collection_id]).rowcount > 0


def past_queries_counted(connection: Connection[Any]) -> int:
    """How many past queries are kept, of all collections together."""
    row = connection.execute("select count(*) from past_queries").fetchone()
    return 0 if row is None else int(row[0])


def past_query_list(connection: Connection[Any], collection_id: int) -> PastQueryList | None:
    """What is known of a collection's past queries, None where there are none."""
    with connection.cursor(row_factory=class_row(PastQueryList)) as cursor:
        return cursor.execute(
            "select state, source, queries, asked, loaded_at from past_query_lists where collection_id = %s",
            [collection_id],
        ).fetchone()


def past_queries_of(connection: Connection[Any], collection_id: int, least: int = 1) -> Iterator[PastQuery]:
    """The past queries that were asked so often at least, the most asked first."""
    with connection.cursor(row_factory=class_row(PastQuery)) as cursor:
        yield from cursor.execute(
            """
            select query, asked, language from past_queries
            where collection_id = %s and asked >= %s order by asked desc, query, language
            """,
            [collection_id, least],
        )
