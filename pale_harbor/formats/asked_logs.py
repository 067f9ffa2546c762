"""Logs of a search that is not ours: what was asked when, and what was clicked. CSV or JSON Lines, told by content.

A row has `query` and `at` (a moment as ISO 8601 writes it, or seconds since 1970) and, if known, `session`, `language`,
`found`, and the keys of records that were `clicked` and that were what somebody wanted (`succeeded`): a list, or a text
with | between them.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.moments import moment_in
from pale_harbor.formats.past_queries import LONGEST_PAST_QUERY
from pale_harbor.formats.storable import unstorable
from pale_harbor.formats.text_rows import rows_of

MOST_ROWS: Final = 2_000_000
_MOST_TOLD: Final = 20
_LONGEST: Final = 200
_LONGEST_KEY: Final = 500
_MOST_KEYS: Final = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedQuery:
    """A query as a log tells it. found: None where it does not say."""

    query: str
    at: datetime
    session: str | None = None
    language: str = ""
    found: int | None = None
    clicked: tuple[str, ...] = ()
    succeeded: tuple[str, ...] = ()


def logged_queries(text: str, name: str) -> list[LoggedQuery]:
    """The queries of a log, in its order. Raises BadInput with the first lines that are wrong.

    >>> one = logged_queries('{"query": "fog bell", "at": "2031-05-01T10:00:00Z", "clicked": ["sm32"]}', "log.jsonl")[0]
    >>> one.query, one.at.isoformat(), one.clicked
    ('fog bell', '2031-05-01T10:00:00+00:00', ('sm32',))
    """
    rows = rows_of(text, name, "query")
    if rows is None:
        raise BadInput(
            f'{name} is no log: a CSV file with a header that has "query" and "at", or JSON Lines, is wanted.'
        )
    found: list[LoggedQuery] = []
    problems: list[tuple[str, str]] = []
    for line, row in _counted(rows, name):
        try:
            found.append(_logged(row))
        except ValueError as error:
            problems.append((f"line {line}", str(error)))
            if len(problems) == _MOST_TOLD:
                break
    if problems:
        raise BadInput(f"{name} cannot be used.", problems)
    if not found:
        raise BadInput(f"{name} holds no query.")
    return found


def _counted(rows: Iterator[tuple[int, dict[str, Any]]], name: str) -> Iterator[tuple[int, dict[str, Any]]]:
    for number, one in enumerate(rows):
        if number == MOST_ROWS:
            raise BadInput(f"{name} holds more than {MOST_ROWS:,} queries. Load it in parts.")
        yield one


def _logged(row: dict[str, Any]) -> LoggedQuery:
    query = row.get("query")
    if not isinstance(query, str) or not query.strip():
        raise ValueError('a row needs "query", as text.')
    if len(query) > LONGEST_PAST_QUERY:
        raise ValueError(f"the query is longer than {LONGEST_PAST_QUERY:,} characters.")
    session = _text(row.get("session"))
    return LoggedQuery(
        query=_storable(query.strip()),
        at=_moment(row.get("at")),
        session=_storable(session) or None,
        language=_storable(_text(row.get("language"))),
        found=_count(row.get("found")),
        clicked=_keys(row.get("clicked"), "clicked"),
        succeeded=_keys(row.get("succeeded"), "succeeded"),
    )


def _text(value: Any) -> str:
    text = "" if value is None else str(value).strip()
    if len(text) > _LONGEST:
        raise ValueError(f"session and language are no longer than {_LONGEST} characters.")
    return text


def _storable(text: str) -> str:
    if wrong := unstorable(text):
        raise ValueError(f"this holds {wrong}.")
    return text


def _moment(value: Any) -> datetime:
    said = str(value).strip() if value is not None else ""
    if not said:
        raise ValueError('a row needs "at": when it was asked.')
    if not _is_number(said):
        return moment_in(said)
    try:
        return moment_in(datetime.fromtimestamp(float(said), tz=UTC).isoformat())
    except (OverflowError, OSError) as error:
        raise ValueError(f'"{said[:40]}" is no moment in seconds since 1970.') from error


def _is_number(said: str) -> bool:
    return said.replace(".", "", 1).isascii() and said.replace(".", "", 1).isdecimal()


def _count(value: Any) -> int | None:
    said = "" if value is None else str(value).strip()
    if not said:
        return None
    if not (said.isascii() and said.isdecimal() and len(said) < 10):
        raise ValueError(f"how many were found is a whole number from 0 on, not {said[:40]!r}.")
    return int(said)


def _keys(value: Any, name: str) -> tuple[str, ...]:
    if value is None:
        return ()
    keys = [str(one) for one in value] if isinstance(value, list) else str(value).split("|")
    kept = tuple(dict.fromkeys(_storable(key.strip()) for key in keys if key.strip()))
    if len(kept) > _MOST_KEYS or any(len(key) > _LONGEST_KEY for key in kept):
        raise ValueError(f'"{name}" holds up to {_MOST_KEYS} keys of up to {_LONGEST_KEY} characters.')
    return kept
