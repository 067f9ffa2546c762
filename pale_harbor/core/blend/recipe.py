"""How a ranker blends: which spaces it asks, how lists become one, and for which kind of query."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from pale_harbor.core.blend.formula import Formula
from pale_harbor.core.blend.fusion import Normalisation
from pale_harbor.core.text.errors import SlowPattern
from pale_harbor.core.text.patterns import SafePattern


class BlendHow(Enum):
    """The way in which lists become one."""

    RECIPROCAL_RANK = "reciprocal_rank"
    WEIGHTED_SUM = "weighted_sum"
    FILL_UP = "fill_up"
    REORDER = "reorder"
    FORMULA = "formula"


@dataclass(frozen=True, slots=True)
class SpaceUse:
    """A space that a ranker asks.

    weight: among the spaces; fetch: so many records at most; at_least: records less alike are left out.
    """

    space: str
    weight: float = 1.0
    fetch: int = 100
    at_least: float | None = None


@dataclass(frozen=True, slots=True)
class Blend:
    """How the words' list and the spaces' lists become one.

    meaning: from 0 (words alone) to 1 (spaces alone); k: of reciprocal ranks; fetch: so many of the words' records
    take part; depth: with REORDER, so many are put in another order; formula: with FORMULA.
    """

    how: BlendHow = BlendHow.RECIPROCAL_RANK
    meaning: float = 0.5
    k: float = 60.0
    normalisation: Normalisation = Normalisation.MIN_MAX
    fetch: int = 1_000
    depth: int = 50
    formula: Formula | None = None

    @property
    def asks_words(self) -> bool:
        return self.how not in _BY_MEANING or self.meaning < 1

    @property
    def asks_spaces(self) -> bool:
        return self.how not in _BY_MEANING or self.meaning > 0


_BY_MEANING = (BlendHow.RECIPROCAL_RANK, BlendHow.WEIGHTED_SUM)


@dataclass(frozen=True, slots=True)
class SecondStage:
    """The first records of the list put in a new order, word by word of the query.

    first: so many; weight: how much of the new order counts, from 0 to 1.
    """

    space: str
    first: int = 20
    weight: float = 0.5


@dataclass(frozen=True, slots=True)
class QueryKind:
    """Queries of one kind, and the blend that they get. What is None is not asked for.

    words: fewest and most words; pattern: found in the query; quoted: whether something stands in quotes.
    """

    name: str
    blend: Blend
    words: tuple[int, int | None] | None = None
    pattern: SafePattern | None = None
    quoted: bool | None = None

    def holds(self, text: str, words: int, quoted: bool) -> bool:
        """Whether a query is of this kind. Raises SlowPattern."""
        if self.words is not None:
            fewest, most = self.words
            if words < fewest or (most is not None and words > most):
                return False
        if self.quoted is not None and self.quoted is not quoted:
            return False
        return self.pattern is None or next(self.pattern.matches(text), None) is not None


def kind_of(text: str, words: int, quoted: bool, kinds: Sequence[QueryKind]) -> tuple[QueryKind | None, list[str]]:
    """The first kind that a query is of, None where it is of none; and the kinds whose pattern took too long."""
    slow: list[str] = []
    for kind in kinds:
        try:
            if kind.holds(text, words, quoted):
                return kind, slow
        except SlowPattern:
            slow.append(kind.name)
    return None, slow
