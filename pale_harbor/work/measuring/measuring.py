"""Measures a ranker on a judged set: ranked lists for every judged query, then the measures."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from psycopg import Connection

from pale_harbor import __version__
from pale_harbor.core.measures import (
    USUAL_RULES,
    Band,
    Measure,
    Measured,
    MeasureRules,
    TypedKeys,
    Unjudged,
    band,
    judged_list,
    measure_judged,
    weighted_mean,
    with_ties,
)
from pale_harbor.core.ranking import Ranker, in_force
from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.differences import Reads
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.formats.records.conversion import content_hash
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.judged_sets import JudgedSet, set_named
from pale_harbor.store.measuring.diary import note_look, write_entry
from pale_harbor.store.measuring.runs import RunKey, RunList, find_run, lists_of, notes_of, run_with_id, save_run
from pale_harbor.store.ranking.rankers import SavedRanker, ranker_named
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.expecting import Broken, broken_by_title, broken_of
from pale_harbor.work.measuring.judged import Judged, Part, judged_in, judged_of, whole_or_part
from pale_harbor.work.measuring.lists import RUN_DEPTH, asked_lists, counted_notes, spaces_asked
from pale_harbor.work.measuring.set_sheet import Seen, seen_lists
from pale_harbor.work.measuring.typed_lists import typed_to_measure
from pale_harbor.work.ranking.asking import today_here
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench


@dataclass(frozen=True, slots=True)
class How:
    """How figures are made. weighted: a query counts as often as it was asked; bands: whether they are computed too."""

    rules: MeasureRules = USUAL_RULES
    weighted: bool = False
    part: Part = Part.OPEN
    bands: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """What was measured of one side's lists. unjudged: by measure, the share of unjudged records among those that it
    looked at; bands: of the means, where they were asked for; broken: expectations that do not hold."""

    measured: Measured
    unjudged: dict[str, float]
    bands: dict[str, Band]
    broken: list[Broken]
    matched: dict[str, int]

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, roughly: a value of each query by each measure, and short texts."""
        return 2_000 + len(self.matched) * (200 + 120 * len(self.unjudged)) + 500 * len(self.broken)


@dataclass(frozen=True, slots=True)
class Measurement:
    """What was measured, and of what. notes: what keeps the figures from meaning what one would think."""

    figures: Figures
    made_of: MadeOf
    notes: list[str]

    @property
    def measured(self) -> Measured:
        """Means, and the values of each query."""
        return self.figures.measured


def measure_ranker(
    workbench: Workbench,
    collection_name: str,
    choice: RankerChoice,
    set_name: str,
    measures: Sequence[Measure],
    how: How | None = None,
) -> Measurement:
    """Measures a ranker on a judged set. A kept ranker's run is frozen, and used again.

    Measuring the open queries is a look at them; opening the locked ones is noted in the diary.
    """
    way = how or How()

    def work(opened: OpenCollection) -> Measurement:
        chosen = workbench.choose(opened.collection, choice)
        judged = judged_in(workbench, opened, set_name, way.part)
        if chosen.saved is None:
            seen = seen_lists(opened, [chosen.ranker], judged, measures, way.rules)[0]
            figures = figures_seen(seen, judged, measures, way)
            notes = counted_notes([note for query in judged.queries for note in seen[query.query_id].notes])
        else:
            made = made_lists(workbench, opened, chosen, judged)
            typed = typed_to_measure(opened, chosen.ranker, judged, measures, way.rules)
            figures, notes = figures_of(made.lists, judged, measures, way, typed), made.notes
        with workbench.pool.connection() as connection:
            name = chosen.saved.title if chosen.saved else "a draft"
            looked_at = [Looked.of(name, chosen)]
            note_looking(connection, opened.collection.id, judged, way.part, looked_at, means_said([(name, figures)]))
            named = broken_by_title(figures.broken, titles_of_broken(connection, opened, figures.broken))
        return Measurement(replace(figures, broken=named), made_of(opened, judged, chosen), notes)

    return workbench.with_collection(collection_name, work)


def measure_run(
    workbench: Workbench,
    collection_name: str,
    set_name: str,
    run_id: int,
    measures: Sequence[Measure],
    revision: int | None = None,
    how: How | None = None,
) -> tuple[Figures, int]:
    """Measures a frozen run again, by the judged set as it is or as it was in a revision; and that revision.

    The same run, revision and rules give the same digits every time. It is a look like any other. Raises NotFound.
    """
    way = how or How()
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        if revision is not None and not 0 < revision <= kept.revision:
            raise NotFound(f'"{set_name}" has no revision {revision}. Its newest is {kept.revision}.')
        run = run_with_id(connection, kept.id, run_id)
        if run is None:
            raise NotFound(f'There is no run {run_id} of "{set_name}".')
        judged = judged_of(connection, kept, way.part, revision)
        lists = {ranked.query_id: ranked for ranked in lists_of(connection, run_id)}
        looked = Looked(run.title, None)
        if run.ranker is not None:
            ranker = ranker_named(connection, collection.id, run.ranker, run.version)
            reads = Reads(ranker.chain_versions, ranker.list_versions)
            looked = Looked(run.title, ranker_document(ranker.document), reads)
    figures = figures_of(lists, judged, measures, way)
    with workbench.pool.connection() as connection:
        said = means_said([(run.title, figures)])
        note_looking(connection, collection.id, judged, way.part, [looked], said)
    return figures, revision or kept.revision


def ranker_run(
    workbench: Workbench, collection_name: str, choice: RankerChoice, set_name: str
) -> tuple[list[RunList], ChosenRanker]:
    """The ranked lists of all of a set's queries, in the set's order, and the ranker that gave them."""

    def run(opened: OpenCollection) -> tuple[list[RunList], ChosenRanker]:
        chosen = workbench.choose(opened.collection, choice)
        judged = whole_or_part(workbench, opened, set_name, Part.ALL)
        made = made_lists(workbench, opened, chosen, judged)
        return [made.lists[query.query_id] for query in judged.queries], chosen

    return workbench.with_collection(collection_name, run)


@dataclass(frozen=True, slots=True)
class MadeLists:
    """A ranker's lists by query. notes: what keeps them from meaning what one would think; run_id: of the frozen run
    that they are of, None for a draft's."""

    lists: dict[str, RunList]
    notes: list[str]
    run_id: int | None


def made_lists(workbench: Workbench, opened: OpenCollection, chosen: ChosenRanker, judged: Judged) -> MadeLists:
    """The lists of a set's queries. Of a kept ranker a run of all its queries, frozen, made once.

    Raises Unavailable where a space could not be asked.
    """
    if chosen.saved is None:
        return _with_notes(asked_lists(opened, chosen.ranker, judged.queries), judged, None)
    key = run_key(opened, chosen, chosen.saved, judged.judged_set)
    with workbench.pool.connection() as connection:
        run_id = find_run(connection, key)
        if run_id is not None:
            lists = {one.query_id: one for one in lists_of(connection, run_id)}
            return _with_notes(lists, judged, run_id, notes_of(connection, run_id))
    lists = asked_lists(opened, chosen.ranker, judged.everything)
    with workbench.pool.connection() as connection:
        run_id = save_run(connection, key, list(lists.values()))
    return _with_notes(lists, judged, run_id)


def _with_notes(lists: dict[str, RunList], judged: Judged, run_id: int | None, notes: Sequence[str] = ()) -> MadeLists:
    """With what is said of the queries that are looked at, and of no other."""
    own = [note for query in judged.queries if query.query_id in lists for note in lists[query.query_id].notes]
    return MadeLists(lists, [*notes, *counted_notes(own)], run_id)


def figures_of(
    lists: Mapping[str, RunList],
    judged: Judged,
    measures: Sequence[Measure],
    how: How,
    typed: Mapping[str, TypedKeys] | None = None,
) -> Figures:
    """One side's lists measured by a judged set. typed: the lists on the way to them, for measures of typing.

    Raises NotTyped for such a measure where there are none.
    """
    seen: dict[str, Seen] = {}
    for query in (one.query_id for one in judged.queries):
        ranked = lists.get(query)
        if ranked is not None:
            grades = judged.grades.get(query, {})
            keys = with_ties(ranked.record_keys, ranked.scores, grades, how.rules.ties)
            on_the_way = None if typed is None else typed.get(query)
            seen[query] = Seen(judged_list(keys, grades, on_the_way), ranked.matched, ranked.notes, ranked)
    return figures_seen(seen, judged, measures, how)


def figures_seen(seen: Mapping[str, Seen], judged: Judged, measures: Sequence[Measure], how: How) -> Figures:
    """One side's lists, as they are seen through their grades, measured by a judged set."""
    weights = judged.weights if how.weighted else None
    lists = {query: own.judged for query, own in seen.items()}
    for query in {*judged.grades, *judged.nothing_to_find} - lists.keys():
        lists[query] = judged_list((), judged.grades.get(query, {}))
    wanted = {query: lists[query] for query in sorted({*judged.grades, *judged.nothing_to_find})}
    values = measure_judged(wanted, measures, how.rules, weights)
    own = {query: wanted[query] for query in values.per_query}
    unjudged = {
        one.name: weighted_mean({query: one.unjudged_share(ranked) for query, ranked in own.items()}, weights)
        for one in measures
    }
    bands: dict[str, Band] = {}
    if how.bands and how.rules.unjudged is Unjudged.OFF_TOPIC:
        for one in measures:
            ends = {query: band(one, ranked) for query, ranked in own.items()}
            bands[one.name] = Band(
                weighted_mean({query: end.worst for query, end in ends.items()}, weights),
                weighted_mean({query: end.best for query, end in ends.items()}, weights),
            )
    whole = {query: one.ranked for query, one in seen.items() if one.ranked is not None}
    return Figures(
        measured=values,
        unjudged=unjudged,
        bands=bands,
        broken=broken_of(judged.expectations, whole),
        matched={query: one.matched for query, one in seen.items()},
    )


def titles_of_broken(connection: Connection[Any], opened: OpenCollection, broken: Sequence[Broken]) -> dict[str, str]:
    """What the records of broken expectations are called."""
    keys = [key for one in broken if (key := one.expectation.wanted.record_key) is not None]
    return titles_of(connection, opened.collection, keys) if keys else {}


def made_of(opened: OpenCollection, judged: Judged, chosen: ChosenRanker) -> MadeOf:
    """What a figure is made of, so that it can be made again."""
    return MadeOf(
        collection=opened.collection.name,
        records_revision=opened.collection.revision,
        records_fingerprint=opened.collection.fingerprint,
        judged_set=judged.judged_set.name,
        judged_revision=judged.judged_set.revision,
        ranker=chosen.saved.name if chosen.saved else None,
        ranker_version=chosen.saved.version if chosen.saved else None,
        program_version=__version__,
        spaces=spaces_asked(opened, chosen.ranker),
    )


def note_looking(
    connection: Connection[tuple[object, ...]],
    collection_id: int,
    judged: Judged,
    part: Part,
    looked_at: Sequence["Looked"],
    said: str,
    details: Mapping[str, Any] | None = None,
) -> None:
    """Counts a look at the open queries; writes into the diary that the locked ones were opened, and what they said.

    details: what is kept with the entry beside the rankers' names.
    """
    if part is Part.OPEN:
        for one in looked_at:
            # Nobody turned knobs of one from outside.
            if one.document is not None:
                note_look(connection, judged.judged_set.id, bytes.fromhex(one.fingerprint))
        return
    # Without locked queries there was nothing to open.
    if any(query.locked for query in judged.queries):
        names = [one.name for one in looked_at]
        write_entry(
            connection,
            collection_id,
            "locked look",
            f"The locked queries of {judged.judged_set.name} were opened for {' and '.join(names)}.",
            said,
            {
                "set": judged.judged_set.name,
                "rankers": names,
                "fingerprints": [one.fingerprint for one in looked_at],
                "queries": len(judged.queries),
                **(details or {}),
            },
        )


@dataclass(frozen=True, slots=True)
class Looked:
    """A ranker that was looked at, by a name that two drafts may share. document: None for one from outside."""

    name: str
    document: RankerDocument | None
    reads: Reads = field(default_factory=Reads)

    @classmethod
    def of(cls, name: str, chosen: ChosenRanker | None) -> "Looked":
        """A ranker that is ready for work."""
        return cls(name, None) if chosen is None else cls(name, chosen.document, chosen.reads)

    @property
    def fingerprint(self) -> str:
        """What tells rankers apart, whatever they are called; of one from outside its name alone is known.

        The same document that reads a newer word list or saved chain is another ranker.
        """
        if self.document is None:
            return f"outside/{self.name}"
        versions = {"chains": dict(self.reads.chains), "lists": dict(self.reads.lists)}
        return content_hash("", self.document.whole | {what: read for what, read in versions.items() if read}).hex()


def means_said(measured: Sequence[tuple[str, Figures]]) -> str:
    """The means of some rankers in a sentence."""
    told = [
        f"{name}: {', '.join(f'{measure} {mean:.3f}' for measure, mean in figures.measured.means.items())}"
        for name, figures in measured
    ]
    return "; ".join(told) + "."


def run_key(opened: OpenCollection, chosen: ChosenRanker, saved: SavedRanker, judged_set: JudgedSet) -> RunKey:
    """Everything that a kept ranker's run of a set depends on, as it is now."""
    collection = opened.collection
    return RunKey(
        ranker_id=saved.id,
        set_id=judged_set.id,
        records_revision=collection.revision,
        records_fingerprint=collection.fingerprint,
        queries_revision=judged_set.queries_revision,
        depth=RUN_DEPTH,
        program_version=__version__,
        ended_rules=_ended_rules(chosen.ranker),
        spaces=spaces_asked(opened, chosen.ranker),
    )


def _ended_rules(ranker: Ranker) -> list[int]:
    """The rules that are over today: without them a ranker gives other lists than before."""
    ruling = in_force(ranker.rules, today_here())
    return [i for i, (rule, now) in enumerate(zip(ranker.rules, ruling, strict=True)) if rule.on and not now.on]
