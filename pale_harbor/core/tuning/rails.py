"""Guard rails of a tuning: rules about measures as the guard knows them, and bounds on what an answer costs.

tag:code rr may not drop            as any guard rule, against the ranker as it stands
index at most 2x                    its index files, against those of the ranker as it stands
index at most 20 MB
time at most 5 ms                   the median time of a query that was not asked before
time at most 1.5x
"""

import re
from dataclasses import dataclass
from typing import Final, Literal

from pale_harbor.core.guard.rule import GuardRule, guard_rule
from pale_harbor.errors import BadInput


@dataclass(frozen=True, slots=True)
class Cost:
    """What a ranker costs. index_bytes: of the index files that it reads; ms: the median of a query's time."""

    index_bytes: int
    ms: float


@dataclass(frozen=True, slots=True)
class CostRail:
    """text: as it was written; times: whether the limit is a multiple of what the ranker costs as it stands."""

    text: str
    what: Literal["index", "time"]
    limit: float
    times: bool

    def holds(self, before: Cost, after: Cost) -> bool:
        """Whether it is kept."""
        old, new = (before.index_bytes, after.index_bytes) if self.what == "index" else (before.ms, after.ms)
        return new <= (self.limit * old if self.times else self.limit)


Rail = GuardRule | CostRail

_COST: Final = re.compile(
    r"(?P<what>index|time)\s+at\s+most\s+(?P<limit>\d*\.?\d+)\s*(?P<unit>x|×|kb|mb|gb|ms|s)", re.IGNORECASE
)
_UNITS: Final = {"index": {"kb": 1e3, "mb": 1e6, "gb": 1e9}, "time": {"ms": 1.0, "s": 1e3}}


def rail(text: str) -> Rail:
    """The rail that is written so. Raises BadInput.

    >>> rail("index at most 20 MB").limit
    20000000.0
    >>> rail("time at most 1.5x").times
    True
    """
    said = text.strip()
    found = _COST.fullmatch(said)
    if found is None:
        if said.lower().startswith(("index", "time")):
            raise BadInput(
                f'"{said[:200]}" is no rail. Write "index at most 2x", "index at most 20 MB" or "time at most 5 ms".'
            )
        rule = guard_rule(said)
        if rule.letters is not None:
            raise BadInput(f'"{said[:200]}" is no rail: no setting is typed letter by letter.')
        return rule
    what: Literal["index", "time"] = "index" if found["what"].lower() == "index" else "time"
    unit, limit = found["unit"].lower(), float(found["limit"])
    if unit in ("x", "×"):
        return CostRail(said, what, limit, True)
    if unit not in _UNITS[what]:
        raise BadInput(f'"{said[:200]}" is no rail: {" or ".join((*_UNITS[what], "x"))} can stand there, not {unit}.')
    return CostRail(said, what, limit * _UNITS[what][unit], False)
