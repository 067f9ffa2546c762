"""Measures a ranker on a judged set: ranked lists for every judged query, then the measures."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

from psycopg import Connection

from pale_harbor import __version__
from pale_harbor.core.measures import (
    USUAL_RULES,
    Band,
    Measure,
    Measured,
    MeasureRules,
    Unjudged,
    band,
    judged_list,
    measure_lists,
    weighted_mean,
    with_ties,
)
from pale_harbor.core.query import meant_text, parse_query
from pale_harbor.core.ranking import Ranker, in_force
from pale_harbor.errors import NotFound, Unavailable
from pale_harbor.formats.ranker.differences import Reads
from pale_harbor.formats.ranker.document import FilterDocument, RankerDocument, ranker_document
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.formats.records.conversion import content_hash
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.expectations import KeptExpectation, expectations_of
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery, grades_of, queries_of, set_named
from pale_harbor.store.measuring.diary import note_look, write_entry
from pale_harbor.store.measuring.runs import RunKey, RunList, find_run, lists_of, notes_of, run_with_id, save_run
from pale_harbor.store.ranking.rankers import SavedRanker, ranker_named
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.expecting import Broken, broken_by_title, broken_of
from pale_harbor.work.ranking.asking import Asked, Question, answer, ask, today_here
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.spaces.open_space import OpenSpace
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# How far down a run's lists go.
RUN_DEPTH = 1_000


class Part(StrEnum):
    """Which queries of a set: those for everyday looking, those that are locked away, or all."""

    OPEN = "open"
    LOCKED = "locked"
    ALL = "all"


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
        made = made_lists(workbench, opened, chosen, judged)
        figures = figures_of(made.lists, judged, measures, way)
        with workbench.pool.connection() as connection:
            name = chosen.saved.title if chosen.saved else "a draft"
            looked_at = [Looked.of(name, chosen)]
            note_looking(connection, opened.collection.id, judged, way.part, looked_at, means_said([(name, figures)]))
            named = broken_by_title(figures.broken, titles_of_broken(connection, opened, figures.broken))
        return Measurement(replace(figures, broken=named), made_of(opened, judged, chosen), made.notes)

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
        judged = _judged_of(connection, kept, way.part, revision)
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
        judged = judged_in(workbench, opened, set_name, Part.ALL)
        made = made_lists(workbench, opened, chosen, judged)
        return [made.lists[query.query_id] for query in judged.queries], chosen

    return workbench.with_collection(collection_name, run)


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """A judged set in a revision. everything: all its queries; queries, grades, expectations: of the part asked for."""

    judged_set: JudgedSet
    everything: list[SetQuery]
    queries: list[SetQuery]
    grades: dict[str, dict[str, int]]
    expectations: list[KeptExpectation]

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, roughly: texts are short."""
        return 600 * len(self.everything) + 120 * sum(map(len, self.grades.values()))

    @property
    def nothing_to_find(self) -> list[str]:
        """Queries that nothing answers."""
        return [query.query_id for query in self.queries if query.nothing_to_find]

    @property
    def weights(self) -> dict[str, float]:
        """How often each query was asked; once where nobody knows."""
        return {query.query_id: float(1 if query.asked is None else query.asked) for query in self.queries}


def judged_in(workbench: Workbench, opened: OpenCollection, set_name: str, part: Part = Part.OPEN) -> Judged:
    """A judged set of the collection. Raises NotFound."""
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        kept = set_named(connection, opened.collection.id, set_name)
        # The same revision has the same queries, grades and expectations; how they are settled may have changed.
        known = workbench.memory.judged.get_or_make(
            (kept.id, kept.revision, part), lambda: _judged_of(connection, kept, part, None)
        )
        return replace(known, judged_set=kept)


def _judged_of(connection: Connection[tuple[object, ...]], kept: JudgedSet, part: Part, revision: int | None) -> Judged:
    everything = queries_of(connection, kept.id, revision)
    queries = [one for one in everything if part is Part.ALL or one.locked == (part is Part.LOCKED)]
    ids = {one.query_id for one in queries}
    grades = grades_of(connection, kept.id, revision)
    return Judged(
        judged_set=kept,
        everything=everything,
        queries=queries,
        grades={query: own for query, own in grades.items() if query in ids},
        expectations=[one for one in expectations_of(connection, kept.id, revision) if one.query_id in ids],
    )


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
        return _with_notes(_asked_lists(opened, chosen.ranker, judged.queries), judged, None)
    key = _run_key(opened, chosen, chosen.saved, judged.judged_set)
    with workbench.pool.connection() as connection:
        run_id = find_run(connection, key)
        if run_id is not None:
            lists = {one.query_id: one for one in lists_of(connection, run_id)}
            return _with_notes(lists, judged, run_id, notes_of(connection, run_id))
    lists = _asked_lists(opened, chosen.ranker, judged.everything)
    with workbench.pool.connection() as connection:
        run_id = save_run(connection, key, list(lists.values()))
    return _with_notes(lists, judged, run_id)


def _with_notes(lists: dict[str, RunList], judged: Judged, run_id: int | None, notes: Sequence[str] = ()) -> MadeLists:
    """With what is said of the queries that are looked at, and of no other."""
    own = [note for query in judged.queries if query.query_id in lists for note in lists[query.query_id].notes]
    return MadeLists(lists, [*notes, *counted_notes(own)], run_id)


def figures_of(lists: Mapping[str, RunList], judged: Judged, measures: Sequence[Measure], how: How) -> Figures:
    """One side's lists measured by a judged set."""
    ids = {query.query_id for query in judged.queries}
    ordered = {
        query: with_ties(ranked.record_keys, ranked.scores, judged.grades.get(query, {}), how.rules.ties)
        for query, ranked in lists.items()
        if query in ids
    }
    weights = judged.weights if how.weighted else None
    values = measure_lists(ordered, judged.grades, measures, how.rules, judged.nothing_to_find, weights)
    seen = {query: judged_list(ordered.get(query, ()), judged.grades.get(query, {})) for query in values.per_query}
    unjudged = {
        one.name: weighted_mean({query: own.unjudged_share(one.depth) for query, own in seen.items()}, weights)
        for one in measures
    }
    bands: dict[str, Band] = {}
    if how.bands and how.rules.unjudged is Unjudged.OFF_TOPIC:
        for one in measures:
            ends = {query: band(one, own) for query, own in seen.items()}
            bands[one.name] = Band(
                weighted_mean({query: end.worst for query, end in ends.items()}, weights),
                weighted_mean({query: end.best for query, end in ends.items()}, weights),
            )
    matched = {query: ranked.matched for query, ranked in lists.items() if query in ids}
    return Figures(
        measured=values, unjudged=unjudged, bands=bands, broken=broken_of(judged.expectations, lists), matched=matched
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


def spaces_asked(opened: OpenCollection, ranker: Ranker) -> list[str]:
    """The ranker's spaces in their present state, the one of its second stage too."""
    named = {use.space for use in ranker.spaces} | ({ranker.second_stage.space} if ranker.second_stage else set())
    known = opened.spaces() if named else {}
    return [known[name].space.identity for name in sorted(named) if name in known]


def counted_notes(notes: list[str]) -> list[str]:
    """Each note once, with how many queries it is about."""
    counts = Counter(notes)
    return [note if count == 1 else f"{note} ({count} queries)" for note, count in counts.items()]


def _asked_lists(opened: OpenCollection, ranker: Ranker, queries: Sequence[SetQuery]) -> dict[str, RunList]:
    spaces = ask_spaces_ahead(opened, ranker, queries)
    return {query.query_id: _run_list(opened, ranker, query, spaces) for query in queries}


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
    filters = tuple(filter_of(FilterDocument(one)) for one in query.filters)
    asked = ask(opened, ranker, Question(query.query, filters, query.language), spaces=spaces)
    if asked.meaning is not None and asked.meaning.failed:
        raise Unavailable(f'"{query.query}" cannot be measured. {" ".join(asked.meaning.notes)}')
    return asked


def _run_list(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    spaces: Mapping[str, OpenSpace] | None,
) -> RunList:
    asked = asked_to_measure(opened, ranker, query, spaces)
    notes = [] if asked.meaning is None else list(asked.meaning.notes)
    for name in sorted({one.field for one in asked.question.filters} - set(opened.field_names)):
        notes.append(f'A judged query is filtered by a field that there is not, so that nothing is found: "{name}".')
    found = answer(opened, asked, RUN_DEPTH)
    keys = opened.keys_of(found.rows)
    return RunList(query.query_id, keys, [row.score for row in found.rows], found.records, notes)


def _run_key(opened: OpenCollection, chosen: ChosenRanker, saved: SavedRanker, judged_set: JudgedSet) -> RunKey:
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
