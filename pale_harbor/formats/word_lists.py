"""Word lists as CSV (RFC 4180), and as what is stored.

    words          one column:      word
    replacements   two columns:     from,to
    synonyms       three columns:   words,means,way     way: both or one; several words between |

The first line names the columns; without it the kind must be told.
"""

import csv
from collections.abc import Callable
from io import StringIO
from typing import Any, Final

from pale_harbor.core.text.word_lists import (
    LONGEST_ENTRY,
    MOST_ENTRIES,
    ListKind,
    Replacements,
    SynonymRule,
    Synonyms,
    WordList,
    WordSet,
    kind_of_list,
)
from pale_harbor.errors import BadInput
from pale_harbor.formats.spreadsheet_cells import guarded_cell, unguarded_cell
from pale_harbor.formats.storable import unstorable

COLUMNS: Final = {
    ListKind.WORDS: ("word",),
    ListKind.REPLACEMENTS: ("from", "to"),
    ListKind.SYNONYMS: ("words", "means", "way"),
}
LARGEST_FILE: Final = 20_000_000
_MOST_TOLD: Final = 100
_WAYS: Final = {"both": True, "one": False, "": True}


def word_list_of(text: str, kind: ListKind | None = None) -> WordList:
    """The word list that a CSV text holds. Raises BadInput with every line that is wrong."""
    if len(text) > LARGEST_FILE:
        raise BadInput(f"A word list is at most {LARGEST_FILE:,} characters long.")
    try:
        rows = [
            (line, [cell.strip() for cell in row])
            for line, row in _number(text.removeprefix("\ufeff"))
            if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise BadInput(f"This is no CSV text: {error}.") from error
    named = _kind_named(rows[0][1]) if rows else None
    if named is not None:
        rows = rows[1:]
    chosen = kind or named
    if chosen is None:
        raise BadInput(
            "The first line must name the columns: "
            + "; ".join(f"{','.join(columns)} for {of}" for of, columns in COLUMNS.items())
            + "."
        )
    if named is not None and named is not chosen:
        raise BadInput(f"These are columns of {named}; this is a list of {chosen}.")
    if len(rows) > MOST_ENTRIES:
        raise BadInput(f"A word list has at most {MOST_ENTRIES:,} entries; this one has {len(rows):,}.")
    problems: list[tuple[str, str]] = []
    entries: dict[Any, Any] = {}
    for line, row in rows:
        problem = _common_problem(row, len(COLUMNS[chosen]))
        if problem is None:
            try:
                _ADD[chosen](row, line, entries)
            except ValueError as error:
                problem = str(error)
        if problem is not None:
            problems.append((f"line {line}", problem))
    if problems:
        more = f" (the first {_MOST_TOLD} of {len(problems):,})" if len(problems) > _MOST_TOLD else ""
        raise BadInput(f"This word list cannot be read{more}.", problems[:_MOST_TOLD])
    match chosen:
        case ListKind.WORDS:
            return WordSet(frozenset(entries))
        case ListKind.REPLACEMENTS:
            return Replacements(tuple((source, target) for source, (target, _) in entries.items()))
        case ListKind.SYNONYMS:
            return Synonyms(tuple(entries))


def csv_of(word_list: WordList) -> str:
    """A word list as CSV that reads back as the same list."""
    file = StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(COLUMNS[kind_of_list(word_list)])
    match word_list:
        case WordSet(words):
            writer.writerows([guarded_cell(word)] for word in sorted(words))
        case Replacements(pairs):
            writer.writerows([guarded_cell(cell) for cell in pair] for pair in pairs)
        case Synonyms(rules):
            for rule in rules:
                way = "both" if rule.both_ways else "one"
                writer.writerow([guarded_cell(" | ".join(rule.words)), guarded_cell(" | ".join(rule.means)), way])
    return file.getvalue()


def stored_entries(word_list: WordList) -> list[Any]:
    """The entries as they are stored."""
    match word_list:
        case WordSet(words):
            return sorted(words)
        case Replacements(pairs):
            return [list(pair) for pair in pairs]
        case Synonyms(rules):
            return [{"words": [*r.words], "means": [*r.means], "both_ways": r.both_ways} for r in rules]


def list_of_stored(kind: str, entries: list[Any]) -> WordList:
    """The word list of stored entries."""
    match ListKind(kind):
        case ListKind.WORDS:
            return WordSet(frozenset(entries))
        case ListKind.REPLACEMENTS:
            return Replacements(tuple((source, target) for source, target in entries))
        case ListKind.SYNONYMS:
            return Synonyms(tuple(SynonymRule(tuple(e["words"]), tuple(e["means"]), e["both_ways"]) for e in entries))


def _number(text: str) -> list[tuple[int, list[str]]]:
    """Rows with the line on which each begins."""
    reader = csv.reader(StringIO(text, newline=""), strict=True)
    rows: list[tuple[int, list[str]]] = []
    before = 0
    for row in reader:
        rows.append((before + 1, [unguarded_cell(cell) for cell in row]))
        before = reader.line_num
    return rows


def _kind_named(row: list[str]) -> ListKind | None:
    cells = tuple(cell.lower() for cell in row)
    found = [kind for kind, columns in COLUMNS.items() if cells == columns]
    if not found and cells == COLUMNS[ListKind.SYNONYMS][:2]:
        return ListKind.SYNONYMS
    return found[0] if found else None


def _common_problem(row: list[str], columns: int) -> str | None:
    if len(row) > columns and any(row[columns:]):
        return f"{len(row)} columns, and there are {columns}. Put quotes around what holds a comma."
    for cell in row:
        if (wrong := unstorable(cell)) is not None:
            return f"it holds {wrong}."
        if any(len(part) > LONGEST_ENTRY for part in cell.split("|")):
            return f"an entry is at most {LONGEST_ENTRY} characters long."
    return None


def _add_word(row: list[str], line: int, entries: dict[Any, Any]) -> None:
    entries.setdefault(row[0], line)


def _add_replacement(row: list[str], line: int, entries: dict[Any, Any]) -> None:
    source, target = (*row, "")[:2]
    if not source:
        raise ValueError("what is replaced is missing.")
    known = entries.setdefault(source, (target, line))
    if known[0] != target:
        raise ValueError(f'"{source}" is replaced by "{known[0]}" already, on line {known[1]}.')


def _add_synonyms(row: list[str], line: int, entries: dict[Any, Any]) -> None:
    words, means, way = (*row, "", "")[:3]
    if way.lower() not in _WAYS:
        raise ValueError(f'the way is "both" or "one"; "{way}" is neither.')
    left, right = (tuple(" ".join(part.split()) for part in cell.split("|") if part.strip()) for cell in (words, means))
    both_ways = _WAYS[way.lower()]
    if not left or not (right or (both_ways and len(left) > 1)):
        raise ValueError("words of the same meaning are missing: two at least.")
    entries.setdefault(SynonymRule(left, right, both_ways), line)


_ADD: Final[dict[ListKind, Callable[[list[str], int, dict[Any, Any]], None]]] = {
    ListKind.WORDS: _add_word,
    ListKind.REPLACEMENTS: _add_replacement,
    ListKind.SYNONYMS: _add_synonyms,
}
