"""Takes what visitors asked for a collection's past queries, which completions and corrections read."""

from datetime import UTC, datetime, timedelta

from pale_harbor.errors import BadInput
from pale_harbor.formats.past_queries import LONGEST_PAST_QUERY, MOST_PAST_QUERIES
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.past_told import asked_by_several
from pale_harbor.store.ranking.past_queries import put_past_queries
from pale_harbor.work.ranking.past_queries import PastQueriesTold, past_queries_told
from pale_harbor.work.workbench import Workbench


def offer_asked(bench: Workbench, collection: str, days: int, visitors: int) -> PastQueriesTold:
    """Puts what visitors asked in the place of the past queries that were there: of so many days what so many visitors
    asked at least, since what one alone typed may be about themselves, and what found something last.

    Raises BadInput where that is nothing.
    """
    now = datetime.now(tz=UTC)
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection, lock=True)
        queries = asked_by_several(
            connection, own.id, now - timedelta(days=days), visitors, LONGEST_PAST_QUERY, MOST_PAST_QUERIES
        )
        if not queries:
            raise BadInput(
                f"Of the last {days} days nothing is kept that {visitors} visitors asked and that found something."
            )
        put_past_queries(connection, own.id, f"what visitors asked in {days} days, to {now:%Y-%m-%d}", queries)
    return past_queries_told(bench, collection)
