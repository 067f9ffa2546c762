"""What a search box is asked: the same few queries over and over, and as many that nobody asked before."""

import random
from collections.abc import Sequence

_HEAD = 500
_WORDS = 3


def queries_of_visitors(known: Sequence[str], count: int, seed: int) -> list[str]:
    """Every other one of `count` is one of those that are known, in turn; the others are words of them, put together as
    nobody did before."""
    rng = random.Random(seed)
    head, words = known[:_HEAD], sorted({word for query in known for word in query.split()})
    new: dict[str, None] = {}
    while len(new) < count // 2:
        new[" ".join(rng.sample(words, _WORDS))] = None
    tail = iter(new)
    return [head[number // 2 % len(head)] if number % 2 == 0 else next(tail) for number in range(count)]
