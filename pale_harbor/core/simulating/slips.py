"""Words of a collection typed badly, to see how many of them a correction mends, and how many right ones it touches.

Source: F. Damerau, "A technique for computer detection and correction of spelling errors", 1964, for the four slips
that most misspellings are made of; beside these a blank too few.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np

from pale_harbor.core.typing.keyboards import NEIGHBOURS
from pale_harbor.core.typing.word_model import WordModel

_SHORTEST: Final = 5
_LEAST_COUNT: Final = 3
# So often another word is tried before a slip is given up.
_TRIES: Final = 20


class SlipKind(StrEnum):
    """How words were typed badly; RIGHT: they were not."""

    LEFT_OUT = "left out"
    PUT_IN = "put in"
    EXCHANGED = "exchanged"
    CHANGED_PLACES = "changed places"
    RUN_TOGETHER = "run together"
    RIGHT = "right"


ONE_WORD_SLIPS: Final = (SlipKind.LEFT_OUT, SlipKind.PUT_IN, SlipKind.EXCHANGED, SlipKind.CHANGED_PLACES)


@dataclass(frozen=True, slots=True)
class Slip:
    """What was meant, and what was typed for it."""

    kind: SlipKind
    meant: str
    said: str


def slips_of(model: WordModel, count: int, seed: int = 0) -> list[Slip]:
    """So many slips and as many right queries: of words that stand beside one another in records, half of them alone.

    No slip makes another word of the collection. Fewer where hardly a word has enough letters.
    """
    random = np.random.default_rng(seed)
    firsts, seconds = np.divmod(model.pairs, max(1, len(model.words)))
    usable = np.array([_is_usable(model, number) for number in range(len(model.words))], np.bool_)
    fit = np.flatnonzero(usable[firsts] & usable[seconds]) if model.pairs.size else np.zeros(0, np.int64)
    if not fit.size:
        return []
    kinds = [kind for kind in SlipKind if kind is not SlipKind.RIGHT]
    found: list[Slip] = []
    for number in range(2 * count):
        kind = SlipKind.RIGHT if number % 2 else kinds[number // 2 % len(kinds)]
        for _ in range(_TRIES):
            at = fit[random.integers(fit.size)]
            pair = [model.words.term(int(firsts[at])), model.words.term(int(seconds[at]))]
            if kind is SlipKind.RUN_TOGETHER:
                said = "".join(pair)
                if model.count(said) == 0:
                    found.append(Slip(kind, " ".join(pair), said))
                    break
                continue
            if number // 2 % 4 < 2:
                pair = pair[:1]
            slipped = int(random.integers(len(pair)))
            typed = pair[slipped] if kind is SlipKind.RIGHT else slipped_word(pair[slipped], kind, random)
            if kind is SlipKind.RIGHT or model.count(typed) == 0:
                said = [typed if place == slipped else word for place, word in enumerate(pair)]
                found.append(Slip(kind, " ".join(pair), " ".join(said)))
                break
    return found


def slipped_word(word: str, kind: SlipKind, random: np.random.Generator) -> str:
    """A word with one slip behind its first letter.

    >>> slipped_word("harpoon", SlipKind.LEFT_OUT, np.random.default_rng(1))
    'haroon'
    """
    at = int(random.integers(1, len(word)))
    match kind:
        case SlipKind.LEFT_OUT:
            return word[:at] + word[at + 1 :]
        case SlipKind.PUT_IN:
            return word[:at] + _beside(word[at - 1], random) + word[at:]
        case SlipKind.EXCHANGED:
            return word[:at] + _beside(word[at], random) + word[at + 1 :]
        case _:
            at = min(at, len(word) - 2)
            return word[:at] + word[at + 1] + word[at] + word[at + 2 :]


def _beside(letter: str, random: np.random.Generator) -> str:
    """A letter beside another one on a keyboard; itself where none is known."""
    near: Sequence[str] = sorted(other for one, other in NEIGHBOURS if one == letter)
    return near[int(random.integers(len(near)))] if near else letter


def _is_usable(model: WordModel, number: int) -> bool:
    word = model.words.term(number)
    return len(word) >= _SHORTEST and word.isalpha() and model.counts[number] >= _LEAST_COUNT
