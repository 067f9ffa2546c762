"""Which side is right: the words' list, the spaces' list and the blended one, query by query, where judged."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from pale_harbor.core.blend import BlendHow
from pale_harbor.core.comparing import STILL
from pale_harbor.core.measures import Measure, judged_list, measure_lists
from pale_harbor.core.ranking import Ranker
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import judged_in
from pale_harbor.work.measuring.lists import ask_spaces_ahead, asked_to_measure, counted_notes
from pale_harbor.work.ranking.asking import answer
from pale_harbor.work.ranking.meaning import check_asks_spaces
from pale_harbor.work.workbench import RankerChoice, Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class QuerySides:
    """A judged query's measure by words alone, by meaning alone, and blended. kind: of queries, None for no other;
    unjudged: of each side, the share of unjudged records among those that the measure looks at."""

    query_id: str
    query: str
    tags: tuple[str, ...]
    kind: str | None
    words: float
    meaning: float
    blended: float
    unjudged: tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sides:
    """Means over some queries, and how often each side was right. name: of a kind or a tag, empty for all; unjudged:
    the mean share of unjudged records, for each side."""

    name: str
    queries: int
    words: float
    meaning: float
    blended: float
    unjudged: tuple[float, float, float]
    words_better: int
    meaning_better: int
    blend_best: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SidesFound:
    """measure: its name; queries: those that it is known for; notes: what keeps the figures from meaning what one would
    think."""

    measure: str
    all: Sides
    kinds: list[Sides]
    tags: list[Sides]
    queries: list[QuerySides]
    notes: list[str]


def words_alone(ranker: Ranker) -> Ranker:
    """The ranker without its spaces."""
    return replace(ranker, spaces=(), second_stage=None, kinds=())


def meaning_alone(ranker: Ranker) -> Ranker:
    """The ranker's spaces without its words: fused by rank where there are several."""
    blend = replace(ranker.blend, how=BlendHow.RECIPROCAL_RANK, meaning=1.0)
    return replace(ranker, blend=blend, second_stage=None, kinds=())


def sides(bench: Workbench, collection_name: str, choice: RankerChoice, set_name: str, measure: Measure) -> SidesFound:
    """Measures a ranker's sides on a judged set. Raises NotFound, BadInput, Unavailable."""

    def work(opened: OpenCollection) -> SidesFound:
        ranker = bench.choose(opened.collection, choice).ranker
        check_asks_spaces(ranker)
        judged = judged_in(bench, opened, set_name)
        spaces = ask_spaces_ahead(opened, ranker, judged.queries)
        kinds_of: dict[str, str | None] = {}
        values: list[dict[str, float]] = []
        unjudged: list[dict[str, float]] = []
        notes: list[str] = []
        for one in (words_alone(ranker), meaning_alone(ranker), ranker):
            lists: dict[str, list[str]] = {}
            for query in judged.queries:
                asked = asked_to_measure(opened, one, query, spaces)
                lists[query.query_id] = [opened.key(row) for row in answer(opened, asked, measure.depth or 1_000).rows]
                kinds_of[query.query_id] = None if asked.meaning is None else asked.meaning.kind
                if one is ranker and asked.meaning is not None:
                    notes += asked.meaning.notes
            found = measure_lists(lists, judged.grades, [measure])
            values.append({query: own[measure.name] for query, own in found.per_query.items()})
            unjudged.append(
                {
                    query: judged_list(keys, judged.grades.get(query, {})).unjudged_share(measure.depth)
                    for query, keys in lists.items()
                }
            )
        rows = [
            QuerySides(
                query_id=query.query_id,
                query=query.query,
                tags=tuple(query.tags),
                kind=kinds_of[query.query_id],
                words=values[0][query.query_id],
                meaning=values[1][query.query_id],
                blended=values[2][query.query_id],
                unjudged=(unjudged[0][query.query_id], unjudged[1][query.query_id], unjudged[2][query.query_id]),
            )
            for query in judged.queries
            if all(query.query_id in side for side in values)
        ]
        kinds = list(dict.fromkeys([*(kind.name for kind in ranker.kinds), *(row.kind or "" for row in rows)]))
        tags = sorted({tag for row in rows for tag in row.tags})
        return SidesFound(
            measure=measure.name,
            all=_sum("", rows),
            kinds=_by_kind(rows, kinds) if ranker.kinds else [],
            tags=[_sum(tag, [row for row in rows if tag in row.tags]) for tag in tags],
            queries=rows,
            notes=counted_notes(notes),
        )

    return bench.with_collection(collection_name, work)


def _by_kind(rows: Sequence[QuerySides], kinds: Sequence[str]) -> list[Sides]:
    own = {kind: [row for row in rows if (row.kind or "") == kind] for kind in kinds}
    return [_sum(kind or "any other", some) for kind, some in own.items() if some]


def _sum(name: str, rows: Sequence[QuerySides]) -> Sides:
    count = max(1, len(rows))
    return Sides(
        name=name,
        queries=len(rows),
        words=sum(row.words for row in rows) / count,
        meaning=sum(row.meaning for row in rows) / count,
        blended=sum(row.blended for row in rows) / count,
        unjudged=(
            sum(row.unjudged[0] for row in rows) / count,
            sum(row.unjudged[1] for row in rows) / count,
            sum(row.unjudged[2] for row in rows) / count,
        ),
        words_better=sum(row.words > row.meaning + STILL for row in rows),
        meaning_better=sum(row.meaning > row.words + STILL for row in rows),
        blend_best=sum(row.blended > max(row.words, row.meaning) + STILL for row in rows),
    )
