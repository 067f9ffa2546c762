"""What can be compared: a ranker of ours, kept or draft, or one from outside; and the lists that each gives."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from pale_harbor.core.measures import Measure, TypedKeys
from pale_harbor.errors import Unavailable
from pale_harbor.formats.ranker.differences import Reads
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.store.measuring.outside_rankers import outside_named
from pale_harbor.store.measuring.runs import RunList, latest_outside_run, lists_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, Part, whole_or_part
from pale_harbor.work.measuring.measuring import Figures, How, figures_of, made_lists
from pale_harbor.work.measuring.typed_lists import typed_to_measure
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench


@dataclass(frozen=True, slots=True)
class RankerSide:
    """One side of a comparison. outside: the name of a ranker that is not ours; else `choice` says which of ours."""

    choice: RankerChoice = field(default_factory=RankerChoice)
    outside: str | None = None

    @property
    def name(self) -> str:
        """How people call it: first:2, a draft on first:2, or the outside ranker's name."""
        if self.outside is not None:
            return self.outside
        kept = self.choice.name or "the default ranker"
        if self.choice.version is not None:
            kept = f"{kept}:{self.choice.version}"
        return kept if self.choice.document is None else f"draft on {kept}"


@dataclass(frozen=True, slots=True)
class SideLists:
    """A side's lists of a set's queries. name: as the side turned out, with its version; chosen: None for one from
    outside; run_id: of the frozen run that they are of, None for a draft's."""

    name: str
    lists: Mapping[str, RunList]
    chosen: ChosenRanker | None
    notes: list[str]
    run_id: int | None

    @property
    def keys(self) -> dict[str, list[str]]:
        """Record keys by query, best first."""
        return {query: ranked.record_keys for query, ranked in self.lists.items()}

    @property
    def document(self) -> RankerDocument | None:
        """The ranker's document, None for one from outside."""
        return None if self.chosen is None else self.chosen.document

    @property
    def reads(self) -> Reads | None:
        """In which versions it reads saved chains and word lists, None for one from outside."""
        return None if self.chosen is None else self.chosen.reads

    def figures(self, opened: OpenCollection, judged: Judged, measures: Sequence[Measure], how: How) -> Figures:
        """Its figures by some measures. judged: the part that `how` asks for, as it is now.

        Those of a run stand as long as the set does: only what a draft gives is measured at every look. Raises
        NotTyped for a measure of typing where it is not one of ours.
        """

        def make() -> Figures:
            typed = self.typed(opened, judged, measures, how)
            return figures_of(self.lists, judged, measures, how, typed)

        if self.run_id is None:
            return make()
        kept = judged.judged_set
        names = tuple(one.name for one in measures)
        return opened.memory.figures.get_or_make((self.run_id, kept.id, kept.revision, how, names), make)

    def typed(
        self, opened: OpenCollection, judged: Judged, measures: Sequence[Measure], how: How
    ) -> Mapping[str, TypedKeys]:
        """The lists on the way to the queries, where a measure looks at them and it is one of ours."""
        return {} if self.chosen is None else typed_to_measure(opened, self.chosen.ranker, judged, measures, how.rules)


def lists_of_side(
    bench: Workbench, opened: OpenCollection, side: RankerSide, set_name: str, judged: Judged | None = None
) -> SideLists:
    """The lists of one side; of all queries where no judged part is given. Raises NotFound, Unavailable."""
    wanted = judged or whole_or_part(bench, opened, set_name, Part.ALL)
    if side.outside is None:
        chosen = bench.choose(opened.collection, side.choice)
        made = made_lists(bench, opened, chosen, wanted)
        name = chosen.saved.title if chosen.saved else side.name
        return SideLists(name, made.lists, chosen, made.notes, made.run_id)
    with bench.pool.connection() as connection:
        outside = outside_named(connection, opened.collection.id, side.outside)
        run_id = latest_outside_run(connection, outside.id, wanted.judged_set.id)
        if run_id is None:
            raise Unavailable(
                f'"{side.outside}" has no lists for {set_name} yet. Ask it, or bring its run file, first.'
            )
        lists = {ranked.query_id: ranked for ranked in lists_of(connection, run_id)}
    missing = [query.query_id for query in wanted.queries if query.query_id not in lists]
    notes = [f"{side.outside} has no list for {len(missing)} queries: they count as empty lists."] if missing else []
    return SideLists(side.outside, lists, None, notes, run_id)
