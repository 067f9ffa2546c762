"""Judged sets in files: queries and judgments in TREC columns, JSON Lines or CSV, told by content.

Queries: `id<TAB>query` lines, or rows with `query_id`, `query` and, if known, `need`, `tags`, `filters`, `language`,
`asked`, `nothing_to_find`, `locked` and `expectations`. Judgments: TREC's four columns, or rows with `query_id`,
`record`, `grade` and, if known, `judge`, `note`, `judged_at` and `settled`. What is written here reads back as what it
was.
"""

import contextlib
import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any, Final, Literal

import orjson

from pale_harbor.core.judging import Expectation
from pale_harbor.errors import BadInput
from pale_harbor.formats.expectation_rows import expectations_in, written_expectations
from pale_harbor.formats.moments import moment_in
from pale_harbor.formats.ranker.document import filter_documents
from pale_harbor.formats.spreadsheet_cells import guarded_cell
from pale_harbor.formats.storable import unstorable
from pale_harbor.formats.text_rows import rows_of
from pale_harbor.formats.trec import grades_in, written_grades

HIGHEST_GRADE: Final = 3
LONGEST_QUERY: Final = 10_000
LONGEST_TEXT: Final = 10_000
MOST_ASKED: Final = 2**53
JudgedFormat = Literal["columns", "csv", "jsonl"]
# Grades of another scale, each with what it is here.
GradeScale = Mapping[int, int]
Problems = list[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedQuery:
    """A query as a visitor typed it, and what the visitor wanted. locked, expectations: None where the file does not
    say."""

    query_id: str
    query: str
    need: str = ""
    tags: tuple[str, ...] = ()
    filters: tuple[dict[str, Any], ...] = ()
    language: str | None = None
    asked: int | None = None
    nothing_to_find: bool = False
    locked: bool | None = None
    expectations: tuple[Expectation, ...] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FileJudgment:
    """A judgment. judge: empty where nobody said who; grade: None where the judge passed; settled: by hand, so
    that this grade counts whatever judges said."""

    query_id: str
    record: str
    grade: int | None
    judge: str = ""
    note: str = ""
    judged_at: datetime | None = None
    settled: bool = False


@dataclass(slots=True)
class _Told:
    """The problems of a file, gathered while it is read."""

    name: str
    problems: Problems = field(default_factory=Problems)

    def refuse(self) -> None:
        if self.problems:
            raise BadInput(f"{self.name} cannot be used.", self.problems[:20])


def queries_in(text: str, name: str) -> list[JudgedQuery]:
    """The queries of a file in order. Raises BadInput with every line that is wrong."""
    rows = rows_of(text, name, "query_id")
    told = _Told(name)
    queries: dict[str, JudgedQuery] = {}
    for line, row in _rows_of_columns(text) if rows is None else rows:
        try:
            query = _query(row)
        except ValueError as error:
            told.problems.append((f"line {line}", str(error)))
            continue
        if query.query_id in queries:
            told.problems.append((f"line {line}", f"the query {query.query_id} stands here twice."))
        queries[query.query_id] = query
    told.refuse()
    return list(queries.values())


def listed_queries(text: str, name: str) -> list[tuple[str, str, int | None]]:
    """Queries of a plain list: query, need and how often it was asked.

    A line is a query; after a tab may stand how often it was asked, or what is wanted by it. A query that stands
    there several times without a number was asked so often: a list of past queries, one line each time, tells it.
    """
    told = _Told(name)
    needs: dict[str, str] = {}
    asked: dict[str, int | None] = {}
    for line, row in enumerate(io.StringIO(text, newline=""), start=1):
        query, _, more = (part.strip() for part in row.strip("\r\n").partition("\t"))
        if not query:
            continue
        if wrong := unstorable(query) or unstorable(more):
            told.problems.append((f"line {line}", f"this line holds {wrong}."))
        elif len(query) > LONGEST_QUERY:
            told.problems.append((f"line {line}", f"the query is longer than {LONGEST_QUERY:,} characters."))
        else:
            times = int(more) if more.isdecimal() and more.isascii() and len(more) < 16 else None
            if query in needs:
                asked[query] = (asked[query] or 1) + (1 if times is None else times)
            else:
                asked[query] = times
            needs[query] = needs.get(query) or ("" if times is not None else more)
    told.refuse()
    return [(query, need, asked[query]) for query, need in needs.items()]


def judgments_in(text: str, name: str, scale: GradeScale | None = None) -> list[FileJudgment]:
    """The judgments of a file. scale: what its grades are here. Raises BadInput with every line that is wrong."""
    rows = rows_of(text, name, "query_id")
    told = _Told(name)
    judgments: dict[tuple[str, str, str, bool], FileJudgment] = {}
    strange: set[int] = set()
    if rows is None:
        grades = grades_in(text, name)
        found = [
            (f"query {query}, record {key}", FileJudgment(query_id=query, record=key, grade=grade))
            for query, of_query in grades.items()
            for key, grade in of_query.items()
        ]
    else:
        found = []
        for line, row in rows:
            try:
                found.append((f"line {line}", _judgment(row)))
            except ValueError as error:
                told.problems.append((f"line {line}", str(error)))
    for where, one in found:
        grade = one.grade
        if grade is not None and scale is not None:
            grade = scale.get(grade)
            if grade is None:
                told.problems.append((where, f"the scale does not say what the grade {one.grade} is here."))
                continue
        elif grade is not None and not 0 <= grade <= HIGHEST_GRADE:
            strange.add(grade)
            told.problems.append((where, f"the grade {grade} is not one of 0, 1, 2 and 3."))
            continue
        kept = replace(one, grade=grade)
        key = (one.query_id, one.record, one.judge, one.settled)
        if judgments.setdefault(key, kept) != kept:
            told.problems.append((where, f"{one.record} was graded otherwise for query {one.query_id} before."))
    if strange:
        known = sorted({one.grade for _, one in found if one.grade is not None})
        told.problems.insert(0, ("", f"its grades are {', '.join(map(str, known))}. {_proposed_scale(known)}"))
    told.refuse()
    return list(judgments.values())


def grade_scale(written: str) -> dict[int, int]:
    """What the grades of a file are here: `0=0,1=1,2=2,4=3`. Raises BadInput.

    >>> grade_scale("0=0, 1=2, 2=3")
    {0: 0, 1: 2, 2: 3}
    """
    scale: dict[int, int] = {}
    for part in written.split(","):
        there, sign, here = (item.strip() for item in part.partition("="))
        try:
            scale[int(there)] = int(here)
        except ValueError:
            sign = ""
        if not sign or not 0 <= scale[int(there)] <= HIGHEST_GRADE:
            raise BadInput(
                f'"{part.strip()[:40]}" says no grade. Write each as THERE=HERE, here 0 to 3: 0=0,1=1,2=2,4=3'
            )
    return scale


def _proposed_scale(known: Sequence[int]) -> str:
    positive = [grade for grade in known if grade > 0]
    highest = max(positive, default=1)
    mapped = {grade: max(1, round(HIGHEST_GRADE * grade / highest)) if grade > 0 else 0 for grade in known}
    return (
        f"Say what they are here with a scale, such as {','.join(f'{there}={here}' for there, here in mapped.items())}."
    )


def written_queries(queries: Iterable[JudgedQuery], form: JudgedFormat) -> str:
    """Queries as a file. As columns only what the trade's lines hold: id and query.

    Raises BadInput where a query cannot stand in such a line.
    """
    if form == "columns":
        listed = list(queries)
        for one in listed:
            if "\t" in one.query_id or any(sign in one.query for sign in "\t\r\n"):
                raise BadInput(f"The query {one.query_id} holds a tab or a line break; take CSV or JSON Lines.")
        return "".join(f"{one.query_id}\t{one.query}\n" for one in listed)
    rows = [
        {
            "query_id": one.query_id,
            "query": one.query,
            "need": one.need,
            "tags": list(one.tags),
            "filters": list(one.filters),
            "language": one.language,
            "asked": one.asked,
            "nothing_to_find": one.nothing_to_find,
            "locked": bool(one.locked),
            "expectations": written_expectations(one.expectations),
        }
        for one in queries
    ]
    if form == "jsonl":
        return _json_lines(rows)
    for row in rows:
        # Within a cell lists are JSON: a tag may hold a comma.
        for key in ("tags", "filters", "expectations"):
            row[key] = None if row[key] is None else orjson.dumps(row[key]).decode()
    return _csv(rows, QUERY_COLUMNS)


def written_judgments(judgments: Iterable[FileJudgment], form: JudgedFormat) -> str:
    """Judgments as a file. As columns there is no judge: those must be settled grades, one for each record."""
    if form == "columns":
        grades: dict[str, dict[str, int]] = {}
        for one in judgments:
            if one.grade is not None:
                grades.setdefault(one.query_id, {})[one.record] = one.grade
        return written_grades(grades)
    rows = [
        {
            "query_id": one.query_id,
            "record": one.record,
            "grade": one.grade,
            "judge": one.judge,
            "note": one.note,
            "judged_at": one.judged_at.isoformat() if one.judged_at else None,
            "settled": "yes" if one.settled else None,
        }
        for one in judgments
    ]
    return _json_lines(rows) if form == "jsonl" else _csv(rows, JUDGMENT_COLUMNS)


QUERY_COLUMNS: Final = (
    *("query_id", "query", "need", "tags", "filters", "language", "asked", "nothing_to_find", "locked"),
    "expectations",
)
JUDGMENT_COLUMNS: Final = ("query_id", "record", "grade", "judge", "note", "judged_at", "settled")


def _query(row: Mapping[str, Any]) -> JudgedQuery:
    query_id, query = _told_text(row, "query_id"), _told_text(row, "query")
    if not query_id or not query:
        raise ValueError("a query needs query_id and query.")
    if len(query) > LONGEST_QUERY:
        raise ValueError(f"the query is longer than {LONGEST_QUERY:,} characters.")
    asked = row.get("asked")
    if asked in (None, ""):
        times = None
    elif isinstance(asked, bool) or not str(asked).isdecimal() or int(str(asked)[:20]) > MOST_ASKED:
        raise ValueError(f"{str(asked)[:40]!r} is not how often a query was asked: a whole number, 0 or more.")
    else:
        times = int(asked)
    try:
        filters = filter_documents(_json_cell(row.get("filters")) or [])
    except BadInput as error:
        raise ValueError(f"its filters cannot be used: {error}") from error
    locked = row.get("locked")
    return JudgedQuery(
        query_id=query_id,
        query=query,
        need=_told_text(row, "need"),
        tags=_tags(row.get("tags")),
        filters=tuple(filters),
        language=_told_text(row, "language") or None,
        asked=times,
        nothing_to_find=_flag(row, "nothing_to_find"),
        locked=None if locked in (None, "") else _flag(row, "locked"),
        expectations=expectations_in(_json_cell(row.get("expectations"))),
    )


def _judgment(row: Mapping[str, Any]) -> FileJudgment:
    query_id, record = _told_text(row, "query_id"), _told_text(row, "record")
    if not query_id or not record or "grade" not in row:
        raise ValueError("a judgment needs query_id, record and grade.")
    grade = row["grade"]
    if isinstance(grade, str):
        with contextlib.suppress(ValueError):
            grade = int(grade) if grade.strip() else None
    if grade is not None and (isinstance(grade, bool) or not isinstance(grade, int)):
        raise ValueError(f"the grade {str(grade)[:40]!r} is not a whole number.")
    at = row.get("judged_at")
    return FileJudgment(
        query_id=query_id,
        record=record,
        grade=grade,
        judge=_told_text(row, "judge"),
        note=_told_text(row, "note"),
        judged_at=moment_in(str(at)) if at else None,
        settled=_is_settled(row, grade),
    )


def _is_settled(row: Mapping[str, Any], grade: int | None) -> bool:
    if not _flag(row, "settled"):
        return False
    if grade is None:
        raise ValueError("what is settled by hand has a grade.")
    return True


def _told_text(row: Mapping[str, Any], key: str) -> str:
    value = row.get(key)
    text = "" if value is None else str(value)
    if wrong := unstorable(text):
        raise ValueError(f"this row holds {wrong}.")
    if len(text) > LONGEST_TEXT:
        raise ValueError(f"{key} is longer than {LONGEST_TEXT:,} characters.")
    return text


def _tags(value: Any) -> tuple[str, ...]:
    listed = _json_cell(value)
    if isinstance(listed, str):
        listed = listed.replace(";", ",").split(",")
    if wrong := next((wrong for item in listed or () if (wrong := unstorable(str(item)))), None):
        raise ValueError(f"this row holds {wrong}.")
    return tuple(tag for item in listed or () if (tag := str(item).strip()))


def _json_cell(value: Any) -> Any:
    """What a cell of CSV holds as JSON; the text itself where it holds none."""
    if isinstance(value, str) and value.startswith("["):
        try:
            return orjson.loads(value)
        except orjson.JSONDecodeError:
            return value
    return value


def _flag(row: Mapping[str, Any], key: str) -> bool:
    value = row.get(key)
    known = {"true": True, "1": True, "yes": True, "false": False, "0": False, "no": False, "": False, "none": False}
    said = str(value).strip().lower()
    if said not in known:
        raise ValueError(f"{key} is yes or no, not {said[:40]!r}.")
    return known[said]


def _rows_of_columns(text: str) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, line in enumerate(io.StringIO(text, newline=""), start=1):
        if line.strip():
            query_id, _, query = line.partition("\t")
            yield number, {"query_id": query_id.strip(), "query": query.strip()}


def _json_lines(rows: Iterable[Mapping[str, Any]]) -> str:
    return "".join(orjson.dumps(row).decode() + "\n" for row in rows)


def _csv(rows: Iterable[Mapping[str, Any]], columns: Sequence[str]) -> str:
    text = io.StringIO(newline="")
    writer = csv.DictWriter(text, columns)
    writer.writeheader()
    writer.writerows(
        {name: guarded_cell(cell) if isinstance(cell, str) else cell for name, cell in row.items()} for row in rows
    )
    return text.getvalue()
