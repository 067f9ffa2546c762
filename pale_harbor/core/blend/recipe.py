"""How a ranker blends: which spaces it asks, how lists become one, and for which kind of query."""

from collections.abc import Sequence
from dataclasses import KW_ONLY, dataclass
from enum import Enum
from typing import Annotated

from pale_harbor.core.blend.formula import Formula
from pale_harbor.core.blend.fusion import Normalisation
from pale_harbor.core.knobs import Knob, Names, Where
from pale_harbor.core.text.errors import StoppedPattern
from pale_harbor.core.text.patterns import SafePattern


class BlendHow(Enum):
    """The way in which lists become one."""

    RECIPROCAL_RANK = "reciprocal_rank"
    WEIGHTED_SUM = "weighted_sum"
    FILL_UP = "fill_up"
    REORDER = "reorder"
    FORMULA = "formula"


def _space(says: str) -> Knob:
    return Knob("space", says, names=Names.SPACE, pattern=r"^[a-z][a-z0-9_]{0,62}$")


@dataclass(frozen=True, slots=True)
class SpaceUse:
    """A space that a ranker asks."""

    space: Annotated[str, _space("the space that is asked")]
    weight: Annotated[
        float, Knob("weight", "how much it counts among the spaces", above=0, most=1_000, step=0.01, reach=5)
    ] = 1.0
    fetch: Annotated[
        int, Knob("fetches", "so many nearest records at most", least=1, most=10_000, unit="records", step=1)
    ] = 100
    at_least: Annotated[
        float | None, Knob("at least", "records less alike than this are left out", least=-1e6, most=1e6, begins=0)
    ] = None
    near_enough: Annotated[
        float | None,
        Knob(
            "near enough",
            "of the groups that vectors are in, only so large a share is looked through; what lies in others is missed",
            above=0,
            most=1,
            begins=0.05,
        ),
    ] = None
    mended: Annotated[
        bool,
        Knob(
            "reads mended words",
            "whether words that no record holds are read as what spelling slack found instead",
        ),
    ] = False


def _with(*ways: str) -> Where:
    return Where(name="how", says=ways)


@dataclass(frozen=True, slots=True, kw_only=True)
class Blend:
    """How the words' list and the spaces' lists become one."""

    how: Annotated[
        BlendHow,
        Knob(
            "how",
            "in which way lists become one",
            choices={
                "reciprocal_rank": "ranks, fused",
                "weighted_sum": "scores, added",
                "fill_up": "words, then meaning",
                "reorder": "words, reordered",
                "formula": "by a formula",
            },
        ),
    ] = BlendHow.RECIPROCAL_RANK
    _: KW_ONLY
    meaning: Annotated[
        float,
        Knob(
            "meaning",
            "from 0, words alone, to 1, spaces alone",
            least=0,
            most=1,
            step=0.01,
            where=_with("reciprocal_rank", "weighted_sum"),
        ),
    ] = 0.5
    k: Annotated[
        float,
        Knob(
            "k",
            "how little first ranks stand out",
            least=0,
            most=100_000,
            where=_with("reciprocal_rank"),
        ),
    ] = 60.0
    normalise: Annotated[
        Normalisation,
        Knob(
            "scores made comparable by",
            "how the scores of lists are brought to one scale",
            choices={"min_max": "min-max", "z_score": "z-score", "rank": "rank", "none": "nothing"},
            where=_with("weighted_sum"),
        ),
    ] = Normalisation.MIN_MAX
    fetch: Annotated[
        int,
        Knob(
            "records by words", "so many of the words' records take part", least=1, most=100_000, unit="records", step=1
        ),
    ] = 1_000
    depth: Annotated[
        int,
        Knob(
            "depth",
            "so many first records are reordered",
            least=1,
            most=10_000,
            unit="records",
            step=1,
            where=_with("reorder"),
        ),
    ] = 50
    formula: Annotated[
        Formula | None,
        Knob("formula", "[a score from all that is known](vectors.md#formulas)", longest=2_000, where=_with("formula")),
    ] = None

    @property
    def asks_words(self) -> bool:
        """Whether the words are searched at all."""
        return self.how not in _BY_MEANING or self.meaning < 1

    @property
    def asks_spaces(self) -> bool:
        """Whether any space is."""
        return self.how not in _BY_MEANING or self.meaning > 0


_BY_MEANING = (BlendHow.RECIPROCAL_RANK, BlendHow.WEIGHTED_SUM)


@dataclass(frozen=True, slots=True)
class SecondStage:
    """The first records of the list put in a new order, word by word of the query."""

    space: Annotated[str, _space("a space with vectors of words")]
    first: Annotated[
        int, Knob("first", "so many records are put in a new order", least=1, most=200, unit="records", step=1)
    ] = 20
    weight: Annotated[float, Knob("weight", "how much of the new order counts", least=0, most=1, step=0.01)] = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Queries:
    """Which queries are of a kind: whatever is said of them must hold; what is None is not asked for."""

    at_least_words: Annotated[int | None, Knob("words or more", "fewest words", least=0, most=1_000, unit="words")] = (
        None
    )
    at_most_words: Annotated[int | None, Knob("words at most", "most words", least=0, most=1_000, unit="words")] = None
    pattern: Annotated[
        SafePattern | None, Knob("pattern", "a regular expression that is found in the query", longest=1_000)
    ] = None
    quoted: Annotated[bool | None, Knob("quoted", "whether something stands in quotes")] = None


@dataclass(frozen=True, slots=True)
class QueryKind:
    """Queries of one kind, and the blend that they get."""

    name: Annotated[str, Knob("name", "what the kind is called", longest=60)]
    when: Annotated[Queries, Knob("when", "which queries are of this kind")]
    blend: Annotated[Blend, Knob("blend", "their own blend")]

    def holds(self, text: str, words: int, quoted: bool) -> bool:
        """Whether a query is of this kind. Raises StoppedPattern."""
        when = self.when
        if when.at_least_words is not None and words < when.at_least_words:
            return False
        if when.at_most_words is not None and words > when.at_most_words:
            return False
        if when.quoted is not None and when.quoted is not quoted:
            return False
        return when.pattern is None or when.pattern.is_in(text)


def kind_of(text: str, words: int, quoted: bool, kinds: Sequence[QueryKind]) -> tuple[QueryKind | None, list[str]]:
    """The first kind that a query is of, None where it is of none; and the kinds whose pattern took too long."""
    slow: list[str] = []
    for kind in kinds:
        try:
            if kind.holds(text, words, quoted):
                return kind, slow
        except StoppedPattern:
            slow.append(kind.name)
    return None, slow
