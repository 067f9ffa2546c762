"""Judged sets from files: queries and grades in TREC columns, JSON Lines or CSV, told by content.

Queries: `id<TAB>query` lines, or rows with `query_id`, `query` and, if known, `need` and `tags`.
Grades: TREC's four columns, or rows with `query_id`, `record` and `grade`.
"""

import csv
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import orjson

from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable
from pale_harbor.formats.trec import read_grades

HIGHEST_GRADE: Final = 3
LONGEST_QUERY: Final = 10_000
Grades = dict[str, dict[str, int]]


@dataclass(frozen=True, slots=True)
class JudgedQuery:
    """A query as a visitor typed it, and what the visitor wanted."""

    query_id: str
    query: str
    need: str = ""
    tags: tuple[str, ...] = ()


def read_queries(path: Path) -> list[JudgedQuery]:
    """The queries in order. Raises BadInput with every line that is wrong."""
    rows = _rows(path)
    if rows is None:
        rows = _tabbed(path)
    queries: dict[str, JudgedQuery] = {}
    problems: list[tuple[str, str]] = []
    for line, row in rows:
        query_id, query = str(row.get("query_id") or ""), str(row.get("query") or "")
        tags = row.get("tags") or ()
        texts = (
            query_id,
            query,
            str(row.get("need") or ""),
            *map(str, tags if not isinstance(tags, str) else ()),
        )
        wrong = next((wrong for text in texts if (wrong := unstorable(text))), None)
        if not query_id or not query:
            problems.append((f"line {line}", "a query needs query_id and query."))
        elif wrong is not None:
            problems.append((f"line {line}", f"this row holds {wrong}."))
        elif query_id in queries:
            problems.append((f"line {line}", f"the query {query_id} stands here twice."))
        elif len(query) > LONGEST_QUERY:
            problems.append((f"line {line}", f"the query is longer than {LONGEST_QUERY:,} characters."))
        else:
            listed = tags.replace(";", ",").split(",") if isinstance(tags, str) else tags
            named = tuple(tag for item in listed if (tag := str(item).strip()))
            queries[query_id] = JudgedQuery(query_id, query, str(row.get("need") or ""), named)
    _refuse(path, problems)
    return list(queries.values())


def read_judgments(path: Path) -> Grades:
    """Grades by query and record key, each 0 to 3. Raises BadInput with every line that is wrong."""
    rows = _rows(path)
    grades: Grades = {}
    problems: list[tuple[str, str]] = []
    if rows is None:
        grades = read_grades(path)
        for query_id, of_query in grades.items():
            for key, grade in of_query.items():
                if not 0 <= grade <= HIGHEST_GRADE:
                    problems.append((f"query {query_id}, record {key}", _grade_problem(grade)))
    else:
        for line, row in rows:
            query_id, key, grade = (
                str(row.get("query_id") or ""),
                str(row.get("record") or ""),
                row.get("grade"),
            )
            if isinstance(grade, str) and grade.strip().isdecimal():
                grade = int(grade)
            if not query_id or not key:
                problems.append((f"line {line}", "a grade needs query_id, record and grade."))
            elif unstorable(query_id) or unstorable(key):
                problems.append((f"line {line}", "this row holds a character that cannot be stored."))
            elif isinstance(grade, bool) or not isinstance(grade, int) or not 0 <= grade <= HIGHEST_GRADE:
                problems.append((f"line {line}", _grade_problem(grade)))
            elif grades.setdefault(query_id, {}).setdefault(key, grade) != grade:
                problems.append((f"line {line}", f"{key} was graded otherwise for query {query_id} before."))
    _refuse(path, problems)
    return grades


def _grade_problem(grade: object) -> str:
    return f"the grade {grade!r} is not one of 0, 1, 2 and 3."


def _rows(path: Path) -> Iterator[tuple[int, dict[str, Any]]] | None:
    """The rows of a JSON Lines file or of a CSV file with a header; None for plain columns."""
    text = _text(path)
    lines = text.splitlines()
    first = next((line for line in lines if line.strip()), "")
    if first.lstrip().startswith("{"):
        return _json_rows(path, lines)
    header = next(csv.reader([first]), []) if first else []
    if "query_id" in header:
        return _csv_rows(path, text)
    return None


def _json_rows(path: Path, lines: list[str]) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, line in enumerate(lines, start=1):
        if line.strip():
            try:
                row = orjson.loads(line)
            except orjson.JSONDecodeError as error:
                raise BadInput(f"{path}, line {number}: this is not JSON: {error.msg}.") from error
            if not isinstance(row, dict):
                raise BadInput(f"{path}, line {number}: a JSON object must stand here.")
            yield number, row


def _csv_rows(path: Path, text: str) -> Iterator[tuple[int, dict[str, Any]]]:
    reader = csv.DictReader(text.splitlines(keepends=True), strict=True)
    try:
        for row in reader:
            yield reader.line_num, row
    except csv.Error as error:
        raise BadInput(f"{path}, line {reader.line_num}: this row is not CSV: {error}.") from error


def _tabbed(path: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, line in enumerate(_text(path).splitlines(), start=1):
        if line.strip():
            query_id, _, query = line.partition("\t")
            yield number, {"query_id": query_id.strip(), "query": query.strip()}


def _text(path: Path) -> str:
    try:
        return path.read_text("utf-8-sig")
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise BadInput(f"{path} is not UTF-8 text (byte {error.start + 1}). Save it as UTF-8.") from error


def _refuse(path: Path, problems: list[tuple[str, str]]) -> None:
    if problems:
        raise BadInput(f"{path} cannot be used.", problems[:20])
