"""A slab with which of its records live: what was changed or deleted since it was written is dead in it."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from pale_harbor.core.ranking import Alive
from pale_harbor.work.collections.slab import Slab


@dataclass(frozen=True, slots=True)
class LiveSlab:
    """A slab with which of its records live: bool (records,), None where all do."""

    slab: Slab
    alive: Alive | None

    @property
    def dead(self) -> int:
        """How many of its records no longer count."""
        return 0 if self.alive is None else self.slab.record_count - self.living

    @property
    def living(self) -> int:
        """How many of its records count."""
        return self.slab.record_count if self.alive is None else int(np.count_nonzero(self.alive))

    @property
    def living_mask(self) -> Alive:
        """Which of its records count. bool (records,)."""
        return np.ones(self.slab.record_count, np.bool_) if self.alive is None else self.alive

    def lives(self, record_id: int) -> bool:
        """Whether a record counts."""
        return self.alive is None or bool(self.alive[record_id])

    def without(self, keys: Iterable[str]) -> "LiveSlab":
        """The same slab with these keys' records dead."""
        found = [record_id for key in keys if (record_id := self.slab.keys.find(key)) is not None]
        if not found:
            return self
        alive = self.living_mask.copy()
        alive[found] = False
        return LiveSlab(self.slab, alive)
