"""How many letters of a query have to be typed until a wanted record is found.

Typing goes letter by letter, a letter being what a person takes for one: an accent or the parts of an emoji belong to
theirs. Of each list on the way only one thing matters: at which rank its first wanted record stands.

    letters      the first letter at which it is among the first k
    keystrokes   the least, over letters, of letters typed and steps down the list to it, within the first k

What is not found at all counts one more than everything that could be done: all letters, and all k steps.

As measures, of which more is better, from 0 where nothing is found to 1 where nobody could type less:

    letters_saved@k      (n + 1 − letters) / n, n being the letters of the query: also its mean success by letter
    keystrokes_saved@k   (n + k + 1 − keystrokes) / (n + k − 1)

Source: H. Duan and B. Hsu, "Online spelling correction for query completion", 2011, for the least number of keystrokes.
"""

from collections.abc import Sequence

import numpy as np
import regex
from numpy.typing import NDArray

from pale_harbor.core.measures.judged_list import RELEVANT_FROM, UNJUDGED, JudgedList, TypedLists
from pale_harbor.errors import BadInput

Ranks = Sequence[int | None]


def as_typed(query: str) -> list[str]:
    """What stands in the box after each letter, of which a blank is one.

    >>> as_typed("fog b")
    ['f', 'fo', 'fog', 'fog ', 'fog b']
    """
    letters = regex.findall(r"\X", query)
    return ["".join(letters[: i + 1]) for i in range(len(letters))]


def letters_until_found(ranks: Ranks, first: int) -> int:
    """After how many letters a wanted record is among the `first` ones, one more than there are where it never is.

    ranks: of the first wanted record after each letter, None where the list has none.

    >>> letters_until_found([None, 30, 4], 10), letters_until_found([None, None], 10)
    (3, 3)
    """
    return next((i for i, rank in enumerate(ranks, 1) if rank is not None and rank <= first), len(ranks) + 1)


def keystrokes_until_found(ranks: Ranks, first: int) -> int:
    """The least number of letters typed and steps down the list to a wanted record among the `first` ones.

    >>> keystrokes_until_found([None, 9, 2, 1], 10), keystrokes_until_found([None], 10)
    (5, 12)
    """
    found = [i + rank for i, rank in enumerate(ranks, 1) if rank is not None and rank <= first]
    return min(found, default=len(ranks) + first + 1)


def found_by_letter(letters: Sequence[int], lengths: Sequence[int]) -> list[float]:
    """Success by letter: the share of queries that are found by each, (letters,), from the first letter on.

    letters: after how many each query was found, see `letters_until_found`; lengths: of each query, which is found by a
    letter beyond its end if it was found at all.

    >>> found_by_letter([2, 4], [3, 3])
    [0.0, 0.5, 0.5]
    """
    most = max(lengths, default=0)
    found = [own for own, length in zip(letters, lengths, strict=True) if own <= length]
    return [sum(own <= letter for own in found) / len(letters) for letter in range(1, most + 1)]


class NotTyped(BadInput, ValueError):
    """A measure of typing is asked of lists of whole queries."""

    def __init__(self) -> None:
        super().__init__(
            "Letters and keystrokes saved are measured by typing to a ranker of ours. These are lists of whole "
            "queries, as a run file, a frozen run and a ranker from outside have them: choose another measure for them."
        )


def letters_saved(judged: JudgedList, depth: int) -> float:
    """The share of letters that nobody has to type before a relevant record is among the first `depth`."""
    typed = _typed(judged)
    return _letters_saved(typed, relevant_ranks(typed), depth)


def most_letters_saved(judged: JudgedList, depth: int) -> float:
    """The same if every unjudged record were relevant."""
    typed = _typed(judged)
    return _letters_saved(typed, possible_ranks(typed), depth)


def keystrokes_saved(judged: JudgedList, depth: int) -> float:
    """The share of letters and steps down the list, `depth` of them at most, that nobody has to make."""
    typed = _typed(judged)
    return _keystrokes_saved(typed, relevant_ranks(typed), depth)


def most_keystrokes_saved(judged: JudgedList, depth: int) -> float:
    """The same if every unjudged record were relevant."""
    typed = _typed(judged)
    return _keystrokes_saved(typed, possible_ranks(typed), depth)


def relevant_ranks(typed: TypedLists) -> list[int | None]:
    """After each letter the rank of the first relevant record, None where there is none."""
    return [_first(grades >= RELEVANT_FROM) for grades in typed.lists]


def possible_ranks(typed: TypedLists) -> list[int | None]:
    """After each letter the rank of the first record that is relevant, or that nobody judged."""
    return [_first((grades >= RELEVANT_FROM) | (grades == UNJUDGED)) for grades in typed.lists]


def _first(wanted: NDArray[np.bool_]) -> int | None:
    return int(wanted.argmax()) + 1 if wanted.any() else None


def _typed(judged: JudgedList) -> TypedLists:
    if judged.typed is None:
        raise NotTyped
    return judged.typed


def _letters_saved(typed: TypedLists, ranks: Ranks, depth: int) -> float:
    if not typed.letters:
        return 0.0
    return (typed.letters + 1 - letters_until_found(ranks, depth)) / typed.letters


def _keystrokes_saved(typed: TypedLists, ranks: Ranks, depth: int) -> float:
    if not typed.letters:
        return 0.0
    return (typed.letters + depth + 1 - keystrokes_until_found(ranks, depth)) / (typed.letters + depth - 1)
