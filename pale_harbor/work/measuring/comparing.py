"""Rankers compared on a judged set: several by their measures, two of them head to head."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Final

import numpy as np

from pale_harbor.core.comparing import (
    ALPHA,
    Comparison,
    Interval,
    Open,
    Verdict,
    bootstrap_interval,
    comparison,
    deciding_records,
    holm,
    tried_in,
    verdict,
)
from pale_harbor.core.measures import Measure
from pale_harbor.formats.ranker.differences import Difference, differences
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.store.judging.judgments import stale_judgments
from pale_harbor.store.measuring.diary import looks_at, openings_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.compared import RankerSide, SideLists, lists_of_side
from pale_harbor.work.measuring.judged import Judged, Part, judged_in
from pale_harbor.work.measuring.measuring import Figures, How, Looked, means_said, note_looking
from pale_harbor.work.measuring.verdicts import (
    figures_kept,
    headline,
    last_opening,
    opened_for,
    reasons,
    subject_of,
    tries_until,
)
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import Workbench

# A slice of fewer queries, or whose queries could only tell differences larger than this, is too small to say much.
FEW: Final = 10
TELLING: Final = 0.1
MOST_OPEN: Final = 200
SHOWN_IN_EXAMPLES: Final = 3
_PARTS: Final = {Part.OPEN: "open", Part.LOCKED: "open", Part.ALL: "judged"}


@dataclass(frozen=True, slots=True, kw_only=True)
class RankerRow:
    """One ranker's figures. intervals: of the means; against_first: by measure the comparison with the first ranker,
    its p-value by randomisation, and that corrected for how many are compared; empty for the first itself."""

    name: str
    figures: Figures
    intervals: dict[str, Interval]
    against_first: dict[str, tuple[float, float, float]]
    notes: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Overview:
    """locked: how many queries are locked away; looks: how many rankers were looked at on the open ones."""

    rows: list[RankerRow]
    queries: int
    locked: int
    looks: int
    judged_revision: int


def overview(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    sides: Sequence[RankerSide],
    measures: Sequence[Measure],
    how: How,
) -> Overview:
    """Rankers by measures. The first one is what the others are compared with."""

    def work(opened: OpenCollection) -> Overview:
        judged = judged_in(bench, opened, set_name, how.part)
        made = [lists_of_side(bench, opened, side, set_name, judged) for side in sides]
        figures = [one.figures(opened, judged, measures, how) for one in made]
        weights = judged.weights if how.weighted else None
        gains: list[dict[str, tuple[float, float, float]]] = [{} for _ in made]
        for measure in measures:
            values = [_values(own, measure) for own in figures]
            pairs = [comparison(values[0], other, weights) for other in values[1:]]
            corrected = holm([pair.randomisation for pair in pairs])
            for i, (pair, p_value) in enumerate(zip(pairs, corrected, strict=True), start=1):
                gains[i][measure.name] = (pair.gain, pair.randomisation, p_value)
        rows = [
            RankerRow(
                name=one.name,
                figures=own,
                intervals={measure.name: _interval(own, measure, judged, how) for measure in measures},
                against_first=against,
                notes=one.notes,
            )
            for one, own, against in zip(made, figures, gains, strict=True)
        ]
        said = means_said([(one.name, own) for one, own in zip(made, figures, strict=True)])
        looks = _note_look(bench, opened, judged, how.part, made, said)
        locked = sum(query.locked for query in judged.everything)
        return Overview(
            rows=rows,
            queries=len(figures[0].measured.per_query),
            locked=locked,
            looks=looks,
            judged_revision=judged.judged_set.revision,
        )

    return bench.with_collection(collection_name, work)


@dataclass(frozen=True, slots=True, kw_only=True)
class QueryRow:
    """A judged query in both rankers. unjudged: how many unjudged records of both lists could move its gain."""

    query_id: str
    query: str
    tags: list[str]
    first: float
    second: float
    unjudged: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Slice:
    """The queries with a tag. corrected: the randomisation test's p-value corrected for there being several tags;
    says_little: their difference could hardly be told from luck; unjudged: records of both lists that could move
    their gain."""

    tag: str
    comparison: Comparison
    corrected: float
    says_little: bool
    unjudged: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Example:
    """A query in which the rankers differ: titles of the first records of each, with their grades."""

    query_id: str
    query: str
    need: str
    first_value: float
    second_value: float
    first: list[tuple[str, str, int | None]]
    second: list[tuple[str, str, int | None]]


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadToHead:
    """Two rankers. names, figures: of both; stale: judgments of records that changed since.

    open: unjudged records, those first that matter most, of which `enough` would decide. looks: how many rankers were
    looked at on the open queries; verdict: over those and over what the locked ones said of the same two; headline,
    reasons: the verdict in words; locked_opened: whether the locked ones were opened for these two in any way.
    """

    names: tuple[str, str]
    measure: str
    comparison: Comparison
    figures: tuple[Figures, Figures]
    intervals: tuple[Interval, Interval]
    queries: list[QueryRow]
    slices: list[Slice]
    open: list[Open]
    open_in_all: int
    enough: int
    differences: list[Difference]
    examples: list[Example]
    titles: dict[str, str]
    looks: int
    verdict: Verdict
    headline: str
    reasons: list[str]
    locked: int
    locked_opened: bool
    part: Part
    judged_revision: int
    notes: list[str]
    stale: int


def head_to_head(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    first: RankerSide,
    second: RankerSide,
    measure: Measure,
    how: How,
) -> HeadToHead:
    """Two rankers over the same queries. A gain is the second's."""

    def work(opened: OpenCollection) -> HeadToHead:
        judged = judged_in(bench, opened, set_name, how.part)
        made = [lists_of_side(bench, opened, side, set_name, judged) for side in (first, second)]
        figures = [one.figures(opened, judged, [measure], how) for one in made]
        values = [_values(own, measure) for own in figures]
        weights = judged.weights if how.weighted else None
        whole = comparison(values[0], values[1], weights)
        by_id = {query.query_id: query for query in judged.queries}
        shared = [query for query in by_id if query in values[0] and query in values[1]]
        left = deciding_records(
            measure,
            how.rules,
            made[0].keys,
            made[1].keys,
            {query: judged.grades.get(query, {}) for query in shared},
            weights,
            judged.nothing_to_find,
            typed=[one.typed(opened, judged, [measure], how) for one in made],
        )
        not_judged: dict[str, int] = {}
        for one in left.open:
            not_judged[one.query] = not_judged.get(one.query, 0) + 1
        rows = [
            QueryRow(
                query_id=query,
                query=by_id[query].query,
                tags=by_id[query].tags,
                first=values[0][query],
                second=values[1][query],
                unjudged=not_judged.get(query, 0),
            )
            for query in shared
        ]
        looks, judgment, opened_at, locked_opened = _judgment(
            bench, opened, judged, (first, second), made, measure, how, whole
        )
        locked = sum(query.locked for query in judged.everything)
        names = (made[0].name, made[1].name)
        examples, titles = _examples(bench, opened, judged, made, rows, [one.record for one in left.open[:MOST_OPEN]])
        return HeadToHead(
            names=names,
            measure=measure.name,
            comparison=whole,
            figures=(figures[0], figures[1]),
            intervals=(_interval(figures[0], measure, judged, how), _interval(figures[1], measure, judged, how)),
            queries=rows,
            slices=_slices(rows, weights),
            open=left.open[:MOST_OPEN],
            open_in_all=len(left.open),
            enough=left.enough,
            differences=_differences(made[0], made[1]),
            examples=examples,
            titles=titles,
            looks=looks,
            verdict=judgment,
            headline=headline(judgment, names),
            reasons=reasons(judgment, opened_at, locked, _PARTS[how.part], locked_opened),
            locked=locked,
            locked_opened=locked_opened,
            part=how.part,
            judged_revision=judged.judged_set.revision,
            notes=list(dict.fromkeys([*made[0].notes, *made[1].notes])),
            stale=_stale(bench, opened, judged),
        )

    return bench.with_collection(collection_name, work)


def _stale(bench: Workbench, opened: OpenCollection, judged: Judged) -> int:
    with bench.pool.connection() as connection:
        return len(stale_judgments(connection, opened.collection.id, judged.judged_set.id))


def _values(figures: Figures, measure: Measure) -> dict[str, float]:
    return {query: values[measure.name] for query, values in figures.measured.per_query.items()}


def _interval(figures: Figures, measure: Measure, judged: Judged, how: How) -> Interval:
    values = _values(figures, measure)
    asked = judged.weights if how.weighted else None
    weights = None if asked is None else np.array([asked[query] for query in values])
    return bootstrap_interval(np.array(list(values.values())), weights)


def says_little(queries: int, detectable: float | None, corrected: float) -> bool:
    """Whether a comparison says little: of few queries, or so blunt that only a large difference would have been seen.

    corrected: its p-value; what is beyond luck is worth saying, however blunt.

    >>> says_little(40, 0.2, 0.3), says_little(40, 0.2, 0.01)
    (True, False)
    """
    return queries < FEW or (corrected >= ALPHA and (detectable is None or detectable > TELLING))


def _differences(first: SideLists, second: SideLists) -> list[Difference]:
    """What is different between two of ours."""
    if first.document is None or second.document is None:
        return []
    return differences(first.document, second.document, first.reads, second.reads)


def _slices(rows: Sequence[QueryRow], weights: dict[str, float] | None) -> list[Slice]:
    """The queries of each tag, by tag."""
    by_tag: dict[str, list[QueryRow]] = {}
    for row in rows:
        for tag in row.tags:
            by_tag.setdefault(tag, []).append(row)
    found = {
        tag: comparison({row.query_id: row.first for row in own}, {row.query_id: row.second for row in own}, weights)
        for tag, own in sorted(by_tag.items())
    }
    slices: list[Slice] = []
    for (tag, whole), corrected in zip(found.items(), holm([own.randomisation for own in found.values()]), strict=True):
        unjudged = sum(row.unjudged for row in by_tag[tag])
        slices.append(
            Slice(
                tag=tag,
                comparison=whole,
                corrected=corrected,
                says_little=says_little(whole.queries, whole.detectable, corrected),
                unjudged=unjudged,
            )
        )
    return slices


def _note_look(
    bench: Workbench,
    opened: OpenCollection,
    judged: Judged,
    part: Part,
    made: Sequence[SideLists],
    said: str,
    details: Mapping[str, Any] | None = None,
) -> int:
    """Notes the look, and returns how many rankers were looked at on the open queries until now."""
    looked_at = [Looked.of(one.name, one.chosen) for one in made]
    with bench.pool.connection() as connection:
        note_looking(connection, opened.collection.id, judged, part, looked_at, said, details)
        return looks_at(connection, judged.judged_set.id)


def _judgment(
    bench: Workbench,
    opened: OpenCollection,
    judged: Judged,
    sides: tuple[RankerSide, RankerSide],
    made: Sequence[SideLists],
    measure: Measure,
    how: How,
    whole: Comparison,
) -> tuple[int, Verdict, datetime | None, bool]:
    """Notes the look; gives how many rankers were looked at, the verdict, when the locked queries were opened for it,
    and whether they were for the same two in any way.

    whole: the comparison over the part that is asked for.
    """
    looked_at = [Looked.of(one.name, one.chosen) for one in made]
    subject = subject_of(looked_at, measure.name, replace(how, part=Part.LOCKED, bands=False))
    set_name, collection_id = judged.judged_set.name, opened.collection.id
    # What the others are tried against is no try itself; one from outside was not counted.
    itself = 0 if made[0].document is None else 1
    with bench.pool.connection() as connection:
        openings = openings_of(connection, collection_id, set_name)
    if how.part is not Part.LOCKED:
        own = subject_of(looked_at, measure.name, how)
        said = f"{measure.name}: {made[0].name} {whole.first:.3f}, {made[1].name} {whole.second:.3f}."
        looks = _note_look(bench, opened, judged, how.part, made, said, own)
        known = last_opening(openings, subject) if how.part is Part.OPEN else None
        found = verdict(tried_in(whole, max(1, looks - itself)), known.said if known else None)
        in_any_way = opened_for(openings, subject, (made[0].name, made[1].name))
        return looks, found, known.opened_at if known else None, in_any_way
    # The open ones belong to the judgment, and are looked at for it.
    all_open = judged_in(bench, opened, set_name, Part.OPEN)
    both = [lists_of_side(bench, opened, side, set_name, all_open) for side in sides]
    open_how = replace(how, part=Part.OPEN)
    values = [_values(one.figures(opened, all_open, [measure], open_how), measure) for one in both]
    over_open = comparison(values[0], values[1], all_open.weights if how.weighted else None)
    looks = _note_look(bench, opened, all_open, Part.OPEN, both, "")
    found = verdict(tried_in(over_open, max(1, looks - itself)), tried_in(whole, tries_until(openings, subject)))
    names = (made[0].name, made[1].name)
    told = " ".join([f"{measure.name}: {headline(found, names)}", *reasons(found, None, 0, _PARTS[Part.OPEN], True)])
    _note_look(bench, opened, judged, how.part, made, told, subject | {"figures": figures_kept(whole)})
    return looks, found, None, True


def _examples(
    bench: Workbench,
    opened: OpenCollection,
    judged: Judged,
    made: Sequence[SideLists],
    rows: Sequence[QueryRow],
    more: Sequence[str],
) -> tuple[list[Example], dict[str, str]]:
    """The largest loss and the two largest gains, and the titles of all records that are spoken of."""
    by_gain = sorted(rows, key=lambda row: row.second - row.first)
    chosen = [*by_gain[:1], *reversed(by_gain[-2:])] if len(by_gain) > 2 else by_gain
    told = list(dict.fromkeys(row.query_id for row in chosen if row.second != row.first))
    keys = {query: [one.keys.get(query, [])[:SHOWN_IN_EXAMPLES] for one in made] for query in told}
    spoken_of = {*more, *(key for both in keys.values() for own in both for key in own)}
    with bench.pool.connection() as connection:
        titles = titles_of(connection, opened.collection, spoken_of)
    by_id: dict[str, SetQuery] = {query.query_id: query for query in judged.queries}
    by_row = {row.query_id: row for row in rows}

    def shown(query: str, own: Sequence[str]) -> list[tuple[str, str, int | None]]:
        return [(key, titles.get(key, key), judged.grades.get(query, {}).get(key)) for key in own]

    examples = [
        Example(
            query_id=query,
            query=by_id[query].query,
            need=by_id[query].need,
            first_value=by_row[query].first,
            second_value=by_row[query].second,
            first=shown(query, keys[query][0]),
            second=shown(query, keys[query][1]),
        )
        for query in told
    ]
    return examples, titles
