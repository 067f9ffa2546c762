"""Settings measured: the value of each query by each, kept as they come, so that nothing is measured twice."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Final

import numpy as np

from pale_harbor.core.arrays import FloatArray, Mask
from pale_harbor.core.guard.checking import check
from pale_harbor.core.guard.rule import GuardRule
from pale_harbor.core.knobs import number_at, with_number
from pale_harbor.core.measures import Measure
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.sheets.weighing import sheet_name
from pale_harbor.core.tuning.dials import Dial, Setting, standing
from pale_harbor.core.tuning.rails import Cost, CostRail, Rail
from pale_harbor.core.tuning.searching import OutOfTime
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.store.tuning.trials import Trial
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.expecting import broken_of
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.measuring.set_sheet import Seen, seen_lists
from pale_harbor.work.measuring.turning import Values, counted_queries, values_seen, with_value
from pale_harbor.work.tuning.costs import cost_of

# So many rankers are weighed at once: their scores of every candidate stand beside each other in memory.
_AT_ONCE: Final = 24


@dataclass(frozen=True, slots=True, eq=False)
class Row:
    """What a setting came to. values: float64 (measures, queries); broken: expectations that it breaks."""

    values: FloatArray
    broken: int


class SettingValues:
    """Measures settings of a ranker's dials on a judged set.

    wanted: measures, and how much each counts (0: for the rails alone); read: makes rankers of documents, raises
    BadInput; keep: hears of rows that are new, and may raise to end it all.
    """

    def __init__(
        self,
        opened: OpenCollection,
        document: RankerDocument,
        dials: Sequence[Dial],
        judged: Judged,
        wanted: Mapping[Measure, float],
        rails: Sequence[Rail],
        how: How,
        read: Callable[[Sequence[RankerDocument]], list[Ranker]],
        keep: Callable[[Sequence[Trial]], object],
    ) -> None:
        self.opened, self.document, self.dials, self.judged, self.how = opened, document, dials, judged, how
        self.rails = rails
        self.queries = counted_queries(judged, how)
        self.rows: dict[Setting, Row] = {}
        self._wanted = wanted
        self._measures = list(wanted)
        self._read, self._keep = read, keep
        self._bases: dict[tuple[Any, ...], Ranker] = {}
        self._known: dict[str, Values] = {one.name: Values() for one in self._measures}
        self._costs: dict[object, Cost] = {}
        self.has_time: Callable[[], bool] = lambda: True
        self._expecting = any(isinstance(one, GuardRule) and one.measure is None for one in rails)

    @cached_property
    def weights(self) -> FloatArray:
        """How much each query counts: float64 (queries,)."""
        own = self.judged.weights
        return np.array([own.get(query, 0.0) if self.how.weighted else 1.0 for query in self.queries])

    def remember(self, trials: Sequence[Trial]) -> None:
        """Takes over what was measured before."""
        shape = len(self._measures), len(self.queries)
        for one in trials:
            self.rows[tuple(one.setting)] = Row(np.array(one.values, np.float64).reshape(shape), one.broken)

    def __call__(self, settings: Sequence[Setting]) -> list[FloatArray]:
        """The value of each query by each setting, all wanted measures in one: float64 (queries,) each.

        Raises OutOfTime where there is none left for all of several.
        """
        unknown = list(dict.fromkeys(one for one in settings if one not in self.rows))
        while unknown:
            # What has to be searched for takes long: there is a look at the time after each.
            count = _AT_ONCE if sheet_name(self.ranker(unknown[0])) is not None else 1
            self._measure(unknown[:count])
            unknown = unknown[count:]
            if unknown and not self.has_time():
                raise OutOfTime
        return [self.objective(one) for one in settings]

    def objective(self, setting: Setting) -> FloatArray:
        """The value of each query by a setting that was measured."""
        shares = np.array(list(self._wanted.values()))
        return (shares / shares.sum()) @ self.rows[setting].values

    def by_query(self, setting: Setting, measure: Measure | None = None) -> dict[str, float]:
        """The same by query; measure: one instead of all."""
        row = self.objective(setting) if measure is None else self.rows[setting].values[self._measures.index(measure)]
        return dict(zip(self.queries, row.tolist(), strict=True))

    def fits(self, setting: Setting, queries: Mask) -> bool:
        """Whether a setting that was measured keeps every rail on some queries."""
        return all(self.keeps(one, setting, queries) for one in self.rails)

    def keeps(self, rail: Rail, setting: Setting, queries: Mask) -> bool:
        """Whether it keeps one rail. A rule about a tag that none of these queries has is kept."""
        here = standing(self.dials)
        if isinstance(rail, CostRail):
            return rail.holds(self.cost(here), self.cost(setting))
        if rail.measure is None:
            return self.rows[setting].broken == 0
        own = {query for query, wanted in zip(self.queries, queries.tolist(), strict=True) if wanted}
        tags = {one.query_id: one.tags for one in self.judged.queries}
        if rail.tag is not None and not any(rail.tag in tags.get(query, ()) for query in own):
            return True
        after, before = ({q: v for q, v in self.by_query(s, rail.measure).items() if q in own} for s in (setting, here))
        return check(rail, after, before, tags, self.judged.weights if self.how.weighted else None).holds

    def cost(self, setting: Setting) -> Cost:
        """What a setting costs. Settings that differ in numbers alone cost the same."""
        ranker = self.ranker(setting)
        name = sheet_name(ranker) or ranker
        if name not in self._costs:
            self._costs[name] = cost_of(self.opened, ranker, self.judged.queries)
        return self._costs[name]

    def document_of(self, setting: Setting) -> RankerDocument:
        """The document with every dial as the setting says."""
        whole = self.document.whole
        for dial, at in zip(self.dials, setting, strict=True):
            if at != dial.standing:
                whole = with_value(whole, dial.path, dial.values[at])
        return RankerDocument(whole)

    def ranker(self, setting: Setting) -> Ranker:
        """The ranker with every dial as the setting says."""
        base = self._base(setting)
        for dial, at in zip(self.dials, setting, strict=True):
            if number_at(base, dial.path) is not None:
                base = with_number(base, dial.path, dial.values[at])
        return base

    def _base(self, setting: Setting) -> Ranker:
        """The ranker with those dials turned that are more than a number in it; read once for each way they stand."""
        kept = tuple(at if not self._is_number(number) else None for number, at in enumerate(setting))
        if kept not in self._bases:
            plain = tuple(dial.standing if at is None else at for dial, at in zip(self.dials, kept, strict=True))
            (self._bases[kept],) = self._read([self.document_of(plain)])
        return self._bases[kept]

    def _is_number(self, number: int) -> bool:
        dial = self.dials[number]
        return dial.ordered and number_at(self._as_it_stands, dial.path) is not None

    @cached_property
    def _as_it_stands(self) -> Ranker:
        (ranker,) = self._read([self.document])
        return ranker

    def _measure(self, settings: Sequence[Setting]) -> None:
        rankers = [self.ranker(one) for one in settings]
        seen = seen_lists(self.opened, rankers, self.judged, self._measures, self.how.rules, expecting=self._expecting)
        by_measure = [values_seen(seen, self.judged, one, self.how, self._known[one.name]) for one in self._measures]
        trials: list[Trial] = []
        for number, setting in enumerate(settings):
            values = np.array([[own[number][query][0] for query in self.queries] for own in by_measure])
            broken = len(broken_of(self.judged.expectations, _whole(seen[number]))) if self._expecting else 0
            self.rows[setting] = Row(values.reshape(len(self._measures), len(self.queries)), broken)
            trials.append(Trial(list(setting), values.ravel().tolist(), broken))
        self._keep(trials)


def _whole(seen: Mapping[str, Seen]) -> dict[str, Any]:
    return {query: one.ranked for query, one in seen.items() if one.ranked is not None}
