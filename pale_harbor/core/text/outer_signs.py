"""A word and the punctuation around it, as people type it."""

from unicodedata import category


def without_outer_signs(word: str) -> str:
    """A word without the punctuation before and after it.

    >>> without_outer_signs("sofa,")
    'sofa'
    """
    start, end = 0, len(word)
    while start < end and category(word[start]).startswith("P"):
        start += 1
    while end > start and category(word[end - 1]).startswith("P"):
        end -= 1
    return word[start:end]
