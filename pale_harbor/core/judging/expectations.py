"""Expectations: plain demands on a query's list that need no grading, checked with every measurement."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pale_harbor.errors import BadInput

ExpectationKind = Literal["among_first", "never", "more_than", "nothing"]


class Unexpectable(BadInput, ValueError):
    """An expectation lacks what its kind asks for."""


@dataclass(frozen=True, slots=True)
class Expectation:
    """What is expected; made by `expectation`.

    among_first: the record stands among the first `number`; never: it is not in the list at all; more_than: more than
    `number` records match; nothing: none does. note: why, in somebody's words.
    """

    kind: ExpectationKind
    record_key: str | None = None
    number: int | None = None
    note: str = ""

    def __str__(self) -> str:
        return self.of(self.record_key)

    def of(self, record: str | None) -> str:
        """What is expected, in words, of a record by another name than its key."""
        match self.kind:
            case "among_first":
                return f"{record} among the first {self.number}"
            case "never":
                return f"never {record}"
            case "more_than":
                return f"more than {self.number} records"
            case "nothing":
                return "nothing at all"


def expectation(
    kind: ExpectationKind, record_key: str | None = None, number: int | None = None, note: str = ""
) -> Expectation:
    """The expectation, without what its kind does not ask for. Raises Unexpectable.

    >>> str(expectation("never", "r1", 3))
    'never r1'
    """
    about_record, counted = kind in ("among_first", "never"), kind in ("among_first", "more_than")
    if about_record and not record_key:
        raise Unexpectable("This expectation is about a record: say its key.")
    if kind == "among_first" and not number:
        raise Unexpectable("Say among how many first records it is to stand: 1 or more.")
    if kind == "more_than" and number is None:
        raise Unexpectable("Say more than how many records are to be found.")
    return Expectation(kind, record_key if about_record else None, number if counted else None, note)


def instead_of(wanted: Expectation, record_keys: Sequence[str], matched: int) -> str | None:
    """What is instead, in words; None where the expectation holds.

    record_keys: the list, best first; matched: all records that match, listed or not.

    >>> instead_of(expectation("among_first", "b", 1), ["a", "b"], 2)
    'it stands at 2'
    """
    rank = record_keys.index(wanted.record_key) + 1 if wanted.record_key in record_keys else 0
    match wanted.kind:
        case "among_first":
            if 0 < rank <= (wanted.number or 0):
                return None
            listed = f"it is not among the first {len(record_keys):,} found" if record_keys else "nothing is found"
            return f"it stands at {rank}" if rank else listed
        case "never":
            return f"it stands at {rank}" if rank else None
        case "more_than":
            return None if matched > (wanted.number or 0) else _count_in_words(matched)
        case "nothing":
            return _count_in_words(matched) if matched else None


def _count_in_words(count: int) -> str:
    return "1 is found" if count == 1 else f"{count:,} are found"
