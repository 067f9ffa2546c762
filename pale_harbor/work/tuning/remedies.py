"""What would help a ranker: its worst queries grouped by what ails them, and changes tried for each group. A job.

Each change is measured on all open queries, so that what it would cost elsewhere stands beside what it would gain.
"""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pydantic import TypeAdapter, ValidationError

from pale_harbor.core.comparing.comparison import STILL, comparison
from pale_harbor.core.measures import weighted_mean
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text.errors import ChainError
from pale_harbor.core.tuning.ailments import Ailment, Ails
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.judging.judged_sets import JudgedSet
from pale_harbor.store.records.records import Record, records_with_keys
from pale_harbor.store.running.jobs import Job
from pale_harbor.store.tuning.trials import note_details
from pale_harbor.work.chains.newest_lists import NewList
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.made_up import is_made_up
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.ranking.changes import Change, changes_to_try, missing_words
from pale_harbor.work.ranking.offered_synonyms import SynonymOffered
from pale_harbor.work.ranking.why_not import MOST_INDEXED
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.tuning.ailing import DEPTH, AilingQuery, ailing_queries
from pale_harbor.work.tuning.found_stop_words import StopWordOffered, found_stop_words
from pale_harbor.work.tuning.found_synonyms import found_synonyms
from pale_harbor.work.tuning.outranked_changes import changes_for_outranked
from pale_harbor.work.tuning.set_jobs import (
    ByMeasure,
    begin_on_set,
    done_on_sets,
    end_on_set,
    plan_choice,
    told_on_sets,
)
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# For each group so many changes of the ranker are tried, and in all so many synonyms.
MOST_CHANGES: Final = 12
MOST_SYNONYMS: Final = 16
MOST_STOP_WORDS: Final = 6
# Of a group so many queries are asked for changes that would bring their records in.
_ASKED: Final = 8
_MOVED: Final = 5
_BY_CHANGES: Final = (Ails.SHUT_OUT, Ails.UNKNOWN, Ails.LACKS, Ails.TOO_FEW, Ails.FAR)
_BY_STOP_WORDS: Final = (Ails.UNKNOWN, Ails.TOO_FEW, Ails.OUTRANKED)
_BY_SYNONYMS: Final = (Ails.UNKNOWN, Ails.LACKS, Ails.TOO_FEW)


@dataclass(frozen=True, slots=True)
class MissedTold:
    """A good record that a query misses. rank: None where it is in no list; lacks: words of the query."""

    key: str
    title: str
    grade: int
    rank: int | None
    lacks: list[str]


@dataclass(frozen=True, slots=True)
class AilingTold:
    """A query of a group: its value by the measure, its best missed record, and how many there are (of those looked
    into)."""

    query_id: str
    query: str
    value: float
    best: MissedTold
    missed: int


@dataclass(frozen=True, slots=True)
class MovedValue:
    """A query that a change moves, with its value before and after it."""

    query_id: str
    query: str
    before: float
    after: float


@dataclass(frozen=True, slots=True)
class TriedChange:
    """A change that was tried on all open queries.

    gain: of the mean, between low and high (95 %); gained, lost: queries; gained_here, lost_here: of the group. p: how
    often chance would show such a difference. document: the changed ranker; new_list: a version of a word list that is
    to be kept first, None where it reads none. moved: the queries that gain the most by it, then those that lose.
    """

    words: str
    gain: float
    low: float
    high: float
    gained: int
    lost: int
    gained_here: int
    lost_here: int
    p: float
    document: dict[str, Any]
    new_list: NewList | None
    moved: list[MovedValue]


@dataclass(frozen=True, slots=True)
class RemedyGroup:
    """Queries that the same ails. part: by which good records are outranked; tried: what helps the mean most first;
    untried: changes that would take an index of their own, which takes long in a collection of this size."""

    ails: Ails
    part: str
    queries: list[AilingTold]
    tried: list[TriedChange]
    untried: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RemediesTold:
    """What would help, as far as it is told: the largest groups first. is_current: whether records and judgments are
    those that it is of; well_served: queries that nothing ails; depth: among so many a good record is to be."""

    id: int
    judged_set: str
    is_current: bool
    state: str
    done: int
    in_all: int
    plan: RankerPlan
    mean: float | None
    depth: int
    well_served: int
    groups: list[RemedyGroup]
    problem: str | None
    begun_at: str


@dataclass(frozen=True, slots=True)
class _Kept:
    mean: float
    well_served: int
    groups: list[RemedyGroup]


_FORM: Final[TypeAdapter[_Kept]] = TypeAdapter(_Kept)


def begin_remedies(bench: Workbench, collection_name: str, set_name: str, plan: RankerPlan, *, by_server: bool) -> int:
    """Notes that remedies are to be looked for; returns the job's id. Raises NotFound, BadInput."""
    return begin_on_set(bench, "remedies", collection_name, set_name, plan, in_all=lambda _: 0, by_server=by_server)


def remedies_now(bench: Workbench, collection_name: str, set_name: str, plan: RankerPlan) -> RemediesTold:
    """Looks for remedies here and now. Raises NotFound, BadInput, Unavailable."""
    job_id = begin_remedies(bench, collection_name, set_name, plan, by_server=False)
    do_job(bench.pool, job_id, remedies_done(bench))
    return next(one for one in remedies_told(bench, collection_name) if one.id == job_id)


def remedies_told(bench: Workbench, collection_name: str) -> list[RemediesTold]:
    """What was found of a collection's rankers, the newest first. Raises NotFound."""
    return told_on_sets(bench, "remedies", collection_name, _told)


def end_remedies(bench: Workbench, collection_name: str, number: int) -> None:
    """Ends the looking; what was found so far stays. Raises NotFound."""
    end_on_set(bench, "remedies", collection_name, number)


def remedies_done(bench: Workbench) -> Doing:
    """How remedies are looked for. The doing raises Cancelled where nobody wants it any more."""

    def make(opened: OpenCollection, judged: Judged, plan: RankerPlan, job_id: int, progress: Progress) -> None:
        _make(bench, opened, judged, plan, job_id, progress)

    return done_on_sets(bench, make)


def _told(job: Job, judged_set: JudgedSet, is_current: bool) -> RemediesTold:
    kept, problem = None, job.problem
    try:
        kept = _FORM.validate_python(job.details["remedies"]) if "remedies" in job.details else None
    except ValidationError:
        problem = "It is of another version of the program, which this one cannot read."
    return RemediesTold(
        id=job.id,
        judged_set=judged_set.name,
        is_current=is_current,
        state=job.state,
        done=job.done,
        in_all=job.in_all,
        plan=RankerPlan.model_validate(job.details["plan"]),
        mean=None if kept is None else kept.mean,
        depth=DEPTH,
        well_served=0 if kept is None else kept.well_served,
        groups=[] if kept is None else kept.groups,
        problem=problem,
        begun_at=job.created_at.isoformat(),
    )


@dataclass(frozen=True, slots=True, eq=False)
class _ToTry:
    """A change to be tried for a group. key: the same for changes that are the same, of whichever group."""

    words: str
    document: dict[str, Any]
    key: str
    ranker: Ranker
    new_list: NewList | None = None


def _make(
    bench: Workbench, opened: OpenCollection, judged: Judged, plan: RankerPlan, job_id: int, progress: Progress
) -> None:
    choice = plan_choice(plan)
    chosen = bench.choose(opened.collection, choice)
    one = ByMeasure(opened, judged, plan)
    before = one.values(chosen.ranker)
    is_complete = is_made_up(bench, judged.judged_set.id)
    ailing = ailing_queries(opened, chosen.ranker, judged, before, is_complete=is_complete)
    records = _records(bench, opened, ailing)
    looking = _Looking(bench, opened, choice, chosen, records)
    by_ailment: dict[Ailment, list[AilingQuery]] = {}
    for query in ailing:
        by_ailment.setdefault(query.ailment, []).append(query)
    in_order = sorted(by_ailment.items(), key=lambda pair: (-len(pair[1]), pair[0].ails, pair[0].part))
    with bench.pool.connection() as connection:
        titles = titles_of(connection, opened.collection, records)
    groups = [
        RemedyGroup(ailment.ails, ailment.part, [_told_query(query, titles) for query in own], [], 0)
        for ailment, own in in_order
    ]
    mean, well_served = weighted_mean(before, one.weights), len(before) - len(ailing)
    to_try = [looking.for_group(ailment, own) for ailment, own in in_order]
    progress.begin("what would help", sum(len(own) for own, _ in to_try))
    texts = {query.query_id: query.query for query in judged.queries}
    known: dict[str, Mapping[str, float]] = {}
    for number, (group, (own, untried)) in enumerate(zip(groups, to_try, strict=True)):
        here = {query.query_id for query in group.queries}
        tried: list[TriedChange] = []
        for change in own:
            if change.key not in known:
                known[change.key] = _values_with(opened, one, change)
            tried.append(_compared(change, before, known[change.key], here, texts, one.weights))
            groups[number] = RemedyGroup(
                group.ails, group.part, group.queries, sorted(tried, key=lambda t: (-t.gain, t.words)), untried
            )
            _keep(bench, job_id, _Kept(mean, well_served, groups))
            progress.more(1)
    _keep(bench, job_id, _Kept(mean, well_served, groups))
    progress.note()


def _keep(bench: Workbench, job_id: int, kept: _Kept) -> None:
    with bench.pool.connection() as connection:
        note_details(connection, job_id, {"remedies": _FORM.dump_python(kept, mode="json")})


def _records(bench: Workbench, opened: OpenCollection, ailing: Sequence[AilingQuery]) -> dict[str, Record]:
    keys = sorted({missed.key for query in ailing for missed in query.missed})
    with bench.pool.connection() as connection:
        return records_with_keys(connection, opened.collection.id, keys)


def _told_query(query: AilingQuery, titles: Mapping[str, str]) -> AilingTold:
    best = query.missed[0]
    return AilingTold(
        query.query.query_id,
        query.query.query,
        query.value,
        MissedTold(best.key, titles.get(best.key, best.key), best.grade, best.rank, best.lacked),
        len(query.missed),
    )


def _values_with(opened: OpenCollection, one: ByMeasure, change: _ToTry) -> Mapping[str, float]:
    """The values of all queries with a change; what is built for it is let go again."""
    built_before = opened.readings_on_disk()
    try:
        return one.values(change.ranker)
    finally:
        opened.let_go_of_readings(change.ranker, built_before)


def _compared(
    change: _ToTry,
    before: Mapping[str, float],
    after: Mapping[str, float],
    here: set[str],
    texts: Mapping[str, str],
    weights: Mapping[str, float] | None,
) -> TriedChange:
    found = comparison(before, after, weights)
    deltas = {query: after[query] - before[query] for query in before}
    # As many losses as gains, lest a few great gains hide what they cost.
    in_order = sorted((query for query in deltas if abs(deltas[query]) >= STILL), key=lambda one: (-deltas[one], one))
    gains = [query for query in in_order if deltas[query] > 0][:_MOVED]
    losses = [query for query in in_order if deltas[query] < 0][-_MOVED:]
    return TriedChange(
        words=change.words,
        gain=found.gain,
        low=found.interval.low,
        high=found.interval.high,
        gained=found.gained,
        lost=found.lost,
        gained_here=sum(deltas.get(query, 0.0) >= STILL for query in here),
        lost_here=sum(deltas.get(query, 0.0) <= -STILL for query in here),
        p=found.randomisation,
        document=change.document,
        new_list=change.new_list,
        moved=[MovedValue(one, texts.get(one, one), before[one], after[one]) for one in (*gains, *losses)],
    )


@dataclass(frozen=True, slots=True)
class _Looking:
    """Looks for changes that may help a group."""

    bench: Workbench
    opened: OpenCollection
    choice: RankerChoice
    chosen: ChosenRanker
    records: dict[str, Record]

    def for_group(self, ailment: Ailment, queries: Sequence[AilingQuery]) -> tuple[list[_ToTry], int]:
        """What is tried for a group, and how many changes are not, since they take an index of their own."""
        counted: dict[str, tuple[set[str], str, dict[str, Any], bool]] = {}
        for query in queries[:_ASKED]:
            for words, document, needs_index in self._changes(ailment, query):
                known = counted.setdefault(_key(document), (set(), words, document, needs_index))
                known[0].add(query.query.query_id)
        # Changes that several queries ask for come first, and else as they were thought of.
        wanted = sorted(counted.values(), key=lambda one: -len(one[0]))
        untried = 0
        found: list[_ToTry] = []
        for _, words, document, needs_index in wanted:
            if needs_index and self.opened.record_count > MOST_INDEXED:
                untried += 1
            elif len(found) < MOST_CHANGES and (own := self._to_try(words, document)) is not None:
                found.append(own)
        if ailment.ails in _BY_SYNONYMS:
            found += self._synonyms(queries)
        if ailment.ails in _BY_STOP_WORDS:
            found += self._stop_words(queries)
        return found, untried

    def _changes(self, ailment: Ailment, query: AilingQuery) -> Iterator[Change]:
        if ailment.ails is Ails.OUTRANKED:
            yield from changes_for_outranked(self.chosen, ailment.part)
        if ailment.ails not in _BY_CHANGES:
            return
        missed = next((one for one in query.missed if one.ailment == ailment), None)
        record = None if missed is None else self.records.get(missed.key)
        if missed is None or record is None:
            return
        words = missing_words(self.chosen.ranker, missed.why, record)
        whole = self.chosen.document.whole
        for change in changes_to_try(self.opened, self.chosen, missed.why, record, words):
            # Words that other records hold are spelled as they are meant.
            if ailment.ails is Ails.UNKNOWN or change[1]["spelling"] == whole["spelling"]:
                yield change
        if whole["feedback"] is None and ailment.ails in (Ails.LACKS, Ails.TOO_FEW):
            yield "words of the first records fed back", {**whole, "feedback": {}}, False

    def _to_try(self, words: str, document: dict[str, Any]) -> _ToTry | None:
        try:
            (ranker,) = self.bench.rankers_like(self.opened.collection, self.choice, [ranker_document(document)])
        except (BadInput, NotFound, ChainError):
            return None
        return _ToTry(words, document, _key(document), ranker)

    def _synonyms(self, queries: Sequence[AilingQuery]) -> Iterator[_ToTry]:
        for one in found_synonyms(
            self.bench, self.opened, self.choice, self.chosen, queries, self.records, MOST_SYNONYMS
        ):
            if (own := self._with_list(one.offered)) is not None:
                yield own

    def _stop_words(self, queries: Sequence[AilingQuery]) -> Iterator[_ToTry]:
        for one in found_stop_words(self.bench, self.opened, self.choice, self.chosen, queries, MOST_STOP_WORDS):
            if (own := self._with_list(one)) is not None:
                yield own

    def _with_list(self, offered: SynonymOffered | StopWordOffered) -> _ToTry | None:
        """What a list with one entry more would do; None where there is no such ranker."""
        try:
            changed = ranker_document(offered.document)
            draft = RankerChoice(self.choice.name, self.choice.version, changed)
            ranker = self.bench.ranker_with_lists(self.opened.collection, draft, offered.lists)
        except (BadInput, NotFound, ChainError):
            # A chain that has as many stages as it may, say.
            return None
        return _ToTry(offered.words, offered.document, offered.words, ranker, offered.new_list)


def _key(document: dict[str, Any]) -> str:
    return json.dumps(document, sort_keys=True)
