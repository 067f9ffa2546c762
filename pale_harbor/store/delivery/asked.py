"""The tables `asked_queries`, `asked_events` and `asked_counts`: what visitors asked at the endpoint, what they did
with its lists, and what is left of both after their days."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.types.json import Json

from pale_harbor.core.traffic.said import said_alike

EventKind = Literal["click", "success"]


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedQuery:
    """A list that was asked for. found to version: None where another search answered, whose log tells of it. narrowed:
    filters and sort, None where there were none. shown: keys, in order. teams: of a list mixed with a candidate's,
    whose each row is: l, c, - for nobody's. left_out: what the time did not reach for."""

    id: UUID
    collection_id: int
    at: datetime
    key_id: int | None
    session: str | None
    query: str
    language: str = ""
    narrowed: dict[str, Any] | None = None
    is_typed: bool = False
    skip: int = 0
    found: int | None
    elapsed_ms: float | None
    ranker: str | None
    version: int | None
    candidate_ranker: str | None = None
    candidate_version: int | None = None
    teams: str | None = None
    shown: list[str]
    left_out: list[str] = field(default_factory=list[str])


def add_asked(connection: Connection[Any], asked: Sequence[AskedQuery]) -> int:
    """Keeps what was asked, each once, and returns how much was not known; of a collection or a key that was dropped
    meanwhile nothing is kept."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into asked_queries (
                id, collection_id, at, key_id, session, query, said, language, narrowed, is_typed, skip, found,
                elapsed_ms, ranker, version, candidate_ranker, candidate_version, teams, shown, left_out
            )
            select %(id)s, collections.id, %(at)s, (select id from delivery_keys where id = %(key_id)s), %(session)s,
                %(query)s, %(said)s, %(language)s, %(narrowed)s, %(is_typed)s, %(skip)s, %(found)s, %(elapsed_ms)s,
                %(ranker)s, %(version)s, %(candidate_ranker)s, %(candidate_version)s, %(teams)s, %(shown)s, %(left_out)s
            from collections where collections.id = %(collection_id)s
            on conflict (id) do nothing
            """,
            [_row(one) for one in asked],
        )
        return max(0, cursor.rowcount)


def _row(one: AskedQuery) -> dict[str, Any]:
    return {
        "id": one.id,
        "collection_id": one.collection_id,
        "at": one.at,
        "key_id": one.key_id,
        "session": one.session,
        "query": one.query,
        "said": said_alike(one.query),
        "language": one.language,
        "narrowed": None if one.narrowed is None else Json(one.narrowed),
        "is_typed": one.is_typed,
        "skip": one.skip,
        "found": one.found,
        "elapsed_ms": one.elapsed_ms,
        "ranker": one.ranker,
        "version": one.version,
        "candidate_ranker": one.candidate_ranker,
        "candidate_version": one.candidate_version,
        "teams": one.teams,
        "shown": one.shown,
        "left_out": one.left_out or None,
    }


def add_event(
    connection: Connection[Any], collection_id: int, query_id: UUID, kind: EventKind, record_key: str
) -> bool:
    """Keeps what somebody did with a row of a list; False where it was known already."""
    added = connection.execute(
        """
        insert into asked_events (query_id, kind, record_key, collection_id) values (%s, %s, %s, %s)
        on conflict do nothing
        """,
        [query_id, kind, record_key, collection_id],
    )
    return added.rowcount > 0


def add_events(
    connection: Connection[Any], collection_id: int, events: Sequence[tuple[UUID, EventKind, str, datetime]]
) -> None:
    """Keeps what a log tells: query, kind, record and when, each once."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into asked_events (query_id, kind, record_key, collection_id, at) values (%s, %s, %s, %s, %s)
            on conflict do nothing
            """,
            [(query_id, kind, key, collection_id, at) for query_id, kind, key, at in events],
        )


def asked_in_sessions(connection: Connection[Any], collection_id: int, beginning: str) -> int:
    """How many lists are kept of sessions that begin so; what was being typed left out."""
    row = connection.execute(
        """
        select count(*) from asked_queries
        where collection_id = %s and starts_with(session, %s) and not is_typed
        """,
        [collection_id, beginning],
    ).fetchone()
    assert row is not None
    return int(row[0])


def spread_sessions(connection: Connection[Any], collection_id: int, beginning: str, days: int) -> None:
    """Moves what made-up visitors did back in time, each session by a number of days of its own, as if they had come
    day after day. beginning: of their sessions."""
    connection.execute(
        """
        with own as (
            select id, make_interval(days => (abs(hashtext(session)::bigint) %% %(days)s)::integer) as back
            from asked_queries
            where collection_id = %(id)s and starts_with(session, %(beginning)s)
        ), moved as (
            update asked_queries set at = at - back from own where asked_queries.id = own.id
        )
        update asked_events set at = at - back from own where query_id = own.id
        """,
        {"id": collection_id, "beginning": beginning, "days": days},
    )


def count_and_forget(connection: Connection[Any], collection_id: int, days: int) -> int:
    """Of what was asked so many days ago only counts are kept; returns how many queries were forgotten.

    Given up was what found something that nobody clicked, as long as it is kept in full and later; a list that was only
    narrowed asked no query.
    """
    row = connection.execute(
        """
        with gone as (
            delete from asked_queries
            where collection_id = %(collection)s and at < date_trunc('day', now()) - make_interval(days => %(days)s)
            returning *
        ), told as (
            select gone.id, (at at time zone 'UTC')::date as day, query, language, found,
                exists (
                    select from asked_events
                    where query_id = gone.id and asked_events.collection_id = gone.collection_id
                ) as clicked,
                exists (
                    select from asked_events
                    where query_id = gone.id and asked_events.collection_id = gone.collection_id and kind = 'success'
                ) as succeeded
            from gone where skip = 0 and said <> ''
        ), counted as (
            insert into asked_counts as kept
                (collection_id, day, query, language, asked, found_nothing, given_up, succeeded)
            select %(collection)s, day, query, language, count(*), count(*) filter (where found = 0),
                count(*) filter (where coalesce(found, 1) > 0 and not clicked), count(*) filter (where succeeded)
            from told group by day, query, language
            on conflict (collection_id, day, query, language) do update set
                asked = kept.asked + excluded.asked, found_nothing = kept.found_nothing + excluded.found_nothing,
                given_up = kept.given_up + excluded.given_up, succeeded = kept.succeeded + excluded.succeeded
        )
        select count(*) from gone
        """,
        {"collection": collection_id, "days": days},
    ).fetchone()
    # Seen by the statement above as they were before it.
    connection.execute(
        """
        delete from asked_events
        where collection_id = %s and at < date_trunc('day', now()) - make_interval(days => %s)
            and not exists (select from asked_queries where asked_queries.id = query_id)
        """,
        [collection_id, days],
    )
    assert row is not None
    return int(row[0])
