"""Chain notation: the small language in which chains are written, read and printed.

    chain    = stage { ">" stage }
    stage    = name [ "(" [ argument { "," argument } ] ")" ]
    argument = [ name "=" ] value
    value    = number | word | "text" | /pattern/ | @list

`#` begins a comment that ends with its line; line breaks are free. What the stages mean is not
known here: this file only reads and prints.

>>> [call.name for call in parse("words > lower > stem(en)")]
['words', 'lower', 'stem']
"""

import re
from dataclasses import dataclass, field
from typing import Final

from pale_harbor.core.text.errors import NotationError
from pale_harbor.core.text.place import Place, place_of

LONGEST_NOTATION: Final = 10_000
MOST_STAGES: Final = 64


@dataclass(frozen=True, slots=True)
class Word:
    """A bare word, such as `en`."""

    text: str


@dataclass(frozen=True, slots=True)
class Pattern:
    """A regular expression between slashes."""

    source: str


@dataclass(frozen=True, slots=True)
class ListName:
    """A word list by its name, such as `@seafaring`, or in one version, such as `@seafaring:3`."""

    name: str


Value = int | float | str | Word | Pattern | ListName


@dataclass(frozen=True, slots=True)
class Argument:
    """One argument of a stage; `name` is None where it is given by position."""

    name: str | None
    value: Value
    place: Place = field(compare=False)


@dataclass(frozen=True, slots=True)
class StageCall:
    """A stage as written: its name and arguments. Two calls are equal wherever they stand.

    place: of the name; stretch: of the whole call in the notation, in code points.
    """

    name: str
    arguments: tuple[Argument, ...]
    place: Place = field(compare=False)
    stretch: tuple[int, int] = field(compare=False, default=(0, 0))

    def __str__(self) -> str:
        if not self.arguments:
            return self.name
        written = (
            as_notation(argument.value) if argument.name is None else f"{argument.name}={as_notation(argument.value)}"
            for argument in self.arguments
        )
        return f"{self.name}({', '.join(written)})"


def as_notation(value: Value) -> str:
    """A value as notation, such that parsing it gives the value again."""
    match value:
        case Word(text):
            return text
        case Pattern(source):
            return "/" + re.sub(r"(\\.)|/", lambda m: m[1] or "\\/", source, flags=re.DOTALL) + "/"
        case ListName(name):
            return "@" + name
        case str():
            escaped = value.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t")
            return f'"{escaped}"'
        case int() | float():
            return repr(value)


def format_notation(calls: tuple[StageCall, ...]) -> str:
    """The notation on one line, in its usual spacing."""
    return " > ".join(str(call) for call in calls)


def parse(source: str) -> tuple[StageCall, ...]:
    """The stages as written. Raises NotationError at the first place that cannot be read."""
    if len(source) > LONGEST_NOTATION:
        raise NotationError(
            place_of(source, LONGEST_NOTATION, len(source)),
            f"a chain is at most {LONGEST_NOTATION:,} characters long; this one has {len(source):,}.",
        )
    return _NotationParser(source).chain()


_SYMBOL = re.compile(
    r"""
      (?P<blank>   (?: \s | \#[^\n]* )+ )
    | (?P<number>  -? \d+ (?: \.\d+ )? (?: [eE][-+]?\d+ )? (?! [\w] ) )
    | (?P<word>    [^\W_][\w-]* | _[\w-]* )
    | (?P<text>    " (?: [^"\\\n] | \\. )* " )
    | (?P<pattern> / (?: [^/\\\n] | \\[^\n] )+ / )
    | (?P<list>    @ [\w-]+ (?: : \d{1,9} )? )
    | (?P<sign>    [>(),=] )
    """,
    re.VERBOSE,
)
_ESCAPES = {"n": "\n", "t": "\t", '"': '"', "\\": "\\"}


@dataclass(frozen=True, slots=True)
class _Symbol:
    kind: str
    text: str
    start: int

    @property
    def end(self) -> int:
        return self.start + len(self.text)

    def __str__(self) -> str:
        return "the end" if self.kind == "end" else f'"{self.text}"'


class _NotationParser:
    """Recursive descent over the symbols, one method a rule of the grammar."""

    def __init__(self, source: str) -> None:
        self.source = source
        self.symbols = list(self._symbols())
        self.next = 0

    def chain(self) -> tuple[StageCall, ...]:
        calls = [self._stage()]
        while self._at(">"):
            self._step()
            calls.append(self._stage())
        if self._seen.kind != "end":
            raise self._unexpected('">" and another stage, or the end', ">")
        if len(calls) > MOST_STAGES:
            raise NotationError(
                calls[MOST_STAGES].place,
                f"a chain has at most {MOST_STAGES} stages; this one has {len(calls)}.",
            )
        return tuple(calls)

    def _stage(self) -> StageCall:
        if self._seen.kind != "word":
            raise self._unexpected("the name of a stage", "name")
        name = self._step()
        arguments: list[Argument] = []
        if self._at("("):
            self._step()
            while not self._at(")"):
                arguments.append(self._argument())
                if self._at(","):
                    self._step()
                    if self._at(")"):
                        raise self._unexpected("another argument", "value")
                elif not self._at(")"):
                    raise self._unexpected('"," or ")"', ",", ")")
            self._step()
        last = self.symbols[self.next - 1]
        return StageCall(name.text, tuple(arguments), self._place(name), (name.start, last.end))

    def _argument(self) -> Argument:
        first = self._seen
        following = self.symbols[self.next + 1] if first.kind != "end" else first
        name = None
        if first.kind == "word" and following.text == "=" and following.kind == "sign":
            name = self._step().text
            self._step()
        value = self._value()
        last = self.symbols[self.next - 1]
        return Argument(name, value, place_of(self.source, first.start, last.end))

    def _value(self) -> Value:
        symbol = self._seen
        match symbol.kind:
            case "number":
                value: Value = float(symbol.text) if re.search(r"[.eE]", symbol.text) else int(symbol.text)
                if isinstance(value, float) and value in (float("inf"), float("-inf")):
                    raise NotationError(self._place(symbol), "this number is too large to be one.", ["number"])
            case "word":
                value = Word(symbol.text)
            case "text":
                value = re.sub(r"\\(.)", lambda m: _ESCAPES.get(m[1], m[0]), symbol.text[1:-1])
            case "pattern":
                value = Pattern(symbol.text[1:-1].replace("\\/", "/"))
            case "list":
                value = ListName(symbol.text[1:])
            case _:
                raise self._unexpected('a value: a number, a word, a "text", a /pattern/ or a @list', "value")
        self._step()
        return value

    def _symbols(self):
        at = 0
        while at < len(self.source):
            found = _SYMBOL.match(self.source, at)
            if found is None:
                raise self._unreadable(at)
            kind = found.lastgroup or ""
            if kind == "number" and len(found.group()) > 40:
                raise NotationError(
                    place_of(self.source, at, found.end()), "this number has too many digits.", ["number"]
                )
            if kind != "blank":
                yield _Symbol(kind, found.group(), at)
            at = found.end()
        yield _Symbol("end", "", len(self.source))

    def _unreadable(self, at: int) -> NotationError:
        character = self.source[at]
        line_end = self.source.find("\n", at)
        rest = place_of(self.source, at, line_end if line_end >= 0 else len(self.source))
        match character:
            case '"':
                return NotationError(rest, 'this text is not closed: a " is missing.', ['"'])
            case "/":
                return NotationError(rest, "this pattern is empty or not closed: a / is missing.", ["/"])
            case "@":
                return NotationError(
                    place_of(self.source, at, at + 1), 'after "@" the name of a list must stand.', ["@name"]
                )
            case _:
                shown = character if character.isprintable() else f"U+{ord(character):04X}"
                return NotationError(
                    place_of(self.source, at, at + 1),
                    f'"{shown}" has no meaning in chain notation.',
                    ["name", ">"],
                )

    @property
    def _seen(self) -> _Symbol:
        return self.symbols[self.next]

    def _at(self, sign: str) -> bool:
        return self._seen.kind == "sign" and self._seen.text == sign

    def _step(self) -> _Symbol:
        symbol = self._seen
        self.next += 1
        return symbol

    def _place(self, symbol: _Symbol) -> Place:
        return place_of(self.source, symbol.start, symbol.end)

    def _unexpected(self, wanted: str, *expected: str) -> NotationError:
        return NotationError(self._place(self._seen), f"expected {wanted}, found {self._seen}.", expected)
