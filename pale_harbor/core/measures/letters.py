"""How many letters of a query have to be typed until a wanted record is found.

Typing goes letter by letter, a letter being what a person takes for one: an accent or the parts of an emoji belong to
theirs. Of each list on the way only one thing matters: at which rank its first wanted record stands.

    letters      the first letter at which it is among the first k
    keystrokes   the least, over letters, of letters typed and steps down the list to it, within the first k

What is not found at all counts one more than everything that could be done: all letters, and all k steps.

Source: H. Duan and B. Hsu, "Online spelling correction for query completion", 2011, for the least number of keystrokes.
"""

from collections.abc import Sequence

import regex

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
