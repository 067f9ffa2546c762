"""What visitors asked, as a list that somebody loaded: for completions and corrections."""

from dataclasses import dataclass
from itertools import islice
from typing import Final

from pale_harbor.errors import NotFound
from pale_harbor.formats.past_queries import PastQuery, past_queries_in
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.ranking.past_queries import (
    PastQueryList,
    drop_past_queries,
    past_queries_of,
    past_query_list,
    put_past_queries,
)
from pale_harbor.work.workbench import Workbench

_FIRST: Final = 100


@dataclass(frozen=True, slots=True)
class PastQueriesTold:
    """A collection's past queries. kept: None where there are none; first: those that were asked most."""

    kept: PastQueryList | None
    first: list[PastQuery]


def past_queries_told(workbench: Workbench, collection: str) -> PastQueriesTold:
    """What is known of a collection's past queries. Raises NotFound."""
    with workbench.pool.connection() as connection:
        own = collection_named(connection, collection)
        first = list(islice(past_queries_of(connection, own.id), _FIRST))
        return PastQueriesTold(past_query_list(connection, own.id), first)


def load_past_queries(workbench: Workbench, collection: str, text: str, source: str) -> PastQueriesTold:
    """Puts the past queries of a file in the place of those that were there. Raises NotFound, BadInput."""
    queries = past_queries_in(text, source)
    with workbench.pool.connection() as connection:
        put_past_queries(connection, collection_named(connection, collection, lock=True).id, source, queries)
    return past_queries_told(workbench, collection)


def forget_past_queries(workbench: Workbench, collection: str) -> None:
    """Takes a collection's past queries away. Raises NotFound where there are none."""
    with workbench.pool.connection() as connection:
        if not drop_past_queries(connection, collection_named(connection, collection, lock=True).id):
            raise NotFound(f'"{collection}" has no past queries.')
