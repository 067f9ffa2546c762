"""Measures kept runs again after a restore: the lists of the same state have to be the same to the last digit."""

from dataclasses import dataclass

from pale_harbor.core.measures import measure
from pale_harbor.errors import HarborError
from pale_harbor.store.judging.judged_sets import sets_of
from pale_harbor.store.measuring.runs import KeptRun, RunList, find_run, lists_of, runs_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Part, judged_of, whole_or_part
from pale_harbor.work.measuring.lists import asked_lists
from pale_harbor.work.measuring.measuring import How, figures_of, run_key
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

_MEASURE = "ndcg@10"


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredAgain:
    """What came of measuring one of a collection's runs again.

    run: such as "first:2 on visitors", None where there is none of the present state. queries: how many lists it has;
    differing: queries whose list is another one now; before, now: the mean nDCG@10 of the open queries. problem: why it
    could not be measured.
    """

    collection: str
    run: str | None = None
    queries: int = 0
    differing: tuple[str, ...] = ()
    before: float | None = None
    now: float | None = None
    problem: str | None = None


def measured_again(bench: Workbench) -> list[MeasuredAgain]:
    """The newest run of each collection's present state, its queries searched again."""
    return [_of_collection(bench, one.name) for one in bench.collections()]


def _of_collection(bench: Workbench, name: str) -> MeasuredAgain:
    try:
        return bench.with_collection(name, lambda opened: _again(bench, opened))
    except HarborError as error:
        return MeasuredAgain(collection=name, problem=str(error))


def _again(bench: Workbench, opened: OpenCollection) -> MeasuredAgain:
    name = opened.collection.name
    with bench.pool.connection() as connection:
        sets = sets_of(connection, opened.collection.id)
        runs = [(kept.name, run) for kept in sets for run in runs_of(connection, kept.id) if run.ranker is not None]
    for set_name, run in sorted(runs, key=lambda one: -one[1].id):
        found = _chosen_in_present_state(bench, opened, set_name, run)
        if found is not None:
            return _compared(bench, opened, set_name, run, found)
    return MeasuredAgain(collection=name)


def _chosen_in_present_state(
    bench: Workbench, opened: OpenCollection, set_name: str, run: KeptRun
) -> ChosenRanker | None:
    """The run's ranker, if the run is what it would give now."""
    chosen = bench.choose(opened.collection, RankerChoice(run.ranker, run.version))
    assert chosen.saved is not None
    judged = whole_or_part(bench, opened, set_name, Part.ALL)
    with bench.pool.connection() as connection:
        is_it = find_run(connection, run_key(opened, chosen, chosen.saved, judged.judged_set)) == run.id
    return chosen if is_it else None


def _compared(
    bench: Workbench, opened: OpenCollection, set_name: str, run: KeptRun, chosen: ChosenRanker
) -> MeasuredAgain:
    judged = whole_or_part(bench, opened, set_name, Part.ALL)
    with bench.pool.connection() as connection:
        before = {one.query_id: one for one in lists_of(connection, run.id)}
        open_ones = judged_of(connection, judged.judged_set, Part.OPEN, None)
    now = asked_lists(opened, chosen.ranker, judged.everything)
    differing = [query for query in sorted(before.keys() | now.keys()) if not _alike(before.get(query), now.get(query))]
    means = [
        figures_of(lists, open_ones, [measure(_MEASURE)], How()).measured.means.get(_MEASURE) for lists in (before, now)
    ]
    return MeasuredAgain(
        collection=opened.collection.name,
        run=f"{run.title} on {set_name}",
        queries=len(before),
        differing=tuple(differing),
        before=means[0],
        now=means[1],
    )


def _alike(one: RunList | None, other: RunList | None) -> bool:
    if one is None or other is None:
        return one is other
    return (one.record_keys, one.scores, one.matched) == (other.record_keys, other.scores, other.matched)
