"""Makes judged sets, by hand and from plain lists, and changes them."""

import hashlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any, Final, TypeVar

from psycopg import Connection

from pale_harbor.core.judging import Settling
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.judged_files import listed_queries
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.judging.expectations import end_expectations, expectations_of
from pale_harbor.store.judging.judged_sets import (
    JudgedSet,
    SetQuery,
    drop_set,
    held_set,
    make_set,
    next_revision,
    put_queries,
    put_rules,
    queries_of,
    set_named,
    sets_of,
)
from pale_harbor.store.judging.judgments import drop_judgments_of
from pale_harbor.work.judging.settling import resettle
from pale_harbor.work.workbench import Workbench

T = TypeVar("T")

MOST_QUERIES: Final = 20_000
# Judges without a name, in words.
NOBODY: Final = "somebody"
# Of a set that a person makes, this share is locked away unless they say otherwise.
USUAL_LOCKED_SHARE: Final = 0.2


def make_judged_set(workbench: Workbench, collection_name: str, set_name: str, locked_share: float) -> JudgedSet:
    """Makes an empty judged set. Raises BadInput where there is one of that name."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        if any(kept.name == set_name for kept in sets_of(connection, collection.id)):
            raise BadInput(f'There is a judged set "{set_name}" already. Choose another name.')
        made = make_set(connection, collection.id, set_name)
        put_rules(connection, made.id, made.settling, locked_share, made.meanings)
        next_revision(connection, made, of_queries=True)
        return set_named(connection, collection.id, set_name)


def drop_judged_set(workbench: Workbench, collection_name: str, set_name: str) -> None:
    """Drops a set with its judgments, tasks and runs."""
    with workbench.pool.connection() as connection:
        drop_set(connection, set_named(connection, collection_named(connection, collection_name).id, set_name).id)


def change_rules(
    workbench: Workbench,
    collection_name: str,
    set_name: str,
    settling: Settling,
    locked_share: float,
    meanings: Sequence[str],
) -> JudgedSet:
    """Changes how grades are settled, what they mean, and which share of new queries is locked away."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        put_rules(connection, kept.id, settling, locked_share, meanings)
        if settling != kept.settling:
            revision = next_revision(connection, kept, of_queries=False)
            resettle(connection, replace(kept, settling=settling), revision)

    return change_set(workbench, collection_name, set_name, work)


def lock_away(workbench: Workbench, collection_name: str, set_name: str, share: float) -> JudgedSet:
    """Locks a share of a set's queries away; those that are locked stay so, since others were looked at already."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        locked = {query.query_id for query in queries if query.locked}
        wanted = round(share * len(queries)) - len(locked)
        open_ids = [query.query_id for query in queries if not query.locked]
        locked |= set(sorted(open_ids, key=_chance)[: max(0, wanted)])
        put_rules(connection, kept.id, kept.settling, share, kept.meanings)
        put_all(connection, kept, [replace(query, locked=query.query_id in locked) for query in queries])

    return change_set(workbench, collection_name, set_name, work)


def put_query(
    workbench: Workbench, collection_name: str, set_name: str, query: SetQuery, locked: bool | None = None
) -> JudgedSet:
    """Adds a query, or changes the one of that id. locked: None to leave that as it is, or of a new one to chance."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        place = next((i for i, one in enumerate(queries) if one.query_id == query.query_id), len(queries))
        before = queries[place].locked if place < len(queries) else falls_locked(query.query_id, kept)
        queries[place : place + 1] = [replace(query, locked=before if locked is None else locked)]
        put_all(connection, kept, queries)

    return change_set(workbench, collection_name, set_name, work)


def drop_query(workbench: Workbench, collection_name: str, set_name: str, query_id: str) -> JudgedSet:
    """Takes a query out of a set, with what was judged for it. Raises NotFound."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        left = [one for one in queries if one.query_id != query_id]
        if len(left) == len(queries):
            raise NotFound(f'"{set_name}" has no query "{query_id[:80]}".')
        revision = put_all(connection, kept, left)
        drop_judgments_of(connection, kept.id, [query_id])
        resettle(connection, kept, revision)
        ended = [one.id for one in expectations_of(connection, kept.id) if one.query_id == query_id]
        end_expectations(connection, kept.id, revision, ended)

    return change_set(workbench, collection_name, set_name, work)


def add_listed(
    workbench: Workbench, collection_name: str, set_name: str, text: str, most: int | None = None
) -> tuple[JudgedSet, int]:
    """Adds the queries of a plain list that are not there yet, the most asked ones first; how many came in.

    Where a query is there already its count is added to. most: of new queries, all where it is None.
    """
    listed = listed_queries(text, "The list")
    added = 0

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        nonlocal added
        queries = queries_of(connection, kept.id)
        by_text = {one.query: i for i, one in enumerate(queries)}
        taken = {one.query_id for one in queries}
        by_count = sorted(listed, key=lambda one: -(one[2] or 0))
        added = 0
        for query, need, asked in by_count:
            i = by_text.get(query)
            if i is not None:
                if asked is not None:
                    queries[i] = replace(queries[i], asked=(queries[i].asked or 0) + asked)
            elif most is None or added < most:
                query_id = new_query_id(taken)
                taken.add(query_id)
                queries.append(
                    SetQuery(
                        query_id=query_id, query=query, need=need, asked=asked, locked=falls_locked(query_id, kept)
                    )
                )
                added += 1
        put_all(connection, kept, queries)

    return change_set(workbench, collection_name, set_name, work), added


def new_query(
    workbench: Workbench, collection_name: str, set_name: str, query: SetQuery, locked: bool | None = None
) -> str:
    """Adds a query under an id of its own, and returns the id. locked: None to leave it to chance.

    One that is there already word for word, with the same filters, keeps its id and gets what it lacks.
    """
    query_id = ""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        nonlocal query_id
        query_id = add_query(connection, kept, query, locked)

    change_set(workbench, collection_name, set_name, work)
    return query_id


def add_query(connection: Connection[Any], kept: JudgedSet, query: SetQuery, locked: bool | None) -> str:
    """Adds a query to a held set, as `new_query` does."""
    queries = queries_of(connection, kept.id)
    same = (query.query, query.filters, query.language)
    place = next((i for i, one in enumerate(queries) if (one.query, one.filters, one.language) == same), len(queries))
    if place < len(queries):
        known = queries[place]
        tags = [*known.tags, *(tag for tag in query.tags if tag not in known.tags)]
        added = replace(
            known, need=known.need or query.need, tags=tags, locked=known.locked if locked is None else locked
        )
    else:
        query_id = new_query_id({one.query_id for one in queries})
        added = replace(query, query_id=query_id, locked=falls_locked(query_id, kept) if locked is None else locked)
    queries[place : place + 1] = [added]
    put_all(connection, kept, queries)
    return added.query_id


def now() -> datetime:
    """This moment, as judgments are dated."""
    return datetime.now(tz=UTC)


def new_query_id(taken: Iterable[str]) -> str:
    """The next free id, q1, q2 and so on.

    >>> new_query_id({"q1", "q2"})
    'q3'
    """
    known = set(taken)
    number = len(known) + 1
    while f"q{number}" in known:
        number += 1
    return f"q{number}"


def check_count(queries: Sequence[object]) -> None:
    """Raises BadInput where there are too many for a judged set."""
    if len(queries) > MOST_QUERIES:
        raise BadInput(f"A judged set holds {MOST_QUERIES:,} queries at most.")


def locked_away(query_ids: Iterable[str], share: float) -> set[str]:
    """Which of some queries are locked away: a share of them by chance that is the same each time."""
    ids = sorted(query_ids, key=_chance)
    return set(ids[: round(share * len(ids))])


def _chance(query_id: str) -> bytes:
    return hashlib.sha256(query_id.encode()).digest()


def falls_locked(query_id: str, kept: JudgedSet) -> bool:
    return int.from_bytes(_chance(query_id)[:8], "big") < kept.locked_share * 2**64


def put_all(connection: Connection[Any], kept: JudgedSet, queries: Sequence[SetQuery]) -> int:
    """Puts a held set's queries; a new revision where they differ. Returns the revision."""
    check_count(queries)
    if queries_of(connection, kept.id) == list(queries):
        return kept.revision
    revision = next_revision(connection, kept, of_queries=True)
    put_queries(connection, kept.id, queries, revision)
    return revision


def change_set(
    workbench: Workbench,
    collection_name: str,
    set_name: str,
    work: Callable[[Connection[Any], Collection, JudgedSet], None],
) -> JudgedSet:
    """Does something to a set that nobody else changes meanwhile; the set as it is then."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        work(connection, collection, held_set(connection, collection.id, set_name))
        return set_named(connection, collection.id, set_name)
