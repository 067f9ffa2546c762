"""Measures a ranker on a judged set: ranked lists for every judged query, then the measures."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pale_harbor import __version__
from pale_harbor.core.measures import Measure, Measured, measured
from pale_harbor.core.query import meant_text, parse_query
from pale_harbor.core.ranking import Ranker, in_force
from pale_harbor.errors import Unavailable
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judged_sets import JudgedSet, SetQuery, grades_of, queries_of, set_named
from pale_harbor.store.rankers import SavedRanker
from pale_harbor.store.runs import RunKey, RunList, find_run, lists_of, notes_of, save_measurements, save_run
from pale_harbor.work.asking import Asked, Question, answer, ask, today_here
from pale_harbor.work.open_space import OpenSpace
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
    # The spaces that were asked, each with the state of its vectors.
    spaces: list[str]


@dataclass(frozen=True, slots=True)
class Measurement:
    """What was measured, and of what. notes: what keeps the figures from meaning what one would think."""

    measured: Measured
    made_of: MadeOf
    queries: list[SetQuery]
    matched: dict[str, int]
    notes: list[str]


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
        return _run_lists(workbench, opened, chosen, judged_in(workbench, opened, set_name), []), chosen

    return workbench.with_collection(collection_name, run)


@dataclass(frozen=True, slots=True)
class Judged:
    """A judged set in one revision."""

    judged_set: JudgedSet
    queries: list[SetQuery]
    grades: dict[str, dict[str, int]]


def judged_in(workbench: Workbench, opened: OpenCollection, set_name: str) -> Judged:
    """A judged set of the collection. Raises NotFound."""
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        judged_set = set_named(connection, opened.collection.id, set_name)
        return Judged(judged_set, queries_of(connection, judged_set.id), grades_of(connection, judged_set.id))


def _measure(
    workbench: Workbench, opened: OpenCollection, choice: RankerChoice, set_name: str, measures: Sequence[Measure]
) -> Measurement:
    chosen = workbench.choose(opened.collection, choice)
    judged = judged_in(workbench, opened, set_name)
    notes: list[str] = []
    lists = _run_lists(workbench, opened, chosen, judged, notes)
    gathered = _gathered(notes)
    values = measured({ranked.query_id: ranked.record_keys for ranked in lists}, judged.grades, measures)
    if chosen.saved is not None:
        with workbench.pool.connection() as connection:
            run_id = save_run(connection, _run_key(opened, chosen, chosen.saved, judged.judged_set), lists, gathered)
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
        spaces_asked(opened, chosen.ranker),
    )
    matched = {ranked.query_id: ranked.matched for ranked in lists}
    return Measurement(values, made_of, judged.queries, matched, gathered)


def spaces_asked(opened: OpenCollection, ranker: Ranker) -> list[str]:
    """The ranker's spaces in their present state, the one of its second stage too."""
    named = {use.space for use in ranker.spaces} | ({ranker.second_stage.space} if ranker.second_stage else set())
    known = opened.spaces() if named else {}
    return [known[name].space.identity for name in sorted(named) if name in known]


def _gathered(notes: list[str]) -> list[str]:
    """Each note once, with how many queries it is about."""
    counts = Counter(notes)
    return [note if count == 1 else f"{note} ({count} queries)" for note, count in counts.items()]


def _run_lists(
    workbench: Workbench, opened: OpenCollection, chosen: ChosenRanker, judged: Judged, notes: list[str]
) -> list[RunList]:
    """The set's ranked lists: the frozen ones where this very run was made before.

    notes: gets what was wrong with single queries. Raises Unavailable where a space could not be asked.
    """
    if chosen.saved is not None:
        with workbench.pool.connection() as connection:
            run_id = find_run(connection, _run_key(opened, chosen, chosen.saved, judged.judged_set))
            if run_id is not None:
                notes += notes_of(connection, run_id)
                return lists_of(connection, run_id)
    spaces = ask_spaces_ahead(opened, chosen.ranker, judged.queries)
    return [_run_list(opened, chosen.ranker, query, spaces, notes) for query in judged.queries]


def ask_spaces_ahead(
    opened: OpenCollection, ranker: Ranker, queries: Sequence[SetQuery]
) -> dict[str, OpenSpace] | None:
    """The spaces that a ranker asks, the vectors of all queries fetched ahead. Raises Unavailable."""
    if not ranker.spaces and ranker.second_stage is None:
        return None
    known = opened.spaces()
    texts = [meant_text(parse_query(query.query, opened.field_names)) for query in queries]
    for use in ranker.spaces:
        if use.space in known:
            known[use.space].ask_ahead(texts)
    return known


def asked_to_measure(
    opened: OpenCollection, ranker: Ranker, query: SetQuery, spaces: Mapping[str, OpenSpace] | None
) -> Asked:
    """A judged query, asked. Raises Unavailable where a space could not be: a measurement is exact or none."""
    asked = ask(opened, ranker, Question(query.query), spaces=spaces)
    if asked.meaning is not None and asked.meaning.failed:
        raise Unavailable(f'"{query.query}" cannot be measured. {" ".join(asked.meaning.notes)}')
    return asked


def _run_list(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    spaces: Mapping[str, OpenSpace] | None,
    notes: list[str],
) -> RunList:
    asked = asked_to_measure(opened, ranker, query, spaces)
    if asked.meaning is not None:
        notes += asked.meaning.notes
    found = answer(opened, asked, RUN_DEPTH)
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
        spaces_asked(opened, chosen.ranker),
    )


def _ended_rules(ranker: Ranker) -> list[int]:
    """The rules that are over today: without them a ranker gives other lists than before."""
    ruling = in_force(ranker.rules, today_here())
    return [i for i, (rule, now) in enumerate(zip(ranker.rules, ruling, strict=True)) if rule.on and not now.on]
