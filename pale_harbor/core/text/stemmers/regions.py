"""Regions of a word in which endings are cut, as the Snowball descriptions define them.

R1 is what follows the first consonant that follows a vowel; R2 is R1 of R1.
"""

from collections.abc import Iterable


def r1_of(word: str, vowels: frozenset[str], start: int = 0) -> int:
    """Where R1 begins, looked for from `start` on; the word's length where it is empty."""
    for i in range(start + 1, len(word)):
        if word[i] not in vowels and word[i - 1] in vowels:
            return i + 1
    return len(word)


def romance_rv_of(word: str, vowels: frozenset[str]) -> int:
    """Where RV of the Romance languages begins.

    If the second letter is a consonant, RV is what follows the next vowel; if the first two are
    vowels, what follows the next consonant; otherwise what follows the third letter.
    """
    if len(word) < 3:
        return len(word)
    if word[1] not in vowels:
        found = next((i for i in range(2, len(word)) if word[i] in vowels), None)
        return len(word) if found is None else found + 1
    if word[0] in vowels:
        found = next((i for i in range(2, len(word)) if word[i] not in vowels), None)
        return len(word) if found is None else found + 1
    return 3


def without_one_of(word: str, endings: Iterable[str], region: int) -> str:
    """The word without the first of the endings that it has, if that lies in the region."""
    ending = next((one for one in endings if word.endswith(one)), "")
    return word[: len(word) - len(ending)] if ending and len(word) - len(ending) >= region else word
