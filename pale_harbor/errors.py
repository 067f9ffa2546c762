"""Errors meant for people: each says what is wrong, where, and what to do.

HarborError
    NotFound        something is asked for that is not there
    BadInput        a file, document or request that cannot be used as it is
        ChainError      a chain that cannot be made (core/text/errors.py, with its kinds)
        FormulaError    a formula that cannot be read (core/blend/formula.py)
        UnknownMeasure  a measure that does not exist (core/measures/measure.py)
        Unexpectable    half an expectation (core/judging/expectations.py)
        Unfit           a row that cannot become a record (formats/records/conversion.py)
        TooLarge        a request that holds more than its address takes
    NotAllowed      something that whoever asks has no right to, or a sign-in that is wrong
        NotSignedIn     something that needs a sign-in first
    TooManyAttempts somebody tries again and again
    Overtaken       somebody else changed it meanwhile
    Unavailable     something the work needs cannot be had
    Cancelled       nobody wants the work any more
    RecordsChanged  the records are no longer those that were looked at

Every layer may raise them, the core included: they know of nothing.
"""

from typing import Any


class HarborError(Exception):
    """Anything a person should be told about in plain words, without a stack trace."""

    def __reduce__(self) -> tuple[Any, ...]:
        # Handed over from another process as it is, whatever it is made of.
        return _made_again, (type(self), self.args, dict(self.__dict__))


def _made_again(kind: type[HarborError], args: tuple[Any, ...], state: dict[str, Any]) -> HarborError:
    error = kind.__new__(kind, *args)
    error.args = args
    error.__dict__.update(state)
    return error


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


class TooLarge(BadInput):
    """A request holds more than its address takes, or does not say how much."""


class NotAllowed(HarborError):
    """Whoever asks has no right to it, or did not say right who they are."""


class NotSignedIn(NotAllowed):
    """It needs a sign-in first."""


class TooManyAttempts(HarborError):
    """Somebody tries again and again."""


class Overtaken(HarborError):
    """Somebody else changed it meanwhile: what is kept now would be lost."""


class Unavailable(HarborError):
    """Something the work needs cannot be had, such as the database."""


class Cancelled(HarborError):
    """Nobody wants the work any more."""


class RecordsChanged(HarborError):
    """The records are no longer those that the collection was opened for."""
