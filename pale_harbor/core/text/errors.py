"""What can be wrong with a chain.

ChainError
    NotationError      the notation cannot be read
    UnknownStage       a stage that does not exist
    WrongArgument      an argument that a stage does not take
    WrongOrder         stages that cannot follow one another

Every error knows its place in the notation, what was expected there, and the nearest valid name.
"""

from collections.abc import Sequence
from difflib import get_close_matches

from pale_harbor.core.text.place import Place
from pale_harbor.errors import BadInput


class ChainError(BadInput, ValueError):
    """A chain cannot be made of this notation."""

    def __init__(self, place: Place, problem: str, expected: Sequence[str] = (), nearest: str | None = None) -> None:
        super().__init__(f"{place}: {problem}")
        self.place = place
        self.problem = problem
        self.expected = tuple(expected)
        self.nearest = nearest


class NotationError(ChainError):
    """The notation breaks off, or holds something that cannot stand there."""


class UnknownStage(ChainError):
    """A chain names a stage that does not exist."""

    def __init__(self, name: str, place: Place, known: Sequence[str]) -> None:
        nearest = nearest_name(name, known)
        super().__init__(place, f'there is no stage "{name}". {hint(nearest, known)}', known, nearest)


class WrongArgument(ChainError):
    """A stage is given an argument that it does not take, or lacks one that it needs."""


class WrongOrder(ChainError):
    """Text stages come first, then one tokenizer, then token stages."""


class UnknownList(ChainError):
    """A chain names a word list that does not exist, or one of another kind than its stage reads."""


class StoppedPattern(ChainError):
    """A regular expression took more than it may, and was stopped."""


class SlowPattern(StoppedPattern):
    """A regular expression took too long on a text, and was stopped."""

    def __init__(self, place: Place, source: str, text: str, seconds: float) -> None:
        shown = text if len(text) <= 40 else f"{text[:40]}…"
        super().__init__(
            place,
            f"the pattern /{source}/ took longer than {seconds:g} s on one text and was stopped "
            f"(it begins: {shown!r}). Repetitions inside repetitions are the usual reason.",
            ["/pattern/"],
        )


class TiringPattern(StoppedPattern):
    """A regular expression took too long on many texts together, and was stopped."""

    def __init__(self, place: Place, source: str, seconds: float, texts: int) -> None:
        super().__init__(
            place,
            f"the pattern /{source}/ took {seconds:.0f} s on {texts:,} texts together and was stopped: that is "
            f"{1000 * seconds / texts:,.0f} ms each, and one is enough for most. Repetitions inside repetitions are "
            "the usual reason.",
            ["/pattern/"],
        )


class GreedyPattern(StoppedPattern):
    """A regular expression wanted more memory or depth than there is."""

    def __init__(self, place: Place, source: str, text: str) -> None:
        shown = text if len(text) <= 40 else f"{text[:40]}…"
        super().__init__(
            place,
            f"the pattern /{source}/ calls itself too deep or wants too much memory on one text and was stopped "
            f"(it begins: {shown!r}). Say it without patterns inside themselves.",
            ["/pattern/"],
        )


class TooManyTokens(ChainError):
    """A stage makes more tokens of one text than anybody could want."""

    def __init__(self, stage: str, place: Place, most: int) -> None:
        super().__init__(
            place,
            f'"{stage}" makes more than {most:,} tokens of one text and was stopped. Cut the text first, '
            "ask for fewer lengths, or leave out one of the stages that multiply.",
            ["stage"],
        )


def nearest_name(name: str, known: Sequence[str]) -> str | None:
    """The known name closest to a misspelt one, if any is close; of two letters or fewer none is, since one is half."""
    if len(name) <= 2:
        return None
    near = get_close_matches(name.lower(), known, n=1, cutoff=0.5)
    return near[0] if near else None


def hint(nearest: str | None, known: Sequence[str]) -> str:
    """What to try instead: the nearest name where there is one, else all of them."""
    return f'Did you mean "{nearest}"?' if nearest else f"Known: {', '.join(known)}."
