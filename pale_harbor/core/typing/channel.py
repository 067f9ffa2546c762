"""What it costs that one word was meant and another one typed: the least costly way to cut both into pieces, each piece
of the one typed as a piece of the other.

Source: E. Brill and R. Moore, "An improved error model for noisy channel spelling correction", 2000: edits of whole
pieces, and of others at the beginning of a word than inside. What they learn from pairs of words is stated here,
since a collection has no such pairs. Costs are negative natural logarithms of probabilities.
"""

from functools import lru_cache
from typing import Final

from pale_harbor.core.typing.keyboards import are_neighbours

RIGHT: Final = 0.05
EXCHANGED: Final = 6.0
NEIGHBOUR: Final = 4.5
VOWEL: Final = 4.5
LEFT_OUT: Final = 5.0
PUT_IN: Final = 5.0
DOUBLED: Final = 3.0
CHANGED_PLACES: Final = 4.0
SOUNDS_ALIKE: Final = 3.5
# A whole word that sounds like another one, whatever its letters.
WHOLE_SOUNDS_ALIKE: Final = 9.0
# Hardly anyone errs in the first letter.
AT_THE_BEGINNING: Final = 2.0
# A blank typed within a word, or none between two.
BLANK: Final = 4.0

_VOWELS: Final = frozenset("aeiouyäöüåæøаеиоуыэюя")
# Pieces that are pronounced alike in one of the languages of the trade: either may be typed for the other.
_ALIKE: Final = (
    ("f", "ph"), ("f", "v"), ("k", "c"), ("k", "ck"), ("k", "ch"), ("k", "q"), ("c", "s"), ("c", "ss"), ("s", "z"),
    ("s", "sh"), ("sh", "ch"), ("sh", "sch"), ("x", "ks"), ("x", "cs"), ("i", "ie"), ("i", "y"), ("e", "ea"),
    ("ee", "ea"), ("ee", "ie"), ("ai", "ei"), ("ai", "ay"), ("ei", "ey"), ("oo", "ou"), ("oo", "u"), ("o", "ough"),
    ("au", "ough"), ("or", "our"), ("er", "re"), ("er", "or"), ("er", "ar"), ("tion", "sion"), ("tion", "shun"),
    ("t", "th"), ("t", "d"), ("t", "tt"), ("r", "rh"), ("w", "wh"), ("n", "kn"), ("g", "gh"), ("j", "g"), ("qu", "kw"),
    ("a", "ah"), ("e", "eh"), ("ae", "e"), ("oe", "o"), ("ue", "u"), ("ss", "s"), ("z", "tz"),
)  # fmt: skip


def _pieces() -> dict[str, tuple[tuple[str, str], ...]]:
    """By the last letter of what was meant the pieces (meant, typed) that end with it."""
    found: dict[str, list[tuple[str, str]]] = {}
    for one, other in _ALIKE:
        for meant, typed in ((one, other), (other, one)):
            found.setdefault(meant[-1], []).append((meant, typed))
    return {last: tuple(pairs) for last, pairs in found.items()}


_PIECES: Final = _pieces()


@lru_cache(maxsize=65_536)
def cost_of_typing(meant: str, typed: str) -> float:
    """What it costs that `meant` was typed as `typed`.

    >>> [round(cost_of_typing("harpoon", typed), 2) for typed in ("harpon", "harpoin", "garpoon", "hrapoon")]
    [3.3, 4.8, 6.8, 4.25]
    """
    rows = [[0.0] * (len(typed) + 1) for _ in range(len(meant) + 1)]
    for i in range(len(meant) + 1):
        for j in range(len(typed) + 1):
            if i or j:
                rows[i][j] = min(_ways(meant, typed, i, j, rows))
    return rows[-1][-1]


def _ways(meant: str, typed: str, i: int, j: int, rows: list[list[float]]) -> list[float]:
    """What it costs to have come so far, by each last step."""
    early = AT_THE_BEGINNING if max(i, j) == 1 else 0.0
    ways: list[float] = []
    if i and j:
        one, other = meant[i - 1], typed[j - 1]
        ways.append(rows[i - 1][j - 1] + (RIGHT if one == other else early + _exchanged(one, other)))
    if i:
        twice = i > 1 and meant[i - 1] == meant[i - 2]
        ways.append(rows[i - 1][j] + early + (DOUBLED if twice else LEFT_OUT))
    if j:
        twice = j > 1 and typed[j - 1] == typed[j - 2]
        ways.append(rows[i][j - 1] + early + (DOUBLED if twice else PUT_IN))
    if i > 1 and j > 1 and meant[i - 1] == typed[j - 2] and meant[i - 2] == typed[j - 1] != typed[j - 2]:
        ways.append(rows[i - 2][j - 2] + CHANGED_PLACES + (AT_THE_BEGINNING if i == j == 2 else 0.0))
    if i and j:
        for own, other in _PIECES.get(meant[i - 1], ()):
            if meant.endswith(own, 0, i) and typed.endswith(other, 0, j):
                ways.append(rows[i - len(own)][j - len(other)] + SOUNDS_ALIKE)
    return ways


def _exchanged(meant: str, typed: str) -> float:
    if meant in _VOWELS and typed in _VOWELS:
        return VOWEL
    return NEIGHBOUR if are_neighbours(meant, typed) else EXCHANGED
