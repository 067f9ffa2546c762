"""The measures once more, slowly and word for word as they are defined: the judge of the quick ones.

g(i): the grade at rank i, 0 if unjudged; rel(i): 1 where it is 1 or more; R: judged relevant records; N: judged others.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import log2


@dataclass(frozen=True)
class PlainList:
    """keys: best first; judged: grades by key, of records in the list or not."""

    keys: Sequence[str]
    judged: Mapping[str, int]

    def g(self, i: int) -> int:
        return self.judged.get(self.keys[i - 1], 0) if i <= len(self.keys) else 0

    def rel(self, i: int) -> int:
        return int(self.g(i) >= 1)

    @property
    def relevant(self) -> int:
        return sum(grade >= 1 for grade in self.judged.values())

    @property
    def others(self) -> int:
        return len(self.judged) - self.relevant


def precision(own: PlainList, k: int) -> float:
    return sum(own.rel(i) for i in range(1, k + 1)) / k


def recall(own: PlainList, k: int) -> float:
    return sum(own.rel(i) for i in range(1, k + 1)) / own.relevant if own.relevant else 0


def success(own: PlainList, k: int) -> float:
    return float(any(own.rel(i) for i in range(1, k + 1)))


def rr(own: PlainList, k: int) -> float:
    return next((1 / i for i in range(1, k + 1) if own.rel(i)), 0)


def ap(own: PlainList, k: int) -> float:
    if not own.relevant:
        return 0
    return sum(own.rel(i) * precision(own, i) for i in range(1, len(own.keys) + 1)) / own.relevant


def gain_of(own: PlainList, k: int, gain: Callable[[int], float]) -> float:
    dcg = sum(gain(own.g(i)) / log2(i + 1) for i in range(1, k + 1))
    best = sorted(own.judged.values(), reverse=True)[:k]
    ideal = sum(gain(grade) / log2(i + 1) for i, grade in enumerate(best, start=1))
    return dcg / ideal if ideal else 0


def ndcg(own: PlainList, k: int) -> float:
    return gain_of(own, k, lambda grade: 2**grade - 1)


def ndcg_lin(own: PlainList, k: int) -> float:
    return gain_of(own, k, float)


def err(own: PlainList, k: int) -> float:
    total, goes_on = 0.0, 1.0
    for i in range(1, k + 1):
        satisfied = (2 ** own.g(i) - 1) / 2**3
        total += satisfied * goes_on / i
        goes_on *= 1 - satisfied
    return total


def rbp(own: PlainList, k: int) -> float:
    return (1 - 0.8) * sum(own.rel(i) * 0.8 ** (i - 1) for i in range(1, len(own.keys) + 1))


def rbp_residual(own: PlainList, k: int) -> float:
    unjudged = [i for i, key in enumerate(own.keys, start=1) if key not in own.judged]
    return (1 - 0.8) * sum(0.8 ** (i - 1) for i in unjudged) + 0.8 ** len(own.keys)


def bpref(own: PlainList, k: int) -> float:
    if not own.relevant:
        return 0
    total = 0.0
    for rank, key in enumerate(own.keys):
        if own.judged.get(key, 0) >= 1:
            n = sum(own.judged.get(above) == 0 for above in own.keys[:rank])
            total += 1 if n == 0 else 1 - min(n, own.relevant) / min(own.relevant, own.others)
    return total / own.relevant


def rprec(own: PlainList, k: int) -> float:
    return precision(own, own.relevant) if own.relevant else 0


def judged(own: PlainList, k: int) -> float:
    first = own.keys[:k]
    return sum(key in own.judged for key in first) / min(k, len(own.keys)) if first else 0


PLAIN: dict[str, Callable[[PlainList, int], float]] = {
    "precision": precision,
    "recall": recall,
    "success": success,
    "rr": rr,
    "ap": ap,
    "map": ap,
    "ndcg": ndcg,
    "ndcg_lin": ndcg_lin,
    "err": err,
    "rbp": rbp,
    "rbp_residual": rbp_residual,
    "bpref": bpref,
    "rprec": rprec,
    "judged": judged,
}
