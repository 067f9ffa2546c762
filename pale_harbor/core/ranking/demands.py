"""Whether a record matches, settled by the bits of the words that it holds: a small program for a stack.

Demands of words that no reading can look for (stop words, signs) fall away before they are counted.
"""

import numpy as np

from pale_harbor.core.arrays import IntArray, Mask
from pale_harbor.core.kernels import inlined, kernel
from pale_harbor.core.ranking.plan import AtLeast, Demand, Each, Holds, No, One
from pale_harbor.core.ranking.ranker import Need

# Steps of a program, each with two arguments.
_COUNT, _AT_LEAST, _NOT = 0, 1, 2


def live_demand(demand: Demand, live: int) -> Demand | None:
    """The demand without words that nobody looks for; None where nothing is left. live: a set of bits."""
    match demand:
        case Holds(bit):
            return demand if live >> bit & 1 else None
        case No(inner):
            left = live_demand(inner, live)
            return None if left is None else No(left)
        case AtLeast(demands) | Each(demands) | One(demands):
            kept: list[Demand] = []
            for one in demands:
                left = live_demand(one, live)
                if left is not None:
                    kept.append(left)
            return type(demand)(tuple(kept)) if kept else None


def is_met(demand: Demand, held: int, need: Need) -> bool:
    """Whether a record that holds these bits matches: the plain way, for one record."""
    match demand:
        case Holds(bit):
            return bool(held >> bit & 1)
        case No(inner):
            return not is_met(inner, held, need)
        case Each(demands):
            return all(is_met(one, held, need) for one in demands)
        case One(demands):
            return any(is_met(one, held, need) for one in demands)
        case AtLeast(demands):
            return sum(is_met(one, held, need) for one in demands) >= need.of(len(demands))


def program_of(demand: Demand, need: Need) -> IntArray:
    """The demand as steps for `keeps`: int64 (steps, 3)."""
    steps: list[tuple[int, int, int]] = []
    _compile(demand, need, steps)
    return np.array(steps, np.int64).reshape(-1, 3)


def _compile(demand: Demand, need: Need, steps: list[tuple[int, int, int]]) -> None:
    match demand:
        case Holds(bit):
            steps.append((_COUNT, 1 << bit, 1))
        case No(inner):
            _compile(inner, need, steps)
            steps.append((_NOT, 0, 0))
        case Each(demands):
            _some(demands, len(demands), need, steps)
        case One(demands):
            _some(demands, 1, need, steps)
        case AtLeast(demands):
            _some(demands, need.of(len(demands)), need, steps)


def _some(demands: tuple[Demand, ...], enough: int, need: Need, steps: list[tuple[int, int, int]]) -> None:
    bits = [one.bit for one in demands if isinstance(one, Holds)]
    if len(set(bits)) == len(demands):
        steps.append((_COUNT, sum(1 << bit for bit in bits), enough))
        return
    for one in demands:
        _compile(one, need, steps)
    steps.append((_AT_LEAST, len(demands), enough))


@kernel
def keeps(program: IntArray, held: IntArray) -> Mask:
    """Which records match: bool (records,). held: int64 (records,), the bits of each."""
    kept = np.empty(held.size, np.bool_)
    stack = np.empty(program.shape[0] + 1, np.int64)
    for i in range(held.size):
        size = 0
        for step in range(program.shape[0]):
            kind, first, second = program[step, 0], program[step, 1], program[step, 2]
            if kind == _COUNT:
                stack[size] = _ones(held[i] & first) >= second
                size += 1
            elif kind == _NOT:
                stack[size - 1] = 1 - stack[size - 1]
            else:
                total = 0
                for j in range(first):
                    total += stack[size - 1 - j]
                size -= first
                stack[size] = total >= second
                size += 1
        kept[i] = stack[0] == 1
    return kept


@inlined
def _ones(bits: int) -> int:
    """How many bits are set."""
    bits = bits - ((bits >> 1) & 0x5555555555555555)
    bits = (bits & 0x3333333333333333) + ((bits >> 2) & 0x3333333333333333)
    bits = (bits + (bits >> 4)) & 0x0F0F0F0F0F0F0F0F
    return (bits * 0x0101010101010101) >> 56
