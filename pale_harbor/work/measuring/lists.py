"""Ranked lists of judged queries: searched for as a visitor would, but exact or not at all."""

from collections import Counter
from collections.abc import Mapping, Sequence

from pale_harbor.core.measures import Measure, MeasureRules, Ties, Unjudged
from pale_harbor.core.query import meant_text, parse_query
from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import Unavailable
from pale_harbor.formats.ranker.document import FilterDocument
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.store.measuring.runs import RunList
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Asked, Question
from pale_harbor.work.ranking.asking import answer, ask
from pale_harbor.work.spaces.open_space import OpenSpace

# How far down a run's lists go.
RUN_DEPTH = 1_000


def asked_lists(opened: OpenCollection, ranker: Ranker, queries: Sequence[SetQuery]) -> dict[str, RunList]:
    """A ranker's lists of some queries. Raises Unavailable where a space could not be asked."""
    spaces = ask_spaces_ahead(opened, ranker, queries)
    return {query.query_id: run_list(opened, ranker, query, spaces) for query in queries}


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


def depth_of(measures: Sequence[Measure], rules: MeasureRules) -> int:
    """How far down a list these measures look."""
    depths = [one.depth for one in measures]
    whole = None in depths or rules.unjudged is Unjudged.LEFT_OUT or rules.ties is not Ties.BY_KEY
    return RUN_DEPTH if whole else min(RUN_DEPTH, max((depth for depth in depths if depth is not None), default=1))


def asked_to_measure(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    spaces: Mapping[str, OpenSpace] | None,
    *,
    is_typed: bool = False,
) -> Asked:
    """A judged query, asked; is_typed: as one that is being typed.

    Raises Unavailable where a space could not be: a measurement is exact or none.
    """
    filters = tuple(filter_of(FilterDocument(one)) for one in query.filters)
    asked = ask(opened, ranker, Question(query.query, filters, query.language, is_typed=is_typed), spaces=spaces)
    if asked.meaning is not None and asked.meaning.failed:
        raise Unavailable(f'"{query.query}" cannot be measured. {" ".join(asked.meaning.notes)}')
    return asked


def run_list(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    spaces: Mapping[str, OpenSpace] | None,
) -> RunList:
    """A ranker's list of a judged query. Raises Unavailable where a space could not be asked."""
    asked = asked_to_measure(opened, ranker, query, spaces)
    notes = [*([] if asked.meaning is None else asked.meaning.notes), *missing_fields_said(opened, asked)]
    found = answer(opened, asked, RUN_DEPTH)
    keys = opened.keys_of(found.rows)
    return RunList(query.query_id, keys, [row.score for row in found.rows], found.records, notes)


def missing_fields_said(opened: OpenCollection, asked: Asked) -> list[str]:
    """Says which fields a judged query is filtered by that there are not."""
    missing = sorted({one.field for one in asked.question.filters} - set(opened.field_names))
    said = "A judged query is filtered by a field that there is not, so that nothing is found"
    return [f'{said}: "{name}".' for name in missing]


def spaces_asked(opened: OpenCollection, ranker: Ranker) -> list[str]:
    """The ranker's spaces in their present state, the one of its second stage too."""
    named = {use.space for use in ranker.spaces} | ({ranker.second_stage.space} if ranker.second_stage else set())
    known = opened.spaces() if named else {}
    return [known[name].space.identity for name in sorted(named) if name in known]


def counted_notes(notes: list[str]) -> list[str]:
    """Each note once, with how many queries it is about."""
    counts = Counter(notes)
    return [note if count == 1 else f"{note} ({count} queries)" for note, count in counts.items()]
