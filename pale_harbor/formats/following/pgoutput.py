"""What PostgreSQL's own plug-in for logical decoding says of changes (`pgoutput`, protocol version 1).

Source: PostgreSQL documentation, "Logical Replication Message Formats".
"""

import struct
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final, Literal

# A value that did not change and lies apart from its row: it is not said again.
UNSAID: Final = object()

# By column: text, None for null, UNSAID.
Row = dict[str, object]

_MICROSECONDS: Final = 1_000_000
# The protocol counts from 2000-01-01, Unix from 1970-01-01.
_SECONDS_UNTIL_2000: Final = 946_684_800


@dataclass(frozen=True, slots=True)
class Begun:
    """A transaction begins. end: where in the log it ends; at: when it was committed, in seconds since 1970;
    transaction: its number, of 32 bits."""

    end: int
    at: float
    transaction: int


@dataclass(frozen=True, slots=True)
class Committed:
    """A transaction ended. end: behind it in the log, from where reading goes on."""

    end: int


@dataclass(frozen=True, slots=True)
class Changed:
    """A row came, went or is otherwise. old: as much of it as the table's replica identity tells; None where it tells
    nothing, or where there was none."""

    table: str
    how: Literal["insert", "update", "delete"]
    old: Row | None
    new: Row | None


@dataclass(frozen=True, slots=True)
class Emptied:
    """Tables of which every row went at once."""

    tables: list[str]


Told = Begun | Committed | Changed | Emptied


class Garbled(ValueError):
    """Bytes that the protocol does not know."""


class Listener:
    """Understands messages one after another: what a table is called is told once, before its first row.

    >>> heard = Listener().heard(bytes.fromhex("42" + "00000000000000ff" + "0002000000000000" + "00000007"))
    >>> heard.end, round(heard.at), heard.transaction
    (255, 1509634753, 7)
    """

    def __init__(self) -> None:
        self._tables: dict[int, tuple[str, list[str]]] = {}
        self._hears: Final[dict[bytes, Callable[[_Reading], Told | None]]] = {
            b"B": self._begun,
            b"C": self._committed,
            b"R": self._relation,
            b"I": self._inserted,
            b"U": self._updated,
            b"D": self._deleted,
            b"T": self._emptied,
        }

    def heard(self, message: bytes) -> Told | None:
        """What a message says; None where it is nothing that concerns rows. Raises Garbled."""
        hears = self._hears.get(message[:1])
        try:
            return None if hears is None else hears(_Reading(message, 1))
        except (struct.error, IndexError, ValueError, KeyError) as error:
            raise Garbled(f"a message of {len(message)} bytes that begins with {message[:1]!r}") from error

    def _begun(self, reading: "_Reading") -> Told:
        end, at = reading.number("q"), reading.number("q")
        return Begun(end, at / _MICROSECONDS + _SECONDS_UNTIL_2000, reading.number("I"))

    def _committed(self, reading: "_Reading") -> Told:
        reading.number("b")
        reading.number("q")
        return Committed(reading.number("q"))

    def _relation(self, reading: "_Reading") -> None:
        number = reading.number("I")
        schema, name = reading.text(), reading.text()
        reading.number("b")
        columns: list[str] = []
        for _ in range(reading.number("h")):
            reading.number("b")
            columns.append(reading.text())
            reading.number("I")
            reading.number("i")
        # An empty name stands for pg_catalog.
        self._tables[number] = (f"{schema or 'pg_catalog'}.{name}", columns)

    def _inserted(self, reading: "_Reading") -> Told:
        table, columns = self._tables[reading.number("I")]
        reading.number("b")
        return Changed(table, "insert", None, reading.row(columns))

    def _updated(self, reading: "_Reading") -> Told:
        table, columns = self._tables[reading.number("I")]
        old: Row | None = None
        kind = reading.number("c")
        if kind in (b"K", b"O"):
            old = reading.row(columns)
            reading.number("c")
        return Changed(table, "update", old, reading.row(columns))

    def _deleted(self, reading: "_Reading") -> Told:
        table, columns = self._tables[reading.number("I")]
        reading.number("c")
        return Changed(table, "delete", reading.row(columns), None)

    def _emptied(self, reading: "_Reading") -> Told:
        count = reading.number("I")
        reading.number("b")
        return Emptied([self._tables[reading.number("I")][0] for _ in range(count)])


class _Reading:
    """A message, and how far it was read."""

    def __init__(self, message: bytes, at: int) -> None:
        self._message, self._at = message, at

    def number(self, form: str) -> Any:
        found = struct.unpack_from(f">{form}", self._message, self._at)[0]
        self._at += struct.calcsize(f">{form}")
        return found

    def text(self) -> str:
        end = self._message.index(b"\0", self._at)
        found = self._message[self._at : end].decode()
        self._at = end + 1
        return found

    def row(self, columns: list[str]) -> Row:
        count = self.number("h")
        values = [self._value() for _ in range(count)]
        return dict(zip(columns, values, strict=True))

    def _value(self) -> object:
        kind = self.number("c")
        if kind == b"n":
            return None
        if kind == b"u":
            return UNSAID
        length = self.number("i")
        found = self._message[self._at : self._at + length]
        if len(found) != length:
            raise IndexError
        self._at += length
        return found.decode()


def position_of(text: str) -> int:
    """A place in the log as a number, from how PostgreSQL writes it.

    >>> position_of("16/B374D848"), position_text(position_of("16/B374D848"))
    (97500059720, '16/B374D848')
    """
    high, _, low = text.partition("/")
    return (int(high, 16) << 32) + int(low, 16)


def position_text(position: int) -> str:
    """A place in the log as PostgreSQL writes it."""
    return f"{position >> 32:X}/{position & 0xFFFF_FFFF:X}"
