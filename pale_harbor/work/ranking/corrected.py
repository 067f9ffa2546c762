"""What a query may have meant."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class WordChanged:
    """A stretch of the query in code points, and what may have been meant there."""

    start: int
    end: int
    said: str
    meant: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DidYouMean:
    """What a query may have meant. sure: how likely that is, among all ways to read it; found, finds: records that hold
    all words of the query as it was typed, and of the other one; taken: whether its list is shown."""

    said: str
    query: str
    sure: float
    found: int
    finds: int
    changes: list[WordChanged]
    taken: bool = False
