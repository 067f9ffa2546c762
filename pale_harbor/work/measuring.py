"""Measures a ranker on a judged set: ranked lists for every judged query, then the measures."""

from collections.abc import Sequence
from dataclasses import dataclass

from pale_harbor import __version__
from pale_harbor.core.measures import Measure, Measured, measured
from pale_harbor.core.ranking import Ranker, in_force
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judged_sets import JudgedSet, SetQuery, grades_of, queries_of, set_named
from pale_harbor.store.rankers import SavedRanker
from pale_harbor.store.runs import RunKey, RunList, find_run, lists_of, save_measurements, save_run
from pale_harbor.work.asking import Question, answer, ask, today_here
from pale_harbor.work.opened import OpenCollection
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# How far down a run's lists go.
RUN_DEPTH = 1_000


@dataclass(frozen=True, slots=True)
class MadeOf:
    """The revisions that a measurement was made of: the same ones give the same digits."""

    collection: str
    records_revision: int
    records_fingerprint: str
    judged_set: str
    judged_revision: int
    ranker: str | None
    ranker_version: int | None
    program_version: str


@dataclass(frozen=True, slots=True)
class Measurement:
    """What was measured, of what, and how much of the first ten was judged."""

    measured: Measured
    made_of: MadeOf
    queries: list[SetQuery]
    matched: dict[str, int]


def measure_ranker(
    workbench: Workbench,
    collection_name: str,
    choice: RankerChoice,
    set_name: str,
    measures: Sequence[Measure],
) -> Measurement:
    """Measures a ranker on a judged set. A kept ranker's run is frozen, and used again."""
    return workbench.with_collection(
        collection_name, lambda opened: _measure(workbench, opened, choice, set_name, measures)
    )


def ranker_run(
    workbench: Workbench, collection_name: str, choice: RankerChoice, set_name: str
) -> tuple[list[RunList], ChosenRanker]:
    """The ranked lists of a set's queries, in the set's order, and the ranker that gave them."""

    def run(opened: OpenCollection) -> tuple[list[RunList], ChosenRanker]:
        chosen = workbench.choose(opened.collection, choice)
        return _run_lists(workbench, opened, chosen, _judged(workbench, opened, set_name)), chosen

    return workbench.with_collection(collection_name, run)


@dataclass(frozen=True, slots=True)
class _Judged:
    """A judged set in one revision."""

    judged_set: JudgedSet
    queries: list[SetQuery]
    grades: dict[str, dict[str, int]]


def _judged(workbench: Workbench, opened: OpenCollection, set_name: str) -> _Judged:
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        judged_set = set_named(connection, opened.collection.id, set_name)
        return _Judged(judged_set, queries_of(connection, judged_set.id), grades_of(connection, judged_set.id))


def _measure(
    workbench: Workbench, opened: OpenCollection, choice: RankerChoice, set_name: str, measures: Sequence[Measure]
) -> Measurement:
    chosen = workbench.choose(opened.collection, choice)
    judged = _judged(workbench, opened, set_name)
    lists = _run_lists(workbench, opened, chosen, judged)
    values = measured({ranked.query_id: ranked.record_keys for ranked in lists}, judged.grades, measures)
    if chosen.saved is not None:
        with workbench.pool.connection() as connection:
            run_id = save_run(connection, _run_key(opened, chosen, chosen.saved, judged.judged_set), lists)
            save_measurements(connection, run_id, values)
    made_of = MadeOf(
        opened.collection.name,
        opened.collection.revision,
        opened.collection.fingerprint,
        judged.judged_set.name,
        judged.judged_set.revision,
        chosen.saved.name if chosen.saved else None,
        chosen.saved.version if chosen.saved else None,
        __version__,
    )
    return Measurement(values, made_of, judged.queries, {ranked.query_id: ranked.matched for ranked in lists})


def _run_lists(workbench: Workbench, opened: OpenCollection, chosen: ChosenRanker, judged: _Judged) -> list[RunList]:
    """The set's ranked lists: the frozen ones where this very run was made before."""
    if chosen.saved is not None:
        with workbench.pool.connection() as connection:
            run_id = find_run(connection, _run_key(opened, chosen, chosen.saved, judged.judged_set))
            if run_id is not None:
                return lists_of(connection, run_id)
    return [_run_list(opened, chosen, query) for query in judged.queries]


def _run_list(opened: OpenCollection, chosen: ChosenRanker, query: SetQuery) -> RunList:
    found = answer(opened, ask(opened, chosen.ranker, Question(query.query)), RUN_DEPTH)
    keys = [opened.key(row) for row in found.rows]
    return RunList(query.query_id, keys, [row.score for row in found.rows], found.records)


def _run_key(opened: OpenCollection, chosen: ChosenRanker, saved: SavedRanker, judged_set: JudgedSet) -> RunKey:
    collection = opened.collection
    return RunKey(
        saved.id,
        judged_set.id,
        collection.revision,
        collection.fingerprint,
        judged_set.revision,
        RUN_DEPTH,
        __version__,
        _ended_rules(chosen.ranker),
    )


def _ended_rules(ranker: Ranker) -> list[int]:
    """The rules that are over today: without them a ranker gives other lists than before."""
    ruling = in_force(ranker.rules, today_here())
    return [i for i, (rule, now) in enumerate(zip(ranker.rules, ruling, strict=True)) if rule.on and not now.on]
