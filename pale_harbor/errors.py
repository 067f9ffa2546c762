"""Errors meant for people: each says what is wrong, where, and what to do.

HarborError
    NotFound     something is asked for that is not there
    BadInput     a file, document or request that cannot be used as it is
    Unavailable  something the work needs cannot be had
    Cancelled    nobody wants the work any more
    RecordsChanged  the records are no longer those that were looked at
"""


class HarborError(Exception):
    """Anything a person should be told about in plain words, without a stack trace."""


class NotFound(HarborError):
    """Something is asked for that is not there."""


class BadInput(HarborError):
    """A file, document or request that cannot be used as it is.

    problems: where (as a path of keys, a line, or empty) and what, one pair each.
    """

    def __init__(self, message: str, problems: list[tuple[str, str]] | None = None) -> None:
        lines = [f"{where}: {what}" if where else what for where, what in problems or []]
        super().__init__("\n".join([message, *lines]))
        self.message = message
        self.problems = problems or []


class Unavailable(HarborError):
    """Something the work needs cannot be had, such as the database."""


class Cancelled(HarborError):
    """Nobody wants the work any more."""


class RecordsChanged(HarborError):
    """The records are no longer those that the collection was opened for."""
