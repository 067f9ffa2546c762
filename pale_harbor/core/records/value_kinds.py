"""What kind of values a field holds, told from the values themselves: prose, names, codes and the like."""

from collections.abc import Sequence
from enum import Enum
from typing import Final

import regex

# So many of the values have to be of a kind before the field is.
_MOST: Final = 0.6
_PROSE_WORDS: Final = 8
# Values that come back: a fifth of them at most is different, and there are enough of them to tell.
_DIFFERENT: Final = 0.2
_ENOUGH_TO_COME_BACK: Final = 20
_LONGEST_CATEGORY: Final = 4

_ADDRESS: Final = regex.compile(r"(?:[a-z][a-z0-9+.-]*://|www\.|mailto:)\S+|[^\s@]+@[^\s@]+\.\p{L}+", regex.IGNORECASE)
_CODE: Final = regex.compile(r"(?=[^\d]*\d)[\p{L}\p{N}][\p{L}\p{N}./_:#+-]{0,39}")
_DIGITS: Final = regex.compile(r"[\p{N}\s.,:/+-]+")


class ValueKind(Enum):
    """What values are, as far as searching goes."""

    PROSE = "prose"
    NAMES = "names"
    CATEGORIES = "categories"
    CODES = "codes"
    ADDRESSES = "addresses"


def kind_of_values(values: Sequence[str]) -> ValueKind:
    """What most of a field's values are; names where nothing else fits.

    >>> kind_of_values(["HK-0007/A", "HK-0012/B"]), kind_of_values(["Aud Holm", "Per Vik"])
    (<ValueKind.CODES: 'codes'>, <ValueKind.NAMES: 'names'>)
    """
    given = [text for value in values if (text := value.strip())]
    if not given:
        return ValueKind.NAMES
    if _share(given, _ADDRESS) >= _MOST:
        return ValueKind.ADDRESSES
    if max(_share(given, _CODE), _share(given, _DIGITS)) >= _MOST:
        return ValueKind.CODES
    words = sum(len(text.split()) for text in given) / len(given)
    if words >= _PROSE_WORDS:
        return ValueKind.PROSE
    come_back = len(given) >= _ENOUGH_TO_COME_BACK and len(set(given)) <= _DIFFERENT * len(given)
    return ValueKind.CATEGORIES if come_back and words <= _LONGEST_CATEGORY else ValueKind.NAMES


def _share(values: Sequence[str], pattern: "regex.Pattern[str]") -> float:
    return sum(pattern.fullmatch(value) is not None for value in values) / len(values)
