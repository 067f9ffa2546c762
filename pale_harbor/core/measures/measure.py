"""Measures by name: `ndcg@10`, `ap`, `rr` and their kin. To add one: a formula and a line below."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Final

from pale_harbor.core.measures import formulas, letters
from pale_harbor.core.measures.judged_list import JudgedList
from pale_harbor.errors import BadInput

DEEPEST: Final = 1_000_000

# Measures of the first k of a list, of a whole list, and rr, which can be either.
WITH_DEPTH: Final[dict[str, Callable[[JudgedList, int], float]]] = {
    "ndcg": formulas.ndcg,
    "ndcg_lin": formulas.ndcg_linear,
    "precision": formulas.precision,
    "recall": formulas.recall,
    "success": formulas.success,
    "rr": formulas.reciprocal_rank,
    "err": formulas.expected_reciprocal_rank,
    "judged": formulas.judged_share,
}
WHOLE_LIST: Final[dict[str, Callable[[JudgedList], float]]] = {
    "ap": formulas.average_precision,
    "map": formulas.average_precision,
    "rr": formulas.reciprocal_rank,
    "rbp": formulas.rank_biased_precision,
    "rbp_residual": formulas.rank_biased_residual,
    "bpref": formulas.bpref,
    "rprec": formulas.r_precision,
}

# How deep a page looks by itself, where it is not ten.
_USUAL_DEPTHS: Final = {"recall": 100}

# Of the first k of every list on the way to a query, letter by letter.
OF_TYPING: Final[dict[str, Callable[[JudgedList, int], float]]] = {
    "letters_saved": letters.letters_saved,
    "keystrokes_saved": letters.keystrokes_saved,
}

# What they tell is how much was judged: no rule and no band changes them.
TELLS_OF_JUDGMENTS: Final = frozenset({"judged", "rbp_residual"})


class UnknownMeasure(BadInput, ValueError):
    """A measure is asked for that does not exist, or with a depth it does not take."""

    def __init__(self, name: str) -> None:
        known = [f"{measure}@k" for measure in (WITH_DEPTH | OF_TYPING)] + list(WHOLE_LIST)
        near = get_close_matches(
            name.split("@", maxsplit=1)[0], {*WITH_DEPTH, *OF_TYPING, *WHOLE_LIST}, n=1, cutoff=0.5
        )
        shown = [written for written in known if near and written.split("@")[0] == near[0]]
        hint = f"Did you mean {' or '.join(shown)}?" if shown else f"Known: {', '.join(known)}."
        super().__init__(f'There is no measure "{name}". {hint}')
        self.name = name


@dataclass(frozen=True, slots=True)
class Measure:
    """A measure and its depth; `name` is how it is written.

    >>> measure("ndcg@10").depth
    10
    """

    name: str
    depth: int | None

    @property
    def kind(self) -> str:
        """Its name without the depth."""
        return self.name.split("@")[0]

    @property
    def is_of_typing(self) -> bool:
        """Whether it looks at the lists on the way to a query, letter by letter."""
        return self.kind in OF_TYPING

    def of(self, judged: JudgedList) -> float:
        """The measure of one query's list."""
        if self.depth is None:
            return WHOLE_LIST[self.kind](judged)
        return (WITH_DEPTH | OF_TYPING)[self.kind](judged, self.depth)

    def unjudged_share(self, judged: JudgedList) -> float:
        """The share of unjudged records among those that it looks at."""
        if self.depth is not None and self.is_of_typing:
            return judged.unjudged_on_the_way(self.depth)
        return judged.unjudged_share(self.depth)


def measure(name: str) -> Measure:
    """The measure that is written so. Raises UnknownMeasure."""
    found = re.fullmatch(r"([a-z][a-z0-9_]*)(?:@([1-9][0-9]{0,6}))?", name)
    if found is None:
        raise UnknownMeasure(name)
    kind, depth = found.groups()
    if depth is None and kind in WHOLE_LIST:
        return Measure(name, None)
    if depth is not None and kind in WITH_DEPTH | OF_TYPING and int(depth) <= DEEPEST:
        return Measure(name, int(depth))
    raise UnknownMeasure(name)


def offered_measures() -> list[str]:
    """Every measure once, as a page offers it: with the depth that is usual.

    >>> offered_measures()[:4]
    ['ndcg@10', 'ndcg_lin@10', 'precision@10', 'recall@100']
    """
    shallow = [f"{name}@{_USUAL_DEPTHS.get(name, 10)}" for name in WITH_DEPTH]
    formulas_seen: set[object] = set()
    whole: list[str] = []
    for name, formula in WHOLE_LIST.items():
        # Some have two names.
        if formula not in formulas_seen:
            formulas_seen.add(formula)
            whole.append(name)
    return [*shallow, *whole, *(f"{name}@10" for name in OF_TYPING)]
