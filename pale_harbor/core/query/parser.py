"""Reads what a visitor typed. Never an error: what does not parse is read as words, and a note says so.

    query   = unit*
    unit    = both ("OR" both)*
    both    = single ("AND" single)*
    single  = ("NOT" | "-") single | field ":" primary | primary
    primary = "(" query ")" | ["="] '"' words '"' | "=" word | low ".." high (after a field) | word | begin* | *end

AND, OR and NOT count in capitals only. A minus, an equals sign and a quotation mark count at the beginning of a word.
A field counts where the collection has it, in any case. AND binds more tightly than OR.
"""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from itertools import groupby
from typing import Final

from pale_harbor.core.query.nodes import Both, Either, Group, InField, Node, Not, QueryWord, Quoted, Range

# Beyond these a query is no longer a visitor's: further words and deeper parentheses are passed over.
MOST_WORDS: Final = 1_000
DEEPEST: Final = 12

# Typographic quotes are quotes: telephones write them by themselves.
_QUOTES: Final = '"“”„«»'
_PIECE: Final = re.compile(
    rf"(?P<space>\s+)|(?P<open>\()|(?P<close>\))|(?P<quote>[{_QUOTES}])|(?P<run>[^\s(){_QUOTES}][^\s()]*)"
)
_RANGE: Final = re.compile(r"(?P<low>[^.\s]*)\.\.(?P<high>[^.\s]*)")
_OPERATORS: Final = ("AND", "OR", "NOT")


@dataclass(frozen=True, slots=True)
class ParsedQuery:
    """A query as it was understood. notes: in plain words what could not be taken as it was typed."""

    text: str
    root: Group
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class _Piece:
    """kind: open, close, quoted, word, operator, minus, equals or field."""

    kind: str
    text: str
    start: int
    end: int


def parse_query(text: str, fields: Iterable[str] = ()) -> ParsedQuery:
    """What a visitor's query says.

    fields: those that may stand before a colon.

    >>> parse_query('harpoon -gun "iron head"').root.nodes[1].node.text
    'gun'
    """
    notes: list[str] = []
    names = {name.casefold(): name for name in fields}
    pieces = _limit(_pieces(text, names, notes), notes)
    parser = _QueryParser(text, _balance(pieces, notes), notes)
    nodes = parser.units(0)
    return ParsedQuery(text, Group(tuple(nodes), 0, len(text)), tuple(dict.fromkeys(notes)))


def _pieces(text: str, names: Mapping[str, str], notes: list[str]) -> list[_Piece]:
    pieces: list[_Piece] = []
    at = 0
    while at < len(text):
        found = _PIECE.match(text, at)
        if found is None:  # pragma: no cover - every character is of one of the kinds
            break
        kind, start, at = found.lastgroup, found.start(), found.end()
        if kind in ("open", "close"):
            pieces.append(_Piece(kind, found.group(), start, at))
        elif kind == "quote":
            closing = _closing_quote(text, at)
            if closing is None:
                notes.append("A quotation mark without its partner was passed over.")
            else:
                pieces.append(_Piece("quoted", text[at:closing], start, closing + 1))
                at = closing + 1
        elif kind == "run":
            at = start + _run_length(found.group(), names)
            pieces += _in_run(text[start:at], start, names, text[at : at + 1] in (*_QUOTES, "("))
    return pieces


def _run_length(run: str, names: Mapping[str, str]) -> int:
    """How many letters of a run are its own: a quotation mark opens after a minus, a field or an equals sign, nowhere
    else in it."""
    for at, letter in enumerate(run):
        if letter in _QUOTES:
            before = run[:at].lstrip("-").removesuffix("=")
            opens = not before or (before.endswith(":") and before[:-1].casefold() in names)
            return at if opens else len(run)
    return len(run)


def _closing_quote(text: str, start: int) -> int | None:
    places = [place for quote in _QUOTES if (place := text.find(quote, start)) >= 0]
    return min(places) if places else None


def _in_run(run: str, start: int, names: Mapping[str, str], adjoins: bool = False) -> list[_Piece]:
    """The pieces of letters without a space: a minus, a field's name, a word.

    adjoins: whether a parenthesis or a quotation mark stands right after them.
    """
    if run in _OPERATORS:
        return [_Piece("operator", run, start, start + len(run))]
    bare = run.lstrip("-")
    if bare != run and (bare or adjoins):
        # Two of them are none.
        dashes = len(run) - len(bare)
        minuses = [_Piece("minus", "-", start, start + 1)] * (2 - dashes % 2)
        return [*minuses, *(_in_run(bare, start + dashes, names, adjoins) if bare else [])]
    if run[0] == "=" and run[1:2] != "=" and (len(run) > 1 or adjoins):
        equals = _Piece("equals", "=", start, start + 1)
        return [equals, *([_Piece("word", run[1:], start + 1, start + len(run))] if len(run) > 1 else [])]
    before, colon, after = run.partition(":")
    if colon and before.casefold() in names:
        field = _Piece("field", names[before.casefold()], start, start + len(before) + 1)
        return [field, *(_in_run(after, start + len(before) + 1, {}, adjoins) if after else [])]
    return [_Piece("word", run, start, start + len(run))]


def _limit(pieces: list[_Piece], notes: list[str]) -> list[_Piece]:
    """The pieces up to the last word that counts."""
    words = 0
    for number, piece in enumerate(pieces):
        words += piece.kind == "word" or (piece.kind == "quoted" and bool(piece.text.strip()))
        if words > MOST_WORDS:
            notes.append(f"Only the first {MOST_WORDS} words were looked for.")
            return pieces[:number]
    return pieces


def _balance(pieces: list[_Piece], notes: list[str]) -> list[_Piece]:
    """Without parentheses that have no partner, stand deeper than is sensible, or hold nothing."""
    opened: list[int] = []
    partner: dict[int, int] = {}
    for number, piece in enumerate(pieces):
        if piece.kind == "open":
            opened.append(number)
        elif piece.kind == "close" and opened:
            partner[opened.pop()] = number
    stray = len(opened) + sum(piece.kind == "close" for piece in pieces) - len(partner)
    if stray:
        notes.append("A parenthesis without its partner was passed over.")
    depth, kept = 0, set[int]()
    closes = set(partner.values())
    for number in range(len(pieces)):
        if number in partner:
            depth += 1
            if depth <= DEEPEST:
                kept |= {number, partner[number]}
        elif number in closes:
            depth -= 1
    if len(kept) < 2 * len(partner):
        notes.append(f"Parentheses deeper than {DEEPEST} were passed over.")
    return [piece for number, piece in enumerate(pieces) if piece.kind not in ("open", "close") or number in kept]


class _QueryParser:
    """Goes over the pieces once, from left to right."""

    def __init__(self, text: str, pieces: list[_Piece], notes: list[str]) -> None:
        self.text = text
        self.pieces = pieces
        self.notes = notes
        self.at = 0

    def units(self, depth: int) -> list[Node]:
        """Everything side by side, up to a closing parenthesis or the end."""
        nodes: list[Node] = []
        while (piece := self._here()) is not None and piece.kind != "close":
            if piece.kind == "operator" and piece.text != "NOT":
                nodes.append(self._as_word(piece))
                self.at += 1
            elif (node := self._either(depth)) is not None:
                nodes.append(node)
        return nodes

    def _here(self, ahead: int = 0) -> _Piece | None:
        return self.pieces[self.at + ahead] if self.at + ahead < len(self.pieces) else None

    def _either(self, depth: int) -> Node | None:
        nodes = self._chained("OR", lambda: self._both(depth))
        return nodes[0] if len(nodes) == 1 else Either(tuple(nodes), nodes[0].start, nodes[-1].end) if nodes else None

    def _both(self, depth: int) -> Node | None:
        nodes = self._chained("AND", lambda: self._single(depth))
        return nodes[0] if len(nodes) == 1 else Both(tuple(nodes), nodes[0].start, nodes[-1].end) if nodes else None

    def _chained(self, operator: str, part: "Callable[[], Node | None]") -> list[Node]:
        first = part()
        nodes = [first] if first is not None else []
        while (piece := self._here()) is not None and piece.kind == "operator" and piece.text == operator:
            if not nodes or not self._begins_something(self._here(1)):
                break
            self.at += 1
            node = part()
            if node is not None:
                nodes.append(node)
        return nodes

    def _begins_something(self, piece: _Piece | None) -> bool:
        return piece is not None and piece.kind != "close" and (piece.kind != "operator" or piece.text == "NOT")

    def _single(self, depth: int) -> Node | None:
        piece = self._here()
        if piece is None or piece.kind == "close":
            return None
        if piece.kind == "minus" or (piece.kind == "operator" and piece.text == "NOT"):
            return self._negated(depth)
        if piece.kind == "operator":
            return None
        self.at += 1
        if piece.kind == "open":
            nodes = self.units(depth + 1)
            end = self.pieces[self.at].end
            self.at += 1
            # Parentheses around one thing are as none: (a AND b) has to match as a AND b does.
            return nodes[0] if len(nodes) == 1 else Group(tuple(nodes), piece.start, end) if nodes else None
        if piece.kind == "quoted":
            return Quoted(piece.text, piece.start, piece.end) if piece.text.strip() else None
        if piece.kind == "field":
            return self._in_field(piece, depth)
        if piece.kind == "equals":
            return self._whole_value(piece)
        return _word(piece)

    def _negated(self, depth: int) -> Node | None:
        """However many minus signs and NOTs follow each other, they take turns."""
        first = self.pieces[self.at]
        count = 0
        while (piece := self._here()) is not None and (
            piece.kind == "minus" or (piece.kind == "operator" and piece.text == "NOT")
        ):
            count += 1
            self.at += 1
        following = self._here()
        if following is None or following.kind in ("close", "operator"):
            return self._as_word(first) if first.kind == "operator" else None
        node = self._single(depth)
        if node is None or count % 2 == 0:
            return node
        return Not(node, first.start, node.end)

    def _in_field(self, field: _Piece, depth: int) -> Node | None:
        piece = self._here()
        adjoins = piece is not None and piece.start == field.end
        if piece is None or not adjoins or piece.kind not in ("open", "quoted", "word", "equals"):
            return self._as_word(field)
        if piece.kind == "word" and (found := _RANGE.fullmatch(piece.text)) and (found["low"] or found["high"]):
            self.at += 1
            return Range(
                field=field.text, low=found["low"] or None, high=found["high"] or None, start=field.start, end=piece.end
            )
        node = self._single(depth)
        return None if node is None else InField(field.text, node, field.start, node.end)

    def _whole_value(self, equals: _Piece) -> Node | None:
        piece = self._here()
        if piece is None or piece.start != equals.end or piece.kind not in ("quoted", "word"):
            return self._as_word(equals)
        self.at += 1
        return Quoted(piece.text, equals.start, piece.end, whole=True) if piece.text.strip() else None

    def _as_word(self, piece: _Piece) -> QueryWord:
        said = self.text[piece.start : piece.end]
        self.notes.append(f'"{said}" has nothing to work on and was read as a word.')
        return QueryWord(text=said, start=piece.start, end=piece.end)


def _word(piece: _Piece) -> QueryWord:
    bare = piece.text.strip("*")
    begins, ends = piece.text.endswith("*"), piece.text.startswith("*")
    if not bare or "*" in bare or not (begins or ends) or (begins and ends):
        # A star anywhere else is a sign like any other: chains drop it.
        return QueryWord(text=piece.text, start=piece.start, end=piece.end)
    return QueryWord(text=bare, start=piece.start, end=piece.end, begins=begins, ends=ends)


def runs_of_words(nodes: Iterable[Node]) -> list[tuple[Node, ...]]:
    """Nodes side by side, with plain words that follow each other taken together."""
    runs: list[tuple[Node, ...]] = []
    for plain, own in groupby(nodes, lambda node: isinstance(node, QueryWord) and not (node.begins or node.ends)):
        together = tuple(own)
        runs += [together] if plain else [(node,) for node in together]
    return runs
