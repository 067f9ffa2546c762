"""CQL, the query language of library catalogues: read, not yet answered (OASIS, "searchRetrieve: Part 5. CQL: The
Contextual Query Language Version 1.0", of which 1.2 and 2.0 of the Library of Congress are the same language).

    query    = {">" [prefix "="] uri} scoped ["sortBy" {index {modifier}}]
    scoped   = clause {boolean {modifier} clause}
    clause   = "(" query ")" | [index relation {modifier}] term
    modifier = "/" name [comparison value]
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from pale_harbor.errors import BadInput

LONGEST_QUERY: Final = 4_000
MOST_BOOLEANS: Final = 200
_PIECE: Final = re.compile(
    r"""\s*(?:(?P<quoted>"(?:[^"\\]|\\.)*")|(?P<sign><=|>=|<>|==|[=<>()/])|(?P<run>[^\s()=<>"/]+))""", re.DOTALL
)
_BOOLEANS: Final = ("and", "or", "not", "prox")
_COMPARISONS: Final = ("=", "==", "<>", "<", ">", "<=", ">=")
_SERVER_CHOICE: Final = "cql.serverchoice"


class CqlFault(BadInput):
    """What a catalogue is told where a query cannot be answered: the number of a diagnostic of SRU ("SRU Diagnostics
    List", Library of Congress), and what it is about."""

    def __init__(self, number: int, about: str, message: str) -> None:
        super().__init__(message)
        self.number, self.about = number, about


@dataclass(frozen=True, slots=True)
class Modifier:
    """Of a relation, a boolean or an order, by its name in small letters. comparison, value: "" where there is none."""

    name: str
    comparison: str = ""
    value: str = ""


@dataclass(frozen=True, slots=True)
class Clause:
    """A term that is looked for. index: with its prefix, in small letters; relation: in small letters."""

    index: str
    relation: str
    term: str
    modifiers: tuple[Modifier, ...] = ()


@dataclass(frozen=True, slots=True)
class Joined:
    """Two queries with what joins them: and, or, not, prox."""

    how: str
    left: "Node"
    right: "Node"
    modifiers: tuple[Modifier, ...] = ()


Node = Clause | Joined


@dataclass(frozen=True, slots=True)
class SortKey:
    """An index by which a list is ordered."""

    index: str
    modifiers: tuple[Modifier, ...] = ()


@dataclass(frozen=True, slots=True)
class CqlQuery:
    """A query. prefixes: that it gives to sets of indexes, by prefix, "" for the usual one."""

    root: Node
    sort: tuple[SortKey, ...] = ()
    prefixes: Mapping[str, str] = field(default_factory=dict[str, str])


def read_cql(text: str) -> CqlQuery:
    """What a query says. Raises CqlFault.

    >>> read_cql('dc.title = "fog bell" and year > 1850').root.left
    Clause(index='dc.title', relation='=', term='fog bell', modifiers=())
    """
    if len(text) > LONGEST_QUERY:
        raise CqlFault(12, str(LONGEST_QUERY), f"A query has {LONGEST_QUERY:,} characters at most.")
    reader = _Reader(_pieces(text))
    query = reader.query(0)
    if reader.here is not None:
        raise _syntax(f'"{reader.here.text}" stands where nothing can')
    return query


@dataclass(frozen=True, slots=True)
class _Piece:
    """kind: quoted, sign or run."""

    kind: str
    text: str


def _pieces(text: str) -> list[_Piece]:
    pieces: list[_Piece] = []
    at, end = 0, len(text.rstrip())
    while at < end:
        found = _PIECE.match(text, at)
        if found is None:
            raise CqlFault(14, text[at : at + 40], "A quotation mark without its partner.")
        kind = found.lastgroup or ""
        pieces.append(_Piece(kind, found[kind]))
        at = found.end()
    return pieces


class _Reader:
    """Goes over the pieces once, from left to right."""

    def __init__(self, pieces: list[_Piece]) -> None:
        self._pieces, self._at, self._booleans = pieces, 0, 0

    @property
    def here(self) -> _Piece | None:
        return self._pieces[self._at] if self._at < len(self._pieces) else None

    def query(self, depth: int) -> CqlQuery:
        prefixes: dict[str, str] = {}
        while self._is_sign(">"):
            self._at += 1
            first = self._term("a prefix")
            if self._is_sign("="):
                self._at += 1
                prefixes[first.casefold()] = self._term("the address of a set of indexes")
            else:
                prefixes[""] = first
        root = self._scoped(depth)
        return CqlQuery(root, self._sort(), prefixes)

    def _scoped(self, depth: int) -> Node:
        node = self._clause(depth)
        while (how := self._word()) in _BOOLEANS:
            self._at += 1
            self._booleans += 1
            if self._booleans > MOST_BOOLEANS:
                raise CqlFault(38, str(MOST_BOOLEANS), f"A query has {MOST_BOOLEANS} booleans at most.")
            modifiers = self._modifiers()
            node = Joined(how, node, self._clause(depth), modifiers)
        return node

    def _clause(self, depth: int) -> Node:
        if self._is_sign("("):
            if depth >= MOST_BOOLEANS:
                raise CqlFault(38, str(MOST_BOOLEANS), "Parentheses lie too deep in one another.")
            self._at += 1
            inner = self.query(depth + 1)
            if not self._is_sign(")"):
                raise CqlFault(13, "(", "A parenthesis without its partner.")
            if inner.sort or inner.prefixes:
                raise CqlFault(48, "(", "Prefixes and orders are said of the whole query, not within parentheses.")
            self._at += 1
            return inner.root
        first = self.here
        said = self._term("a term")
        relation = self._relation()
        if relation is None:
            return Clause(_SERVER_CHOICE, "=", said)
        if first is not None and first.kind == "quoted":
            said = said.strip()
        modifiers = self._modifiers()
        return Clause(said.casefold(), relation, self._term("a term after the relation"), modifiers)

    def _relation(self) -> str | None:
        """The relation that stands here, if one does: a sign, or a word that something follows which can be a term."""
        piece = self.here
        if piece is None:
            return None
        if piece.kind == "sign" and piece.text in _COMPARISONS:
            self._at += 1
            return piece.text
        word = self._word()
        if not word or word in (*_BOOLEANS, "sortby"):
            return None
        self._at += 1
        return word.removeprefix("cql.")

    def _modifiers(self) -> tuple[Modifier, ...]:
        found: list[Modifier] = []
        while self._is_sign("/"):
            self._at += 1
            name = self._term("the name of a modifier").casefold().removeprefix("cql.")
            piece = self.here
            if piece is not None and piece.kind == "sign" and piece.text in _COMPARISONS:
                self._at += 1
                found.append(Modifier(name, piece.text, self._term("the value of a modifier")))
            else:
                found.append(Modifier(name))
        return tuple(found)

    def _sort(self) -> tuple[SortKey, ...]:
        if self._word() != "sortby":
            return ()
        self._at += 1
        keys: list[SortKey] = []
        while (piece := self.here) is not None and piece.kind != "sign":
            index = self._term("an index").casefold()
            keys.append(SortKey(index, self._modifiers()))
        if not keys:
            raise _syntax('after "sortBy" stands an index')
        return tuple(keys)

    def _term(self, what: str) -> str:
        piece = self.here
        if piece is None or piece.kind == "sign":
            there = "nothing more" if piece is None else f'"{piece.text}"'
            raise _syntax(f"{what} must stand where there is {there}")
        self._at += 1
        return piece.text if piece.kind == "run" else piece.text[1:-1].replace('\\"', '"')

    def _is_sign(self, text: str) -> bool:
        return self.here == _Piece("sign", text)

    def _word(self) -> str:
        """What stands here without quotes, in small letters."""
        piece = self.here
        return piece.text.casefold() if piece is not None and piece.kind == "run" else ""


def _syntax(what: str) -> CqlFault:
    return CqlFault(10, what, f"This is no CQL: {what}.")
