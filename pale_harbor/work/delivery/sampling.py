"""Puts a sample of what visitors asked into a judged set, so that measures weighted by traffic follow them."""

from typing import Any

from psycopg import Connection

from pale_harbor.store.collections.collections import Collection
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery, queries_of
from pale_harbor.work.delivery.past_told import SampledQuery, sampled_queries
from pale_harbor.work.judging.sets import change_set, falls_locked, make_judged_set, new_query_id, put_all
from pale_harbor.work.workbench import Workbench


def sample_to_set(
    bench: Workbench, collection: str, set_name: str, days: int, count: int, seed: int, locked_share: float
) -> list[SampledQuery]:
    """Makes a judged set of a sample, each query asked as often as it stands for, with its stratum as a tag.

    Raises BadInput where there is a set of that name, or where nothing was asked.
    """
    drawn = sampled_queries(bench, collection, days, count, seed)
    make_judged_set(bench, collection, set_name, locked_share)

    def work(connection: Connection[Any], _collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        for one in drawn:
            query_id = new_query_id([query.query_id for query in queries])
            queries.append(
                SetQuery(
                    query_id=query_id,
                    query=one.query,
                    tags=[one.stratum],
                    asked=max(1, round(one.weight)),
                    locked=falls_locked(query_id, kept),
                )
            )
        put_all(connection, kept, queries)

    change_set(bench, collection, set_name, work)
    return drawn
