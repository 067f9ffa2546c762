"""What a search box is asked: few queries over and over, the more often the better they are known, and every fourth
time one that nobody asked before.
"""

import random
from collections.abc import Sequence
from itertools import accumulate, count
from typing import Final

_HEAD: Final = 500
_WORDS: Final = 3
_NEW: Final = 4


def queries_of_visitors(known: Sequence[str], number: int, seed: int) -> list[str]:
    """So many queries. Of those that are known each is asked in proportion to 1 / its place (Zipf); a new one is of
    their words, as often as they are said there, put together as nobody did before."""
    rng = random.Random(seed)
    head, words = known[:_HEAD], [word for query in known for word in query.split()]
    shares = [*accumulate(1 / place for place in range(1, len(head) + 1))]
    new: set[str] = set()
    asked: list[str] = []
    for at in range(number):
        if at % _NEW:
            asked += rng.choices(head, cum_weights=shares)
            continue
        made = next(one for _ in count() if (one := " ".join(rng.sample(words, _WORDS))) not in new)
        new.add(made)
        asked.append(made)
    return asked
