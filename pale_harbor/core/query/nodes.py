"""What a visitor's query is made of, once it has been read.

Every node knows its stretch of the query: start and end in code points.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class QueryWord:
    """A word as it was typed. begins: `harp*`, ends: `*oon`; both have no star left in `text`."""

    text: str
    start: int
    end: int
    begins: bool = False
    ends: bool = False


@dataclass(frozen=True, slots=True)
class Quoted:
    """Words between double quotes, without the quotes: taken literally, next to each other, in order.

    whole: `="some words"` or `=word`: they are all that a value says.
    """

    text: str
    start: int
    end: int
    whole: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Range:
    """`field:low..high`, bounds included; None where a side is open."""

    field: str
    low: str | None
    high: str | None
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class InField:
    """`field:word`, `field:"some words"` or `field:(some words)`: only this field is looked at."""

    field: str
    node: "Node"
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Not:
    """`-word` or `NOT word`: records that match it are left out."""

    node: "Node"
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Both:
    """`a AND b`: each of them has to match."""

    nodes: tuple["Node", ...]
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Either:
    """`a OR b`: one of them is enough, and together they count as one word."""

    nodes: tuple["Node", ...]
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Group:
    """Nodes side by side: the query itself, or what stands in parentheses. How many words of it must match is the
    ranker's need."""

    nodes: tuple["Node", ...]
    start: int
    end: int


Node = QueryWord | Quoted | Range | InField | Not | Both | Either | Group
