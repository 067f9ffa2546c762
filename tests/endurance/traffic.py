"""What a search box is asked: few queries over and over, the more often the better they are known, and as many that
nobody asked before. Of the queries of large search engines, too, about half are asked once only (R. Baeza-Yates et al.,
"The impact of caching on search engines", 2007).
"""

import random
from collections.abc import Sequence

_HEAD = 500
_WORDS = 3


def queries_of_visitors(known: Sequence[str], count: int, seed: int) -> list[str]:
    """Every other one of `count` is one of those that are known, in proportion to 1 / its place (Zipf); the others are
    words of them, put together as nobody did before."""
    rng = random.Random(seed)
    head, words = known[:_HEAD], sorted({word for query in known for word in query.split()})
    new: dict[str, None] = {}
    while len(new) < count // 2:
        new[" ".join(rng.sample(words, _WORDS))] = None
    tail = iter(new)
    known_ones = iter(rng.choices(head, [1 / place for place in range(1, len(head) + 1)], k=(count + 1) // 2))
    return [next(known_ones if number % 2 == 0 else tail) for number in range(count)]
