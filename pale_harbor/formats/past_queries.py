"""Lists of what visitors asked, and how often: lines, CSV or JSON Lines, told by content.

A line is a query, and after a tab how often it was asked; without a number it stands for once. Rows have `query` and,
if known, `asked` and `language`. A query that stands there several times was asked so often.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable
from pale_harbor.formats.text_rows import rows_of

LONGEST_PAST_QUERY: Final = 1_000
MOST_PAST_QUERIES: Final = 2_000_000
_MOST_ASKED: Final = 2**53
_LONGEST_LANGUAGE: Final = 200


@dataclass(frozen=True, slots=True)
class PastQuery:
    """A query as visitors typed it. language: empty where it is not known."""

    query: str
    asked: int
    language: str = ""


def past_queries_in(text: str, name: str) -> list[PastQuery]:
    """The past queries of a file, each once, the most asked first. Raises BadInput with the first lines that are wrong.

    >>> past_queries_in("fog bell\\t3\\nlight\\nfog bell", "asked.txt")
    [PastQuery(query='fog bell', asked=4, language=''), PastQuery(query='light', asked=1, language='')]
    """
    rows = rows_of(text, name, "query")
    asked: dict[tuple[str, str], int] = {}
    problems: list[tuple[str, str]] = []
    for line, row in _rows_of_lines(text) if rows is None else rows:
        try:
            one = _past_query(row)
        except ValueError as error:
            problems.append((f"line {line}", str(error)))
            continue
        key = (one.query, one.language)
        asked[key] = min(_MOST_ASKED, asked.get(key, 0) + one.asked)
    if problems:
        raise BadInput(f"{name} cannot be used.", problems[:20])
    if not asked:
        raise BadInput(f"{name} holds no query.")
    if len(asked) > MOST_PAST_QUERIES:
        raise BadInput(f"{name} holds more than {MOST_PAST_QUERIES:,} queries. Leave out the rarest.")
    kept = [PastQuery(query, times, language) for (query, language), times in asked.items()]
    return sorted(kept, key=lambda one: (-one.asked, one.query, one.language))


def _rows_of_lines(text: str) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, line in enumerate(text.split("\n"), start=1):
        query, _, times = line.strip("\r").partition("\t")
        if query.strip():
            yield number, {"query": query, "asked": times.strip() or "1"}


def _past_query(row: dict[str, Any]) -> PastQuery:
    query, asked, language = row.get("query"), row.get("asked"), row.get("language")
    if not isinstance(query, str) or not query.strip():
        raise ValueError('a past query needs "query", as text.')
    language = "" if language is None else str(language).strip()
    if wrong := unstorable(query) or unstorable(language):
        raise ValueError(f"this holds {wrong}.")
    if len(query) > LONGEST_PAST_QUERY:
        raise ValueError(f"the query is longer than {LONGEST_PAST_QUERY:,} characters.")
    if len(language) > _LONGEST_LANGUAGE:
        raise ValueError(f"the language is longer than {_LONGEST_LANGUAGE} characters.")
    said = "1" if asked is None or asked == "" else str(asked).strip()
    if not (said.isascii() and said.isdecimal() and 0 < int(said[:17]) <= _MOST_ASKED and len(said) < 17):
        raise ValueError(f"how often it was asked is a whole number from 1 on, not {said[:40]!r}.")
    return PastQuery(query.strip(), int(said), language)
