"""What a tuning came to, told: the finding, what holds held out, and what each knob does around it."""

import time
from collections.abc import Sequence
from contextlib import suppress
from itertools import combinations
from typing import Any, Final, Protocol

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.comparing.comparison import comparison
from pale_harbor.core.comparing.verdict import tried_in
from pale_harbor.core.tuning.dials import Dial, Setting, standing, turned
from pale_harbor.core.tuning.finding import Tuned, as_good_within_luck, mean_of
from pale_harbor.core.tuning.searching import OutOfTime
from pale_harbor.formats.ranker.differences import Difference, differences
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.tuning_plan import TuningPlan
from pale_harbor.formats.tuning_report import (
    ChangeReport,
    FoldReport,
    HeldOutReport,
    KnobReport,
    RailReport,
    SettingReport,
    SurfaceReport,
    TuningReport,
    verdict_said,
)
from pale_harbor.work.measuring.turning import with_value
from pale_harbor.work.tuning.setting_values import SettingValues

# Of each of the two knobs of the surface so many values, evenly.
_ON_SURFACE: Final = 9


class Time(Protocol):
    """How much of it is left."""

    ended: str

    def has_time(self) -> bool:
        """Whether there is any."""
        ...


def changes_of(values: SettingValues, setting: Setting) -> list[Difference]:
    """What a setting turns, in words."""
    return differences(values.document, values.document_of(setting))


def measure_said(plan: TuningPlan) -> str:
    """What is tuned by.

    >>> measure_said(TuningPlan(measures=[{"measure": "ndcg@10", "weight": 2}, {"measure": "rr"}]))
    '2 × ndcg@10 + rr'
    """
    if len(plan.measures) == 1:
        return plan.measures[0].measure
    return " + ".join(one.measure if one.weight == 1 else f"{one.weight:g} × {one.measure}" for one in plan.measures)


def report_of(
    values: SettingValues,
    tuned: Tuned,
    folds: IntArray,
    plan: TuningPlan,
    ranker: str,
    watch: Time,
    began: float,
    earlier: int,
) -> TuningReport:
    """The whole report. What each knob does around the finding is measured as far as there is time.

    earlier: tunings on these queries before, since one of many shows a gain by luck.
    """
    here = standing(values.dials)
    found, everything = tuned.found, np.ones(len(values.queries), np.bool_)
    changes = _changes(values, found.simplest)
    held_out = _held_out(values, tuned, earlier)
    knobs = [_knob(values, number, found.simplest, watch) for number in range(len(values.dials))]
    surface = _surface(values, found.simplest, watch)
    measure = measure_said(plan)
    return TuningReport(
        collection=values.opened.collection.name,
        judged_set=values.judged.judged_set.name,
        ranker=ranker,
        measure=measure,
        queries=len(values.queries),
        before=_mean(values, here),
        offered=_setting(values, found.simplest),
        best=None if found.best == found.simplest else _setting(values, found.best),
        held_out=held_out,
        folds=[_fold(values, tuned, folds, number) for number in range(len(tuned.folds))],
        knobs=knobs,
        surface=surface,
        rails=[RailReport(one.text, values.keeps(one, found.simplest, everything)) for one in values.rails],
        tried=len(values.rows),
        seconds=time.monotonic() - began,
        ended=watch.ended,
        said=verdict_said(measure, changes, held_out, keeps_rails=bool(found.tried)),
    )


def _mean(values: SettingValues, setting: Setting) -> float:
    return mean_of(values.objective(setting), values.weights)


def _changes(values: SettingValues, setting: Setting) -> list[ChangeReport]:
    return [ChangeReport(one.what, one.before, one.after) for one in changes_of(values, setting)]


def _setting(values: SettingValues, setting: Setting) -> SettingReport:
    return SettingReport(values.document_of(setting).whole, _changes(values, setting), _mean(values, setting))


def _held_out(values: SettingValues, tuned: Tuned, earlier: int) -> HeldOutReport | None:
    if not tuned.held_out.any():
        return None
    own = np.flatnonzero(tuned.held_out).tolist()
    before = values.objective(standing(values.dials))
    weights = {values.queries[i]: float(values.weights[i]) for i in own} if values.how.weighted else None
    found = comparison(
        {values.queries[i]: float(before[i]) for i in own},
        {values.queries[i]: float(tuned.after[i]) for i in own},
        weights,
    )
    tried = tried_in(found, earlier + 1)
    return HeldOutReport(
        queries=found.queries,
        before=found.first,
        after=found.second,
        low=found.interval.low,
        high=found.interval.high,
        p_value=found.randomisation,
        tries=tried.tries,
        by_luck=tried.by_luck,
        outcome=tried.outcome,
        gained=found.gained,
        lost=found.lost,
        detectable=found.detectable,
    )


def _fold(values: SettingValues, tuned: Tuned, folds: IntArray, number: int) -> FoldReport:
    own = folds == number
    before, weights = values.objective(standing(values.dials)), values.weights
    return FoldReport(
        queries=int(own.sum()),
        before=mean_of(before[own], weights[own]),
        after=mean_of(tuned.after[own], weights[own]),
        changes=[one.words for one in changes_of(values, tuned.folds[number].simplest)],
    )


def _knob(values: SettingValues, number: int, setting: Setting, watch: Time) -> KnobReport:
    dial = values.dials[number]
    line = [(*setting[:number], at, *setting[number + 1 :]) for at in range(len(dial.values))]
    _measure(values, line, watch)
    means = _known_means(values, line)
    own, best = means[setting[number]], values.objective(setting)
    back = means[dial.standing]
    return KnobReport(
        name=knob_name(values.document, dial),
        path=list(dial.path),
        values=list(dial.values),
        ordered=dial.ordered,
        means=means,
        standing=dial.standing,
        chosen=setting[number],
        loses=None if own is None or back is None else own - back,
        as_good=[
            at
            for at, one in enumerate(line)
            if means[at] is not None and as_good_within_luck(best, values.objective(one), values.weights)
        ],
    )


def _measure(values: SettingValues, settings: Sequence[Setting], watch: Time) -> None:
    with suppress(OutOfTime):
        if watch.has_time():
            values(settings)


def _known_means(values: SettingValues, settings: Sequence[Setting]) -> list[float | None]:
    everything = np.ones(len(values.queries), np.bool_)
    return [_mean(values, one) if one in values.rows and values.fits(one, everything) else None for one in settings]


def knob_name(document: RankerDocument, dial: Dial) -> str:
    """What a dial's knob is called.

    >>> from pale_harbor.formats.ranker.document import ranker_document
    >>> plain = ranker_document({"readings": [{"field": "title", "chain": "words"}]})
    >>> knob_name(plain, Dial(("readings", 0, "weight"), (1.0, 2.0), 0))
    'title weight'
    """
    if dial.path[0] == "kinds" and len(dial.path) > 2:
        kind, last = document.whole["kinds"][dial.path[1]], dial.path[-1]
        return f"{kind['name']}: {last}"
    other = next(at for at in range(len(dial.values)) if at != dial.standing)
    changed = RankerDocument(with_value(document.whole, dial.path, dial.values[other]))
    said = differences(document, changed)
    return said[0].what if said else dial.name


def _surface(values: SettingValues, setting: Setting, watch: Time) -> SurfaceReport | None:
    """The two ordered knobs whose turns make the most difference; those that the setting turns before others."""
    ordered = [number for number, dial in enumerate(values.dials) if dial.ordered]
    if len(ordered) < 2 or not watch.has_time():
        return None
    changed = set(turned(values.dials, setting))
    spans = {number: _span(values, number, setting) for number in ordered}
    first, second = max(
        combinations(ordered, 2),
        key=lambda pair: (sum(one in changed for one in pair), spans[pair[0]] + spans[pair[1]]),
    )
    rows, columns = (_some(values.dials[number], setting[number]) for number in (first, second))
    settings = [[_with(setting, {first: row, second: column}) for column in columns] for row in rows]
    for line in settings:
        _measure(values, line, watch)
    return SurfaceReport(
        rows=first,
        columns=second,
        row_values=[values.dials[first].values[at] for at in rows],
        column_values=[values.dials[second].values[at] for at in columns],
        means=[_known_means(values, line) for line in settings],
    )


def _span(values: SettingValues, number: int, setting: Setting) -> float:
    line = [_with(setting, {number: at}) for at in range(len(values.dials[number].values))]
    means = [one for one in _known_means(values, line) if one is not None]
    return max(means) - min(means) if means else 0.0


def _with(setting: Setting, put: dict[int, int]) -> Setting:
    return tuple(put.get(number, at) for number, at in enumerate(setting))


def _some(dial: Dial, chosen: int) -> list[Any]:
    """Numbers of values, evenly, with both ends and the chosen one."""
    count = len(dial.values)
    return sorted({*np.linspace(0, count - 1, min(count, _ON_SURFACE)).round().astype(int).tolist(), chosen})
