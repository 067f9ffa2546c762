"""Moments in files and requests: years that both PostgreSQL and Python can keep, whatever the time zone."""

from datetime import UTC, datetime
from typing import Final

EARLIEST: Final = datetime(1900, 1, 1, tzinfo=UTC)
LATEST: Final = datetime(9000, 1, 1, tzinfo=UTC)


def moment_in(written: str) -> datetime:
    """A moment as ISO 8601 writes it, in UTC where no zone is said. Raises ValueError.

    >>> moment_in("2031-05-17T09:30:00").isoformat()
    '2031-05-17T09:30:00+00:00'
    """
    try:
        at = datetime.fromisoformat(written)
    except ValueError as error:
        raise ValueError(f"{written[:40]!r} is no time: write it as 2031-05-17T09:30:00+00:00.") from error
    at = at if at.tzinfo else at.replace(tzinfo=UTC)
    if not EARLIEST <= at <= LATEST:
        raise ValueError(f"{written[:40]!r} is not between the years {EARLIEST.year} and {LATEST.year}.")
    return at
