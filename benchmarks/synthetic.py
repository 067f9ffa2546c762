"""Large collections made up from a seed: words as frequent as in real texts (Zipf), lengths that vary."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

_SYLLABLES = "ba co du fe gi ha ju ko la me no pa ri so tu va wi ye zo bra cle dri fla gro".split()

# Rank r of the vocabulary is said in proportion to 1 / (r + 2.7) ^ 1.07 (Zipf–Mandelbrot).
_SHIFT, _EXPONENT = 2.7, 1.07


@dataclass(frozen=True)
class Synthetic:
    """records: texts; queries: three words each, as visitors choose them: neither the commonest nor the rarest."""

    records: list[str]
    queries: list[str]


def synthetic(record_count: int, query_count: int = 300, vocabulary: int = 200_000, seed: int = 1690) -> Synthetic:
    """A made-up collection; the same seed gives the same one."""
    rng = np.random.default_rng(seed)
    words = made_up_words(vocabulary, rng)
    shares = 1 / (np.arange(vocabulary) + _SHIFT) ** _EXPONENT
    cumulative = np.cumsum(shares / shares.sum())
    lengths = np.clip(rng.lognormal(3.4, 0.5, record_count), 5, 300).astype(np.int64)
    drawn = np.searchsorted(cumulative, rng.random(int(lengths.sum())))
    ends = np.cumsum(lengths)
    records = [" ".join(words[drawn[start:end]].tolist()) for start, end in zip(ends - lengths, ends, strict=True)]
    return Synthetic(records, _queries(words, drawn, query_count, rng))


def made_up_words(count: int, rng: np.random.Generator) -> NDArray[np.str_]:
    """Distinct words of two to five syllables."""
    made: dict[str, None] = {}
    while len(made) < count:
        for size in rng.integers(2, 6, count):
            made["".join(rng.choice(_SYLLABLES, size))] = None
            if len(made) == count:
                break
    return np.array(list(made))


def _queries(words: NDArray[np.str_], drawn: NDArray[np.integer], count: int, rng: np.random.Generator) -> list[str]:
    """Words drawn as records say them, the hundred commonest left out: people do not search for those."""
    sensible = drawn[drawn >= 100]
    return [" ".join(words[rng.choice(sensible, 3)].tolist()) for _ in range(count)]
