"""Loads judged sets from files."""

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import read_judgments, read_queries
from pale_harbor.store.collections import collection_named
from pale_harbor.store.judged_sets import SetQuery, replace_set
from pale_harbor.store.records import records_with_keys
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True)
class JudgedReport:
    """What was loaded. unknown_records: graded records that the collection does not hold."""

    queries: int
    grades: int
    revision: int
    unknown_records: list[str]


def load_judged_set(
    workbench: Workbench, collection_name: str, set_name: str, queries_path: Path, grades_path: Path
) -> JudgedReport:
    """Puts a judged set in place, whole or not at all. Raises BadInput with what is wrong."""
    queries = read_queries(queries_path)
    grades = read_judgments(grades_path)
    _check_queries_known(grades, {query.query_id for query in queries}, grades_path)
    rows = [SetQuery(query.query_id, query.query, query.need, list(query.tags)) for query in queries]
    keys = sorted({key for of_query in grades.values() for key in of_query})
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        judged_set = replace_set(connection, collection.id, set_name, rows, grades)
        known = records_with_keys(connection, collection.id, keys)
    return JudgedReport(
        len(rows),
        sum(len(of_query) for of_query in grades.values()),
        judged_set.revision,
        [key for key in keys if key not in known],
    )


def _check_queries_known(grades: Mapping[str, object], known: set[str], path: Path) -> None:
    strangers = [query_id for query_id in grades if query_id not in known]
    if strangers:
        shown = ", ".join(strangers[:10]) + (" …" if len(strangers) > 10 else "")
        raise BadInput(f"{path}: grades for queries that the queries file does not have: {shown}.")
