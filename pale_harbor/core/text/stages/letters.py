"""The tokenizer `letters`."""

from dataclasses import dataclass
from functools import cache
from typing import ClassVar

import numpy as np
import regex
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts, runs_of


@dataclass(frozen=True, slots=True)
class Letters:
    """Cuts at whatever is no letter: digits and signs are left out."""

    example: ClassVar[str] = "SKR-2070b gives SKR and b"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        runs = runs_of(_letters()[codes], text_firsts)
        # A mark that stands on no letter, as behind a picture, is no word.
        before = np.concatenate(([0], np.cumsum(_bases()[codes])))
        kept = before[runs.ends] > before[runs.starts]
        return Cuts(runs.text_ids[kept], runs.starts[kept], runs.ends[kept])


@cache
def _letters() -> NDArray[np.bool_]:
    """For each code point whether it is a letter or a mark on one."""
    return _all_of(r"[\p{L}\p{M}]+")


@cache
def _bases() -> NDArray[np.bool_]:
    """For each code point whether it is a letter."""
    return _all_of(r"\p{L}+")


def _all_of(kind: str) -> NDArray[np.bool_]:
    table = np.zeros(0x110000, np.bool_)
    every = "".join(map(chr, range(0x110000)))
    for run in regex.finditer(kind, every):
        table[run.start() : run.end()] = True
    return table
