"""What a ranker of a collection depends on beside its own document, told in one statement."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection


@dataclass(frozen=True, slots=True, kw_only=True)
class PartsState:
    """The same state gives the same ranker for the same document.

    chains, lists: how many versions of them are saved, which only grows. default_ranker: of the collection;
    newest_version: of the ranker that was asked for, or of the default one, None where there is none.
    """

    chains: int
    lists: int
    fields: tuple[str, ...]
    spaces: tuple[str, ...]
    default_ranker: str | None
    newest_version: int | None


def parts_state(connection: Connection[Any], collection_id: int, ranker: str | None) -> PartsState:
    """The present state. ranker: whose newest version is told, the default one's where it is None."""
    row = connection.execute(
        """
        select
            (select count(*) from chains where collection_id = id),
            (select count(*) from word_lists where collection_id = id),
            (select coalesce(array_agg(name order by place), '{}') from fields where collection_id = collections.id),
            (select coalesce(array_agg(name order by name), '{}') from spaces where collection_id = collections.id),
            default_ranker,
            (
                select max(version) from rankers
                where collection_id = collections.id and name = coalesce(%(ranker)s, default_ranker)
            )
        from collections where id = %(collection)s
        """,
        {"collection": collection_id, "ranker": ranker},
    ).fetchone()
    if row is None:
        return PartsState(chains=0, lists=0, fields=(), spaces=(), default_ranker=None, newest_version=None)
    chains, lists, fields, spaces, default, newest = row
    return PartsState(
        chains=chains,
        lists=lists,
        fields=tuple(fields),
        spaces=tuple(spaces),
        default_ranker=default,
        newest_version=newest,
    )
