"""Makes judged sets, from files, from lists and by hand; changes them, and writes them out again."""

import hashlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final, TypeVar

from psycopg import Connection

from pale_harbor.core.judging import Settling
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.judged_files import (
    FileJudgment,
    GradeScale,
    JudgedFormat,
    JudgedQuery,
    judgments_in,
    listed_queries,
    queries_in,
    written_judgments,
    written_queries,
)
from pale_harbor.formats.text_files import text_of
from pale_harbor.store.collections import Collection, collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.expectations import end_expectations, expectations_of
from pale_harbor.store.judged_sets import (
    JudgedSet,
    SetQuery,
    drop_set,
    grades_of,
    held_set,
    make_set,
    next_revision,
    put_queries,
    put_rules,
    queries_of,
    set_named,
    sets_of,
)
from pale_harbor.store.judgments import Judgment, drop_judgments_of, judgments_of, replace_judgments
from pale_harbor.store.records import records_with_keys
from pale_harbor.work.settling import resettle
from pale_harbor.work.workbench import Workbench

T = TypeVar("T")

MOST_QUERIES: Final = 20_000
# Judges without a name, in words.
NOBODY: Final = "somebody"
# Of a set that a person makes, this share is locked away unless they say otherwise.
USUAL_LOCKED_SHARE: Final = 0.2


@dataclass(frozen=True, slots=True)
class JudgedReport:
    """What was loaded. unknown_records: graded records that the collection does not hold."""

    queries: int
    grades: int
    revision: int
    unknown_records: list[str]


def load_judged_set(
    workbench: Workbench,
    collection_name: str,
    set_name: str,
    queries_path: Path,
    grades_path: Path,
    scale: GradeScale | None = None,
    locked_share: float | None = None,
) -> JudgedReport:
    """Puts the queries and judgments of two files in place of a set's. Raises BadInput with what is wrong."""
    return put_judged_set(
        workbench,
        collection_name,
        set_name,
        queries_in(text_of(queries_path), str(queries_path)),
        judgments_in(text_of(grades_path), str(grades_path), scale),
        str(grades_path),
        locked_share,
    )


def put_judged_set(
    workbench: Workbench,
    collection_name: str,
    set_name: str,
    queries: Sequence[JudgedQuery],
    judgments: Sequence[FileJudgment] | None,
    judgments_name: str = "the judgments",
    locked_share: float | None = None,
) -> JudgedReport:
    """Puts a judged set in place, whole or not at all; a new revision unless nothing differs.

    judgments: None to keep what was judged for the queries that stay. locked_share: of the queries that do not say
    themselves whether they are locked away; what is locked already stays so.
    """
    known_ids = {query.query_id for query in queries}
    _check_queries_known(judgments or (), known_ids, judgments_name)
    moment = now()
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = make_set(connection, collection.id, set_name)
        before = queries_of(connection, kept.id)
        locked = {one.query_id for one in before if one.locked}
        locked |= locked_away([query.query_id for query in queries if query.locked is None], locked_share or 0.0)
        rows = [_set_query(query, query.query_id in locked) for query in queries]
        if judgments is None:
            said = [one for one in judgments_of(connection, kept.id) if one.query_id in known_ids]
        else:
            said = [
                Judgment(one.query_id, one.record, one.judge, one.grade, one.note, one.judged_at or moment)
                for one in judgments
            ]
        keys = sorted({one.record_key for one in said})
        share = kept.locked_share if locked_share is None else locked_share
        put_rules(connection, kept.id, kept.settling, share, kept.meanings)
        queries_differ = before != rows
        if queries_differ or _without_times(judgments_of(connection, kept.id)) != _without_times(said):
            revision = next_revision(connection, kept, of_queries=queries_differ)
            put_queries(connection, kept.id, rows, revision)
            if judgments is None:
                gone_ids = [one.query_id for one in before if one.query_id not in known_ids]
                drop_judgments_of(connection, kept.id, gone_ids)
            else:
                replace_judgments(connection, collection.id, kept.id, said)
            resettle(connection, kept, revision)
            ended = [one.id for one in expectations_of(connection, kept.id) if one.query_id not in known_ids]
            end_expectations(connection, kept.id, revision, ended)
        kept = set_named(connection, collection.id, set_name)
        known = records_with_keys(connection, collection.id, keys)
    return JudgedReport(len(rows), len(said), kept.revision, [key for key in keys if key not in known])


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

    return _changed(workbench, collection_name, set_name, work)


def lock_away(workbench: Workbench, collection_name: str, set_name: str, share: float) -> JudgedSet:
    """Locks a share of a set's queries away; those that are locked stay so, since others were looked at already."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        locked = {query.query_id for query in queries if query.locked}
        wanted = round(share * len(queries)) - len(locked)
        open_ids = [query.query_id for query in queries if not query.locked]
        locked |= set(sorted(open_ids, key=_chance)[: max(0, wanted)])
        put_rules(connection, kept.id, kept.settling, share, kept.meanings)
        _put(connection, kept, [replace(query, locked=query.query_id in locked) for query in queries])

    return _changed(workbench, collection_name, set_name, work)


def put_query(workbench: Workbench, collection_name: str, set_name: str, query: SetQuery) -> JudgedSet:
    """Adds a query, or changes the one of that id."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        if any(one.query_id == query.query_id for one in queries):
            queries = [query if one.query_id == query.query_id else one for one in queries]
        else:
            queries.append(query)
        _put(connection, kept, queries)

    return _changed(workbench, collection_name, set_name, work)


def drop_query(workbench: Workbench, collection_name: str, set_name: str, query_id: str) -> JudgedSet:
    """Takes a query out of a set, with what was judged for it. Raises NotFound."""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        queries = queries_of(connection, kept.id)
        left = [one for one in queries if one.query_id != query_id]
        if len(left) == len(queries):
            raise NotFound(f'"{set_name}" has no query "{query_id[:80]}".')
        revision = _put(connection, kept, left)
        drop_judgments_of(connection, kept.id, [query_id])
        resettle(connection, kept, revision)
        ended = [one.id for one in expectations_of(connection, kept.id) if one.query_id == query_id]
        end_expectations(connection, kept.id, revision, ended)

    return _changed(workbench, collection_name, set_name, work)


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
                queries.append(SetQuery(query_id, query, need, asked=asked, locked=_falls(query_id, kept)))
                added += 1
        _put(connection, kept, queries)

    return _changed(workbench, collection_name, set_name, work), added


def new_query(workbench: Workbench, collection_name: str, set_name: str, query: SetQuery) -> str:
    """Adds a query under an id of its own, locked away or not by chance, and returns the id.

    One that is there already word for word, with the same filters, keeps its id and gets what it lacks.
    """
    query_id = ""

    def work(connection: Connection[Any], collection: Collection, kept: JudgedSet) -> None:
        nonlocal query_id
        queries = queries_of(connection, kept.id)
        for i, one in enumerate(queries):
            if (one.query, one.filters, one.language) == (query.query, query.filters, query.language):
                query_id = one.query_id
                queries[i] = replace(
                    one, need=one.need or query.need, tags=[*one.tags, *(t for t in query.tags if t not in one.tags)]
                )
                break
        else:
            query_id = new_query_id({one.query_id for one in queries})
            # What an engineer works on is open: it was seen already.
            queries.append(replace(query, query_id=query_id, locked=False))
        _put(connection, kept, queries)

    _changed(workbench, collection_name, set_name, work)
    return query_id


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


def exported(workbench: Workbench, collection_name: str, set_name: str, form: JudgedFormat) -> tuple[str, str]:
    """The queries and the judgments as files. As columns the settled grades, otherwise what each judge said."""
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        queries = [
            JudgedQuery(
                one.query_id,
                one.query,
                one.need,
                tuple(one.tags),
                tuple(one.filters),
                one.language,
                one.asked,
                one.nothing_to_find,
                one.locked,
            )
            for one in queries_of(connection, kept.id)
        ]
        if form == "columns":
            judgments = [
                FileJudgment(query, record, grade)
                for query, of_query in grades_of(connection, kept.id).items()
                for record, grade in of_query.items()
            ]
        else:
            judgments = [
                FileJudgment(one.query_id, one.record_key, one.grade, one.judge, one.note, one.judged_at)
                for one in judgments_of(connection, kept.id)
            ]
    return written_queries(queries, form), written_judgments(judgments, form)


def locked_away(query_ids: Iterable[str], share: float) -> set[str]:
    """Which of some queries are locked away: a share of them by chance that is the same each time."""
    ids = sorted(query_ids, key=_chance)
    return set(ids[: round(share * len(ids))])


def _chance(query_id: str) -> bytes:
    return hashlib.sha256(query_id.encode()).digest()


def _falls(query_id: str, kept: JudgedSet) -> bool:
    return int.from_bytes(_chance(query_id)[:8], "big") < kept.locked_share * 2**64


def _put(connection: Connection[Any], kept: JudgedSet, queries: Sequence[SetQuery]) -> int:
    """Puts a held set's queries; a new revision where they differ. Returns the revision."""
    if len(queries) > MOST_QUERIES:
        raise BadInput(f"A judged set holds {MOST_QUERIES:,} queries at most.")
    if queries_of(connection, kept.id) == list(queries):
        return kept.revision
    revision = next_revision(connection, kept, of_queries=True)
    put_queries(connection, kept.id, queries, revision)
    return revision


def _changed(
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


def _set_query(query: JudgedQuery, locked: bool) -> SetQuery:
    return SetQuery(
        query.query_id,
        query.query,
        query.need,
        list(query.tags),
        list(query.filters),
        query.language,
        query.asked,
        query.nothing_to_find,
        locked if query.locked is None else query.locked,
    )


def _without_times(judgments: Iterable[Judgment]) -> Mapping[tuple[str, str, str], tuple[int | None, str]]:
    return {(one.query_id, one.record_key, one.judge): (one.grade, one.note) for one in judgments}


def _check_queries_known(judgments: Iterable[FileJudgment], known: set[str], name: str) -> None:
    strangers = list(dict.fromkeys(one.query_id for one in judgments if one.query_id not in known))
    if strangers:
        shown = ", ".join(strangers[:10]) + (" …" if len(strangers) > 10 else "")
        raise BadInput(f"{name}: grades for queries that the queries file does not have: {shown}.")
