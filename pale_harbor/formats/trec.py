"""TREC's column files: grades (`query iter record grade`) and runs (`query Q0 record rank score tag`).

Columns are separated by blanks or tabs; lines may stand in any order.
"""

from collections.abc import Iterable, Iterator
from math import isfinite
from pathlib import Path
from typing import Final

from pale_harbor.errors import BadInput

_MOST_PROBLEMS: Final = 20
LARGEST_GRADE: Final = 100


def read_grades(path: Path) -> dict[str, dict[str, int]]:
    """Grades by query and record key. Raises BadInput with the lines that are wrong."""
    grades: dict[str, dict[str, int]] = {}
    problems: list[tuple[str, str]] = []
    for line, columns in _rows(path):
        where = f"line {line}"
        if len(columns) != 4:
            problems.append((where, f"{len(columns)} columns; a grade has 4: query, iter, record, grade."))
            continue
        query, _, record, written = columns
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
    _refuse(path, problems)
    return grades


def read_run(path: Path) -> dict[str, dict[str, float]]:
    """Scores by query and record key; the rank column is not read. Raises BadInput."""
    scores: dict[str, dict[str, float]] = {}
    problems: list[tuple[str, str]] = []
    for line, columns in _rows(path):
        where = f"line {line}"
        if len(columns) != 6:
            problems.append((where, f"{len(columns)} columns; a run has 6: query, Q0, record, rank, score, tag."))
            continue
        query, _, record, _, written, _ = columns
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
    _refuse(path, problems)
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
                if len(name.split()) != 1:
                    raise BadInput(f"{name!r} holds white space and cannot stand in a run file's column.")
            lines.append(f"{query} Q0 {key} {rank} {score!r} {tag}\n")
    try:
        with path.open("w", encoding="utf-8", newline="\n") as file:
            file.writelines(lines)
    except OSError as error:
        raise BadInput(f"{path} cannot be written: {error.strerror}.") from error


def _rows(path: Path) -> Iterator[tuple[int, list[str]]]:
    try:
        with path.open(encoding="utf-8-sig") as file:
            for line, text in enumerate(file, start=1):
                if columns := text.split():
                    yield line, columns
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    except UnicodeDecodeError as error:
        raise BadInput(f"{path} is not UTF-8 text (byte {error.start + 1}). Save it as UTF-8.") from error


def _refuse(path: Path, problems: list[tuple[str, str]]) -> None:
    if problems:
        more = len(problems) - _MOST_PROBLEMS
        shown = problems[:_MOST_PROBLEMS] + ([("", f"… and {more} more.")] if more > 0 else [])
        raise BadInput(f"{path} cannot be used.", shown)
