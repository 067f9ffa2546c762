"""Which letters lie beside one another on the keyboards that people type on."""

from itertools import product
from typing import Final

# Rows of letters from left to right, each set off by half a key from the one above: English, German and French, Nordic,
# and Russian.
_KEYBOARDS: Final = (
    ("qwertyuiop", "asdfghjkl", "zxcvbnm"),
    ("qwertzuiopü", "asdfghjklöä", "yxcvbnm"),
    ("azertyuiop", "qsdfghjklm", "wxcvbn"),
    ("qwertyuiopå", "asdfghjkløæ", "zxcvbnm"),
    ("йцукенгшщзхъ", "фывапролджэ", "ячсмитьбю"),
)


def _neighbours() -> frozenset[tuple[str, str]]:
    found: set[tuple[str, str]] = set()
    for rows in _KEYBOARDS:
        places = {
            letter: (row, 2 * column + row) for row, letters in enumerate(rows) for column, letter in enumerate(letters)
        }
        for (one, (row, place)), (other, (other_row, other_place)) in product(places.items(), repeat=2):
            if one != other and abs(row - other_row) <= 1 and abs(place - other_place) <= 2 - (row != other_row):
                found.add((one, other))
    return frozenset(found)


NEIGHBOURS: Final = _neighbours()


def are_neighbours(one: str, other: str) -> bool:
    """Whether two letters lie beside one another on any of these keyboards.

    >>> are_neighbours("a", "s"), are_neighbours("a", "p"), are_neighbours("g", "t")
    (True, False, True)
    """
    return (one, other) in NEIGHBOURS
