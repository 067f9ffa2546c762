"""Formulas: a small language for a score from everything that is known of a candidate.

    words + 5 * space.meaning
    max(reading.title, 0.5 * reading.description) * (1 + 0.1 * ln(1 + signal.visitor_requests))
    1 / (60 + rank.words) + 2 / (60 + rank.meaning)

Numbers, names, `+ - * /`, parentheses, and the functions below. Nothing else: no loops, no assignments, nothing that
reaches outside. What is divided by 0 is 0, so is the logarithm or root of what has none, and so is a score that is
no number; a rank in a list that does not hold the record is infinite.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.core.text.place import Place, place_of
from pale_harbor.errors import BadInput

LONGEST: Final = 2_000
DEEPEST: Final = 50


class FormulaError(BadInput, ValueError):
    """A formula cannot be read, or names something that is not there."""

    def __init__(self, place: Place, problem: str) -> None:
        super().__init__(f"{place}: {problem}")
        self.place = place
        self.problem = problem


@dataclass(frozen=True, slots=True)
class Number:
    value: float
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class FormulaName:
    """`words`, or a kind and what of it: `space.meaning`."""

    name: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Applied:
    """An operator or function with what it is applied to."""

    what: str
    parts: tuple["FormulaPart", ...]
    start: int
    end: int


FormulaPart = Number | FormulaName | Applied


def _ratio(a: FloatArray, b: FloatArray) -> FloatArray:
    return np.divide(a, b, out=np.zeros(np.broadcast(a, b).shape), where=b != 0)


def _logarithm(x: FloatArray) -> FloatArray:
    return np.log(x, out=np.zeros(x.shape), where=x > 0)


def _root(x: FloatArray) -> FloatArray:
    return np.sqrt(x, out=np.zeros(x.shape), where=x > 0)


def _above(a: FloatArray, b: FloatArray) -> FloatArray:
    return (a > b).astype(np.float64)


_OPERATORS: Final[Mapping[str, Callable[..., FloatArray]]] = {
    "+": np.add,
    "-": np.subtract,
    "*": np.multiply,
    "/": _ratio,
    "minus": np.negative,
}
# Each with how many parts it takes, fewest and most.
FUNCTIONS: Final[Mapping[str, tuple[Callable[..., FloatArray], int, int]]] = {
    "min": (lambda *parts: np.minimum.reduce(parts), 2, 10),
    "max": (lambda *parts: np.maximum.reduce(parts), 2, 10),
    "ln": (_logarithm, 1, 1),
    "sqrt": (_root, 1, 1),
    "abs": (np.abs, 1, 1),
    "above": (_above, 2, 2),
}

_TOKEN: Final = re.compile(
    r"""\s*(?:(?P<number>\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)
        |(?P<name>[A-Za-z_]\w*(?:\.(?:\w+|"[^"]*"))?)
        |(?P<sign>[-+*/(),]))""",
    re.VERBOSE,
)


@dataclass(frozen=True, slots=True)
class WorkedStep:
    """A part of a formula with what it comes to, for one candidate."""

    text: str
    value: float


@dataclass(frozen=True, slots=True)
class Formula:
    """A formula that was read. names: what it asks for, each once, in order."""

    text: str
    root: FormulaPart
    names: tuple[str, ...]

    def values(self, known: Mapping[str, FloatArray], size: int) -> FloatArray:
        """The formula for some candidates: float64 (size,). known: by name, float64 (size,)."""
        with np.errstate(all="ignore"):
            found = _value(self.root, known, size)
        return np.where(np.isfinite(found), found, 0.0)

    def steps(self, known: Mapping[str, float]) -> list[WorkedStep]:
        """Every name and every operation for one candidate, the innermost first, the whole last."""
        columns = {name: np.array([value]) for name, value in known.items()}
        steps: dict[str, float] = {}
        with np.errstate(all="ignore"):
            for part in _inside_out(self.root):
                if not isinstance(part, Number):
                    steps[self.text[part.start : part.end]] = float(_value(part, columns, 1)[0])
        return [WorkedStep(text, value) for text, value in steps.items()]


def formula_of(text: str, known: Sequence[str] | None = None) -> Formula:
    """Reads a formula. known: the names that there are, None where that is not checked. Raises FormulaError.

    >>> formula_of("words + 5 * space.meaning").names
    ('words', 'space.meaning')
    """
    reader = _Reader(text)
    root = reader.whole()
    names: dict[str, None] = {}
    for part in _inside_out(root):
        if isinstance(part, FormulaName):
            if known is not None and part.name not in known:
                nearest = nearest_name(part.name, known)
                raise FormulaError(
                    place_of(text, part.start, part.end), f'there is no "{part.name}". {hint(nearest, known)}'
                )
            names[part.name] = None
    return Formula(text, root, tuple(names))


def _value(part: FormulaPart, known: Mapping[str, FloatArray], size: int) -> FloatArray:
    match part:
        case Number(value):
            return np.full(size, value)
        case FormulaName(name):
            return known[name]
        case Applied(what, parts):
            own = [_value(one, known, size) for one in parts]
            return _OPERATORS[what](*own) if what in _OPERATORS else FUNCTIONS[what][0](*own)


def _inside_out(part: FormulaPart) -> list[FormulaPart]:
    if not isinstance(part, Applied):
        return [part]
    return [*(inner for one in part.parts for inner in _inside_out(one)), part]


class _Reader:
    """Reads from left to right: sums of products of signed things."""

    def __init__(self, text: str) -> None:
        if len(text) > LONGEST:
            raise FormulaError(place_of(text, LONGEST, len(text)), f"a formula has {LONGEST:,} characters at most.")
        self.text = text
        self.tokens = self._tokens()
        self.at = 0
        self.depth = 0

    def _tokens(self) -> list[tuple[str, str, int, int]]:
        tokens: list[tuple[str, str, int, int]] = []
        at = 0
        end = len(self.text.rstrip())
        while at < end:
            found = _TOKEN.match(self.text, at)
            if found is None:
                start = at + len(self.text[at:]) - len(self.text[at:].lstrip())
                raise FormulaError(
                    place_of(self.text, start, start + 1), f'"{self.text[start]}" cannot stand in a formula.'
                )
            kind = found.lastgroup or ""
            tokens.append((kind, found[kind], found.start(kind), found.end(kind)))
            at = found.end()
        return tokens

    def whole(self) -> FormulaPart:
        part = self._sum()
        if self.at < len(self.tokens):
            _, said, start, end = self.tokens[self.at]
            raise FormulaError(place_of(self.text, start, end), f'expected an operator or the end, not "{said}".')
        return part

    def _next(self) -> tuple[str, str, int, int]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("end", "", len(self.text), len(self.text))

    def _take(self, *signs: str) -> str | None:
        kind, said, _, _ = self._next()
        if kind == "sign" and said in signs:
            self.at += 1
            return said
        return None

    def _need(self, sign: str) -> int:
        _, said, start, end = self._next()
        if self._take(sign) is None:
            here = f'not "{said}"' if said else "but the formula ends"
            raise FormulaError(place_of(self.text, start, end), f'expected "{sign}", {here}.')
        return end

    def _sum(self) -> FormulaPart:
        return self._chain(self._product, "+", "-")

    def _product(self) -> FormulaPart:
        return self._chain(self._signed, "*", "/")

    def _chain(self, inner: "Callable[[], FormulaPart]", *signs: str) -> FormulaPart:
        part = inner()
        while (sign := self._take(*signs)) is not None:
            right = inner()
            part = Applied(sign, (part, right), part.start, right.end)
        return part

    def _signed(self) -> FormulaPart:
        start = self._next()[2]
        self.depth += 1
        if self.depth > DEEPEST:
            raise FormulaError(place_of(self.text, start, start + 1), f"a formula nests {DEEPEST} deep at most.")
        if self._take("-") is not None:
            inner = self._signed()
            part: FormulaPart = Applied("minus", (inner,), start, inner.end)
        else:
            part = self._plain()
        self.depth -= 1
        return part

    def _plain(self) -> FormulaPart:
        kind, said, start, end = self._next()
        self.at += 1
        if kind == "number":
            return Number(float(said), start, end)
        if kind == "name":
            return self._function(said, start) if self._take("(") is not None else FormulaName(said, start, end)
        if said == "(":
            part = self._sum()
            self._need(")")
            return part
        here = f'not "{said}"' if said else "but the formula ends"
        raise FormulaError(place_of(self.text, start, end), f"expected a number, a name or a parenthesis, {here}.")

    def _function(self, name: str, start: int) -> FormulaPart:
        if name not in FUNCTIONS:
            nearest = nearest_name(name, list(FUNCTIONS))
            raise FormulaError(
                place_of(self.text, start, start + len(name)),
                f'there is no function "{name}". {hint(nearest, list(FUNCTIONS))}',
            )
        parts = [self._sum()]
        while self._take(",") is not None:
            parts.append(self._sum())
        end = self._need(")")
        _, fewest, most = FUNCTIONS[name]
        if not fewest <= len(parts) <= most:
            wanted = f"{fewest}" if fewest == most else f"{fewest} to {most}"
            raise FormulaError(
                place_of(self.text, start, end), f'"{name}" takes {wanted} of them, here are {len(parts)}.'
            )
        return Applied(name, tuple(parts), start, end)


def shown_name(kind: str, name: str) -> str:
    """How a formula names something: quoted where it is no plain word.

    >>> shown_name("reading", "title"), shown_name("reading", "old name")
    ('reading.title', 'reading."old name"')
    """
    return f"{kind}.{name}" if re.fullmatch(r"\w+", name) else f'{kind}."{name}"'
