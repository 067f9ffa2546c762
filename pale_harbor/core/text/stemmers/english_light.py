"""Plurals only, for English.

Source: D. Harman, "How Effective Is Suffixing?", Journal of the American Society for Information
Science 42(1), 1991: the S stemmer.
"""


def stem(word: str) -> str:
    """The word without its plural ending; the first rule that fits is taken.

    >>> stem("ferries"), stem("quays"), stem("compass")
    ('ferry', 'quay', 'compass')
    """
    if word.endswith("ies") and not word.endswith(("eies", "aies")):
        return word[:-3] + "y"
    if word.endswith("es") and not word.endswith(("aes", "ees", "oes")):
        return word[:-1]
    if word.endswith("s") and not word.endswith(("us", "ss")):
        return word[:-1]
    return word
