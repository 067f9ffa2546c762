"""What a query may have meant: a noisy channel over the collection's own words.

Of all ways to read the words that were typed, each as it stands, as a word near it, as two words, or together with the
next one, the likeliest counts: how likely its words are one after another, and that they were typed so.

Source: M. Kernighan, K. Church and W. Gale, "A spelling correction program based on a noisy channel model", 1990, and
`channel.py`, `word_model.py` for both parts.
"""

from collections.abc import Sequence
from dataclasses import KW_ONLY, dataclass
from enum import Enum
from math import exp, log
from typing import Annotated, Final

from pale_harbor.core.index.near_terms import near_terms
from pale_harbor.core.knobs import Knob
from pale_harbor.core.text.stages.accents import bare
from pale_harbor.core.typing.channel import BLANK, WHOLE_SOUNDS_ALIKE, cost_of_typing
from pale_harbor.core.typing.word_model import WordModel

# So many letters may have two edits.
TWO_EDITS_FROM: Final = 7
# So many ways to read the words so far are gone on with.
BEAM: Final = 12
_MOST_NEAR: Final = 32
_SHORTEST_PART: Final = 3


class TakeWhen(Enum):
    """When a correction is taken without being asked for."""

    NEVER = "never"
    NOTHING = "nothing"


@dataclass(frozen=True, slots=True)
class Corrections:
    """A query that hardly anything is found for is told what it may have meant."""

    _: KW_ONLY
    sure: Annotated[
        float,
        Knob(
            "as sure as",
            "how likely a correction has to be, among all ways to read the query",
            least=0,
            most=1,
            step=0.05,
        ),
    ] = 0.8
    letters: Annotated[
        int,
        Knob("corrected from", "so many letters may hold a slip", least=2, most=20, unit="letters", step=1, reach=10),
    ] = 3
    more: Annotated[
        float,
        Knob(
            "times as much",
            "words that records hold are only joined or parted where so many times as many records hold all the words",
            least=1,
            most=1_000,
            step=0.5,
            reach=10,
        ),
    ] = 3.0
    take: Annotated[
        TakeWhen,
        Knob(
            "taken by itself",
            "whether the list of the correction is shown at once: never, or where the words found nothing",
            choices={"never": "never", "nothing": "where nothing was found"},
        ),
    ] = TakeWhen.NEVER

    @property
    def is_taken(self) -> bool:
        """Whether it is ever asked for by itself."""
        return self.take is TakeWhen.NOTHING


@dataclass(frozen=True, slots=True)
class SaidWord:
    """A word as it was typed, in small letters. is_right: it is left as it is, but may be joined with another one;
    is_fixed: nothing is done to it."""

    letters: str
    is_right: bool
    is_fixed: bool = False


@dataclass(frozen=True, slots=True)
class Piece:
    """Words first to last, which is one past the end, were meant as these."""

    first: int
    last: int
    meant: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class MeantWords:
    """A way to read all words. chance: among all ways, from 0 to 1."""

    pieces: tuple[Piece, ...]
    chance: float


def readings_of(model: WordModel, said: Sequence[SaidWord], letters: int = 3) -> list[MeantWords]:
    """The likeliest ways to read words that follow each other, the likeliest first.

    letters: a word of fewer is never taken for a slip of another one.

    >>> import numpy as np
    >>> from pale_harbor.core.typing.word_model import WordsInRow, word_model
    >>> row = WordsInRow(["fog", "bell"], np.array([0, 1] * 20, np.int32), np.array([False, True] * 20))
    >>> best = readings_of(word_model([row]), [SaidWord("fog", True), SaidWord("blel", False)])[0]
    >>> [piece.meant for piece in best.pieces], best.chance > 0.9
    ([('fog',), ('bell',)], True)
    """
    # By how many words were read: score, the words that were meant, pieces.
    ways: list[list[tuple[float, tuple[str, ...], tuple[Piece, ...]]]] = [[(0.0, (), ())], *([] for _ in said)]
    for at in range(len(said)):
        going = sorted(ways[at], key=lambda way: (-way[0], way[1]))[:BEAM]
        for piece, cost in _pieces_at(model, said, at, letters):
            for score, before, pieces in going:
                words = (*before, *piece.meant)
                chance = sum(
                    model.log_chance(words[i], words[i - 1] if i else None) for i in range(len(before), len(words))
                )
                ways[piece.last].append((score + chance - cost, words, (*pieces, piece)))
    best: dict[tuple[str, ...], tuple[float, tuple[Piece, ...]]] = {}
    for score, words, pieces in ways[-1]:
        if words not in best or score > best[words][0]:
            best[words] = score, pieces
    if not best:
        return []
    top = max(score for score, _ in best.values())
    total = top + log(sum(exp(score - top) for score, _ in best.values()))
    in_order = sorted(best.items(), key=lambda one: (-one[1][0], one[0]))
    return [MeantWords(pieces, exp(score - total)) for _, (score, pieces) in in_order]


def _pieces_at(model: WordModel, said: Sequence[SaidWord], at: int, letters: int) -> list[tuple[Piece, float]]:
    """What the word at a place may have been meant as, by itself or with the next one, and what each costs."""
    own = said[at]
    found = [(Piece(at, at + 1, (own.letters,)), 0.0)]
    if own.is_fixed:
        return found
    if not own.is_right and len(own.letters) >= letters:
        found += [(Piece(at, at + 1, (word,)), cost) for word, cost in near_words(model, own.letters)]
        found += [(Piece(at, at + 1, parts), BLANK) for parts in _parted(model, own.letters)]
    if at + 1 < len(said) and not said[at + 1].is_fixed:
        joined = own.letters + said[at + 1].letters
        if model.count(joined) > 0:
            found.append((Piece(at, at + 2, (joined,)), BLANK))
    return found


def near_words(model: WordModel, typed: str) -> list[tuple[str, float]]:
    """Words that may have been meant by one that is none, with what it costs: near by their letters, or by sound.

    Of many the likeliest: a word's count and its cost together.
    """
    numbers: set[int] = set()
    for edits, fixed in ((1, 0), (2, 1)) if len(typed) >= TWO_EDITS_FROM else ((1, 0),):
        near, distances = near_terms(model.words, typed, edits, fixed)
        numbers.update(near[distances > 0].tolist())
    sounding = set(model.sounding_like(bare(typed)))
    numbers |= sounding
    numbers = {number for number in numbers if model.counts[number] > 0}
    # Two edits have many neighbours: what hardly anybody wrote is not weighed.
    likely = sorted(numbers, key=lambda number: (-model.counts[number], number))[: 8 * _MOST_NEAR]
    weighed: list[tuple[float, str, float]] = []
    for number in likely:
        word = model.words.term(number)
        cost = cost_of_typing(bare(word), bare(typed))
        if number in sounding:
            cost = min(cost, WHOLE_SOUNDS_ALIKE)
        if word != typed and cost < _TOO_FAR:
            weighed.append((cost - log(max(float(model.counts[number]), 1.0)), word, cost))
    return [(word, cost) for _, word, cost in sorted(weighed)[:_MOST_NEAR]]


# Two exchanged letters far apart on the keyboard, one of them the first.
_TOO_FAR: Final = 14.0


def _parted(model: WordModel, typed: str) -> list[tuple[str, str]]:
    """Two words that a word without a blank may have been meant as."""
    cuts = range(_SHORTEST_PART, len(typed) - _SHORTEST_PART + 1)
    parts = [(typed[:cut], typed[cut:]) for cut in cuts]
    return [both for both in parts if all(model.count(one) > 0 for one in both)]
