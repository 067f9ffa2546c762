"""What is told of what was asked at the endpoint: by query, by day, by session, and how two rankers fared.

A query is whatever visitors typed, whatever its capitals and blanks; pages further down a list are no new asking.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Final, Literal, LiteralString

from psycopg import Connection, sql
from psycopg.rows import class_row

from pale_harbor.core.traffic.said import said_alike
from pale_harbor.formats.past_queries import PastQuery

PastOrder = Literal["frequent", "rising", "nothing", "given_up", "slow", "unjudged"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PastAsked:
    """A query as it was asked. query: as it was typed most often; asked: how often, later: of it in the second half of
    the time; found: by its last list, None where nobody knows; nothing: how often it found nothing; given_up: how often
    it found something that nobody clicked; succeeded: how often somebody found what they wanted; slow_ms: of twenty,
    one took longer; cut: how often there was no time for all of it; judged: in how many judged sets it is.
    """

    query: str
    language: str
    asked: int
    later: int
    found: int | None
    nothing: int
    given_up: int
    clicked: int
    succeeded: int
    slow_ms: float | None
    cut: int
    judged: int
    last_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PastDay:
    """What was asked on a day."""

    day: date
    asked: int
    nothing: int
    given_up: int
    succeeded: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionQuery:
    """A query of a session. well: whether something of its list was clicked."""

    session: str
    query: str
    at_s: float
    well: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ShownList:
    """A list that somebody had before them, and what they did with it."""

    query: str
    session: str | None
    shown: list[str]
    teams: str | None
    clicked: list[str]
    succeeded: list[str]


_ORDERS: Final[dict[PastOrder, LiteralString]] = {
    "frequent": "asked desc",
    # Of two counts that are equally likely, so many standard deviations apart.
    "rising": "(2 * later - asked) / sqrt(asked) desc",
    "nothing": "nothing desc",
    "given_up": "given_up desc",
    "slow": "slow_ms desc nulls last",
    "unjudged": "asked desc",
}
_WHERE: Final[dict[PastOrder, LiteralString]] = {
    "frequent": "true",
    # Two standard deviations, and more than one visitor.
    "rising": "2 * later - asked >= 2 * sqrt(asked) and later >= 5",
    "nothing": "nothing > 0",
    "given_up": "given_up > 0",
    "slow": "slow_ms is not null",
    "unjudged": "judged = 0",
}
_QUERIES: Final = sql.SQL("""
    with own as (
        select *,
            exists (select from asked_events as e where e.query_id = q.id and e.collection_id = q.collection_id)
                as is_clicked,
            exists (
                select from asked_events as e
                where e.query_id = q.id and e.collection_id = q.collection_id and kind = 'success'
            ) as is_success
        from asked_queries as q
        where collection_id = %(id)s and at >= %(since)s and skip = 0 and said <> ''
    ), counted as (
        select mode() within group (order by query) as query, mode() within group (order by language) as language,
            count(*) as asked, count(*) filter (where at >= %(middle)s) as later,
            (array_agg(found order by at desc))[1] as found, count(*) filter (where found = 0) as nothing,
            count(*) filter (where coalesce(found, 1) > 0 and not is_clicked) as given_up,
            count(*) filter (where is_clicked) as clicked, count(*) filter (where is_success) as succeeded,
            percentile_cont(0.95) within group (order by elapsed_ms) as slow_ms,
            count(*) filter (where left_out is not null) as cut, max(at) as last_at, said,
            coalesce((
                select sets from unnest(%(judged)s::text[], %(sets)s::bigint[]) as there (said_there, sets)
                where said_there = own.said
            ), 0) as judged
        from own group by said
    )
    select query, language, asked, later, found, nothing, given_up, clicked, succeeded, slow_ms, cut, judged, last_at
    from counted where {where} order by {order}, asked desc, said limit %(count)s
""")


def past_asked(
    connection: Connection[Any],
    collection_id: int,
    since: datetime,
    middle: datetime,
    order: PastOrder,
    count: int,
) -> list[PastAsked]:
    """Queries since a moment, those first that the order is about. middle: from when on they were asked later."""
    statement = _QUERIES.format(where=sql.SQL(_WHERE[order]), order=sql.SQL(_ORDERS[order]))
    judged = _sets_by_said(connection, collection_id)
    with connection.cursor(row_factory=class_row(PastAsked)) as cursor:
        return cursor.execute(
            statement,
            {
                "id": collection_id,
                "since": since,
                "middle": middle,
                "count": count,
                "judged": list(judged),
                "sets": list(judged.values()),
            },
        ).fetchall()


def _sets_by_said(connection: Connection[Any], collection_id: int) -> dict[str, int]:
    """In how many judged sets each query is."""
    found = connection.execute(
        """
        select set_id, query from queries join judged_sets on judged_sets.id = set_id
        where judged_sets.collection_id = %s and until is null
        """,
        [collection_id],
    )
    return Counter(said for _, said in {(set_id, said_alike(query)) for set_id, query in found})


def asked_by_several(
    connection: Connection[Any], collection_id: int, since: datetime, visitors: int, longest: int, most: int
) -> list[PastQuery]:
    """What so many visitors asked at least since a moment and found something last, as it was typed most often, the
    most asked first. Where a log tells of no session each asking is a visitor's of their own. longest: in characters.
    """
    with connection.cursor(row_factory=class_row(PastQuery)) as cursor:
        return cursor.execute(
            """
            select query, asked, language from (
                select mode() within group (order by btrim(query)) as query, count(*) as asked,
                    mode() within group (order by language) as language, said
                from asked_queries
                where collection_id = %(id)s and at >= %(since)s and skip = 0 and said <> ''
                    and length(query) <= %(longest)s
                group by said
                having count(distinct coalesce(session, id::text)) >= %(visitors)s
                    and coalesce((array_agg(found order by at desc))[1], 1) > 0
            ) as told
            order by asked desc, said limit %(most)s
            """,
            {"id": collection_id, "since": since, "visitors": visitors, "longest": longest, "most": most},
        ).fetchall()


def past_days(connection: Connection[Any], collection_id: int, since: datetime) -> list[PastDay]:
    """By day, what is kept in full and what is left of older ones as counts."""
    with connection.cursor(row_factory=class_row(PastDay)) as cursor:
        return cursor.execute(
            """
            select day, sum(asked)::bigint as asked, sum(nothing)::bigint as nothing,
                sum(given_up)::bigint as given_up, sum(succeeded)::bigint as succeeded
            from (
                select (at at time zone 'UTC')::date as day, 1 as asked, (coalesce(found, 1) = 0)::int as nothing,
                    (coalesce(found, 1) > 0 and not exists (
                        select from asked_events as e where e.query_id = q.id and e.collection_id = q.collection_id
                    ))::int as given_up,
                    exists (
                        select from asked_events as e
                        where e.query_id = q.id and e.collection_id = q.collection_id and kind = 'success'
                    )::int as succeeded
                from asked_queries as q where collection_id = %(id)s and at >= %(since)s and skip = 0
                    and said <> ''
                union all
                select day, asked, found_nothing, given_up, succeeded
                from asked_counts where collection_id = %(id)s and day >= %(since)s::date
            ) as told
            group by day order by day
            """,
            {"id": collection_id, "since": since},
        ).fetchall()


def session_queries(connection: Connection[Any], collection_id: int, since: datetime) -> Iterator[SessionQuery]:
    """What each session asked, in the order of time, session by session; streamed."""
    with connection.cursor(name="session_queries", row_factory=class_row(SessionQuery)) as cursor:
        cursor.itersize = 5_000
        cursor.execute(
            """
            select session, query, extract(epoch from at)::float8 as at_s, exists (
                select from asked_events as e where e.query_id = q.id and e.collection_id = q.collection_id
            ) as well
            from asked_queries as q
            where collection_id = %s and at >= %s and skip = 0 and session is not null and said <> ''
            order by session, at
            """,
            [collection_id, since],
        )
        yield from cursor


def lists_shown(
    connection: Connection[Any], collection_id: int, since: datetime, said: str | None = None
) -> Iterator[ShownList]:
    """The lists of visitors with what was clicked of each, by query; streamed. said: of this query alone."""
    with connection.cursor(name="lists_shown", row_factory=class_row(ShownList)) as cursor:
        cursor.itersize = 5_000
        cursor.execute(
            _LISTS,
            {"id": collection_id, "since": since, "said": None if said is None else said_alike(said)},
        )
        yield from cursor


_LISTS: Final[LiteralString] = """
    select said as query, session, shown, teams,
        array(
            select record_key from asked_events as e
            where e.query_id = q.id and e.collection_id = q.collection_id and kind = 'click' order by record_key
        ) as clicked,
        array(
            select record_key from asked_events as e
            where e.query_id = q.id and e.collection_id = q.collection_id and kind = 'success' order by record_key
        ) as succeeded
    from asked_queries as q
    where collection_id = %(id)s and at >= %(since)s and skip = 0 and narrowed is null
        and (%(said)s::text is null or said = %(said)s)
    order by said, at
"""


def mixed_lists(
    connection: Connection[Any], collection_id: int, since: datetime, candidate: tuple[str, int]
) -> Iterator[ShownList]:
    """The lists that were mixed with a candidate's rows since a moment, by session and query; streamed."""
    with connection.cursor(name="mixed_lists", row_factory=class_row(ShownList)) as cursor:
        cursor.itersize = 5_000
        cursor.execute(
            _MIXED,
            {"id": collection_id, "since": since, "ranker": candidate[0], "version": candidate[1]},
        )
        yield from cursor


_MIXED: Final[LiteralString] = """
    select said as query, session, shown, teams,
        array(
            select distinct record_key from asked_events as e
            where e.query_id = q.id and e.collection_id = q.collection_id order by record_key
        ) as clicked,
        array[]::text[] as succeeded
    from asked_queries as q
    where collection_id = %(id)s and at >= %(since)s and teams is not null
        and candidate_ranker = %(ranker)s and candidate_version = %(version)s
    order by session, said, at
"""
