"""TREC's column files: grades (`query iter record grade`) and runs (`query Q0 record rank score tag`).

Columns are separated by blanks or tabs; lines may stand in any order.
"""

import io
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from math import isfinite
from pathlib import Path
from typing import Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable
from pale_harbor.formats.text_files import text_of

_MOST_PROBLEMS: Final = 20
LARGEST_GRADE: Final = 100
GRADE_COLUMNS: Final = ("query", "iter", "record", "grade")
RUN_COLUMNS: Final = ("query", "Q0", "record", "rank", "score", "tag")
# Blanks and tabs alone: a name may hold other white space, such as a no-break space.
_BETWEEN: Final = re.compile(r"[ \t]+")
_WHITE: Final = re.compile(r"[ \t\r\n]")


def read_grades(path: Path) -> dict[str, dict[str, int]]:
    """Grades by query and record key. Raises BadInput with the lines that are wrong."""
    return grades_in(text_of(path), str(path))


def grades_in(text: str, name: str) -> dict[str, dict[str, int]]:
    """Grades by query and record key; name: of the file. Raises BadInput with the lines that are wrong."""
    grades: dict[str, dict[str, int]] = {}
    problems: list[tuple[str, str]] = []
    for where, (query, _, record, written) in _rows(text, GRADE_COLUMNS, "a grade", problems):
        try:
            grade = int(written)
        except ValueError:
            problems.append((where, f"the grade {written!r} is not a whole number."))
            continue
        if abs(grade) > LARGEST_GRADE:
            problems.append((where, f"the grade {written} is out of all proportion."))
            continue
        of_query = grades.setdefault(query, {})
        if of_query.get(record, grade) != grade:
            problems.append((where, f"{record} of query {query} was graded {of_query[record]} before."))
        of_query[record] = grade
    _refuse(name, problems)
    return grades


def read_run(path: Path) -> dict[str, dict[str, float]]:
    """Scores by query and record key; the rank column is not read. Raises BadInput."""
    return run_in(text_of(path), str(path))


def run_in(text: str, name: str) -> dict[str, dict[str, float]]:
    """Scores by query and record key; name: of the file. Raises BadInput with the lines that are wrong."""
    scores: dict[str, dict[str, float]] = {}
    problems: list[tuple[str, str]] = []
    for where, (query, _, record, _, written, _) in _rows(text, RUN_COLUMNS, "a run", problems):
        try:
            score = float(written)
        except ValueError:
            score = float("nan")
        if not isfinite(score):
            problems.append((where, f"the score {written!r} is not a number."))
            continue
        of_query = scores.setdefault(query, {})
        if record in of_query:
            problems.append((where, f"{record} stands twice in the list of query {query}."))
        of_query[record] = score
    _refuse(name, problems)
    return scores


def write_run(path: Path, lists: Iterable[tuple[str, Iterable[tuple[str, float]]]], tag: str) -> None:
    """Writes ranked lists, whole or not at all: for each query its (record key, score) pairs, best first.

    Raises BadInput where a name holds white space, which the columns could not keep apart, and
    where the file cannot be written.
    """
    lines: list[str] = []
    for query, ranked in lists:
        for rank, (key, score) in enumerate(ranked, start=1):
            for name in (query, key):
                _check_stands_in_a_column(name)
            lines.append(f"{query} Q0 {key} {rank} {score!r} {tag}\n")
    try:
        with path.open("w", encoding="utf-8", newline="\n") as file:
            file.writelines(lines)
    except OSError as error:
        raise BadInput(f"{path} cannot be written: {error.strerror}.") from error


def written_grades(grades: Mapping[str, Mapping[str, int]]) -> str:
    """Grades as four columns. Raises BadInput where a name holds white space."""
    lines: list[str] = []
    for query, of_query in grades.items():
        for key, grade in of_query.items():
            for name in (query, key):
                _check_stands_in_a_column(name)
            lines.append(f"{query} 0 {key} {grade}\n")
    return "".join(lines)


def _check_stands_in_a_column(name: str) -> None:
    if not name or _WHITE.search(name):
        raise BadInput(f"{name!r} holds white space and cannot stand in a file of columns.")


def _rows(
    text: str, names: Sequence[str], what: str, problems: list[tuple[str, str]]
) -> Iterator[tuple[str, list[str]]]:
    """Each line's place and columns; what has other columns, or cannot be stored, is told among the problems."""
    for line, row in enumerate(io.StringIO(text, newline=""), start=1):
        where, stands = f"line {line}", row.strip(" \t\r\n")
        if not stands:
            continue
        columns = _BETWEEN.split(stands)
        if len(columns) != len(names):
            problems.append((where, f"{len(columns)} columns; {what} has {len(names)}: {', '.join(names)}."))
        elif wrong := unstorable(stands):
            problems.append((where, f"this line holds {wrong}."))
        else:
            yield where, columns


def _refuse(name: str, problems: list[tuple[str, str]]) -> None:
    if problems:
        more = len(problems) - _MOST_PROBLEMS
        shown = problems[:_MOST_PROBLEMS] + ([("", f"… and {more} more.")] if more > 0 else [])
        raise BadInput(f"{name} cannot be used.", shown)
