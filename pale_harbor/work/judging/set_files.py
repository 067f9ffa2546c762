"""Brings judged sets in from files, in place of what was there, and writes them out again."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import (
    FileJudgment,
    GradeScale,
    JudgedFormat,
    JudgedQuery,
    judgments_in,
    queries_in,
    written_judgments,
    written_queries,
)
from pale_harbor.formats.text_files import text_of
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.judged_sets import (
    SetQuery,
    grades_of,
    make_set,
    next_revision,
    put_queries,
    put_rules,
    queries_of,
    set_named,
)
from pale_harbor.store.judging.judgments import (
    Judgment,
    Settlement,
    judgments_of,
    replace_judgments,
    replace_settlements,
    settlements_of,
)
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.judging.expecting import expectations_by_query, put_expectations
from pale_harbor.work.judging.sets import check_count, locked_away, now
from pale_harbor.work.judging.settling import resettle
from pale_harbor.work.workbench import Workbench


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
    grades_path: Path | None,
    scale: GradeScale | None = None,
    locked_share: float | None = None,
) -> JudgedReport:
    """Puts the queries and judgments of two files in place of a set's, as `put_judged_set` does.

    Raises BadInput with what is wrong.
    """
    return put_judged_set(
        workbench,
        collection_name,
        set_name,
        queries_in(text_of(queries_path), str(queries_path)),
        None if grades_path is None else judgments_in(text_of(grades_path), str(grades_path), scale),
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
    themselves whether they are locked away; what is locked already stays so. Where a query does not say what is
    expected, what was expected of it still is.
    """
    check_count(queries)
    known_ids = {query.query_id for query in queries}
    _check_queries_known(judgments or (), known_ids, judgments_name)
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = make_set(connection, collection.id, set_name)
        before = queries_of(connection, kept.id)
        locked = {one.query_id for one in before if one.locked}
        locked |= locked_away([query.query_id for query in queries if query.locked is None], locked_share or 0.0)
        rows = [_set_query(query, query.query_id in locked) for query in queries]
        said, settled = judgments_of(connection, kept.id), settlements_of(connection, kept.id)
        if judgments is None:
            wanted = [one for one in said if one.query_id in known_ids]
            by_hand = [one for one in settled if one.query_id in known_ids]
        else:
            wanted, by_hand = _judges_said(judgments, said, now()), _settlements(judgments, settled, now())
        expected = expectations_by_query(connection, kept.id)
        expectations = {
            query.query_id: expected.get(query.query_id, []) if query.expectations is None else list(query.expectations)
            for query in queries
        }
        share = kept.locked_share if locked_share is None else locked_share
        put_rules(connection, kept.id, kept.settling, share, kept.meanings)
        queries_differ = before != rows
        if (
            queries_differ
            or set(said) != set(wanted)
            or set(settled) != set(by_hand)
            or expected != {query: own for query, own in expectations.items() if own}
        ):
            revision = next_revision(connection, kept, of_queries=queries_differ)
            put_queries(connection, kept.id, rows, revision)
            replace_judgments(connection, collection.id, kept.id, wanted)
            replace_settlements(connection, kept.id, by_hand)
            resettle(connection, kept, revision)
            put_expectations(connection, kept.id, expectations, revision)
        kept = set_named(connection, collection.id, set_name)
        keys = sorted({one.record_key for one in [*wanted, *by_hand]})
        known = records_with_keys(connection, collection.id, keys)
    return JudgedReport(len(rows), len(wanted), kept.revision, [key for key in keys if key not in known])


def export(workbench: Workbench, collection_name: str, set_name: str, form: JudgedFormat) -> tuple[str, str]:
    """The queries and the judgments as files.

    As columns the grades that count; otherwise what each judge said and what was settled by hand.
    """
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        expected = expectations_by_query(connection, kept.id)
        queries = [
            JudgedQuery(
                query_id=one.query_id,
                query=one.query,
                need=one.need,
                tags=tuple(one.tags),
                filters=tuple(one.filters),
                language=one.language,
                asked=one.asked,
                nothing_to_find=one.nothing_to_find,
                locked=one.locked,
                expectations=tuple(expected.get(one.query_id, ())),
            )
            for one in queries_of(connection, kept.id)
        ]
        if form == "columns":
            judgments = [
                FileJudgment(query_id=query, record=record, grade=grade)
                for query, of_query in grades_of(connection, kept.id).items()
                for record, grade in of_query.items()
            ]
        else:
            judgments = [
                FileJudgment(
                    query_id=one.query_id,
                    record=one.record_key,
                    grade=one.grade,
                    judge=one.judge,
                    note=one.note,
                    judged_at=one.judged_at,
                )
                for one in judgments_of(connection, kept.id)
            ] + [
                FileJudgment(
                    query_id=one.query_id,
                    record=one.record_key,
                    grade=one.grade,
                    judge="",
                    note=one.note,
                    judged_at=one.settled_at,
                    settled=True,
                )
                for one in settlements_of(connection, kept.id)
            ]
    return written_queries(queries, form), written_judgments(judgments, form)


def _set_query(query: JudgedQuery, locked: bool) -> SetQuery:
    return SetQuery(
        query_id=query.query_id,
        query=query.query,
        need=query.need,
        tags=list(query.tags),
        filters=list(query.filters),
        language=query.language,
        asked=query.asked,
        nothing_to_find=query.nothing_to_find,
        locked=locked if query.locked is None else query.locked,
    )


def _judges_said(judgments: Iterable[FileJudgment], before: Iterable[Judgment], moment: datetime) -> list[Judgment]:
    """What judges said. What a file gives no time for was said when it was said before, else now."""
    known = {(one.query_id, one.record_key, one.judge, one.grade, one.note): one.judged_at for one in before}
    return [
        Judgment(
            query_id=one.query_id,
            record_key=one.record,
            judge=one.judge,
            grade=one.grade,
            note=one.note,
            judged_at=one.judged_at or known.get(same, moment),
        )
        for one in judgments
        if not one.settled
        for same in [(one.query_id, one.record, one.judge, one.grade, one.note)]
    ]


def _settlements(judgments: Iterable[FileJudgment], before: Iterable[Settlement], moment: datetime) -> list[Settlement]:
    """What was settled by hand, dated as `_said` dates."""
    known = {(one.query_id, one.record_key, one.grade, one.note): one.settled_at for one in before}
    return [
        Settlement(
            query_id=one.query_id,
            record_key=one.record,
            grade=one.grade,
            note=one.note,
            settled_at=one.judged_at or known.get(same, moment),
        )
        for one in judgments
        if one.settled and one.grade is not None
        for same in [(one.query_id, one.record, one.grade, one.note)]
    ]


def _check_queries_known(judgments: Iterable[FileJudgment], known: set[str], name: str) -> None:
    strangers = list(dict.fromkeys(one.query_id for one in judgments if one.query_id not in known))
    if strangers:
        shown = ", ".join(strangers[:10]) + (" …" if len(strangers) > 10 else "")
        raise BadInput(f"{name}: grades for queries that the queries file does not have: {shown}.")
