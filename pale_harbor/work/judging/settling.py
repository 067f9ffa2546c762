"""Keeps the grades that count in step with what judges said and what somebody settled by hand."""

from collections.abc import Iterable
from typing import Any

from psycopg import Connection

from pale_harbor.core.judging import GivenGrade, settled_grade
from pale_harbor.store.judging.judged_sets import JudgedSet, counted_grades, grades_of, put_grades
from pale_harbor.store.judging.judgments import Judgment, judgments_about, judgments_of, settlements_of

Pair = tuple[str, str]


def resettle(
    connection: Connection[Any], judged_set: JudgedSet, revision: int, pairs: Iterable[Pair] | None = None
) -> int:
    """Settles grades from a revision on, of all records or of some; returns how many changed."""
    changed = grades_to_change(connection, judged_set, pairs)
    put_grades(connection, judged_set.id, changed, revision)
    return len(changed)


def grades_to_change(
    connection: Connection[Any], judged_set: JudgedSet, pairs: Iterable[Pair] | None = None
) -> dict[Pair, int | None]:
    """The grades that must change to follow from what was said: by query and record, None where none counts."""
    if pairs is None:
        said: dict[Pair, list[Judgment]] = {}
        for one in judgments_of(connection, judged_set.id):
            said.setdefault((one.query_id, one.record_key), []).append(one)
        counted = {
            (query, record): grade
            for query, of_query in grades_of(connection, judged_set.id).items()
            for record, grade in of_query.items()
        }
        asked = {*said, *counted}
    else:
        asked = set(pairs)
        said = judgments_about(connection, judged_set.id, asked)
        counted = counted_grades(connection, judged_set.id, asked)
    by_hand = {(one.query_id, one.record_key): one.grade for one in settlements_of(connection, judged_set.id)}
    wanted = {
        pair: by_hand[pair]
        if pair in by_hand
        else settled_grade(_given_grades(said.get(pair, [])), judged_set.settling)
        for pair in {*asked, *(by_hand if pairs is None else ())}
    }
    return {pair: wanted[pair] for pair in sorted(wanted) if wanted[pair] != counted.get(pair)}


def _given_grades(judgments: Iterable[Judgment]) -> list[GivenGrade]:
    return [GivenGrade(one.judge, one.grade, one.judged_at.timestamp()) for one in judgments if one.grade is not None]
