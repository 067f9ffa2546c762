"""What turns of a ranker's knobs would do: its quality with this number or that choice in place, everything else held.

Most turns are weighed from the score sheets that the draft is measured with; the others are searched for.
"""

from collections.abc import Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass
from typing import Any, Final, cast

from pale_harbor.core.knobs import dotted, number_at, with_number
from pale_harbor.core.measures import Band, JudgedList, Measure, Unjudged, WithoutRelevant, band, judged_list
from pale_harbor.core.measures.measured import value_of, weighted_mean
from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.measuring.set_sheet import Seen, seen_lists
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.workbench import RankerChoice, Workbench

Path = Sequence[str | int]
# Of a measure of one query: less is no difference that a person would call one.
NO_DIFFERENCE: Final = 0.0005


@dataclass(frozen=True, slots=True)
class Turn:
    """A value put at a place of a ranker's document. path: names and numbers, as in readings, 0, weight; beside: what
    is turned with it."""

    path: tuple[str | int, ...]
    value: Any
    beside: "Turn | None" = None

    @property
    def places(self) -> "Iterator[Turn]":
        """Everything that is turned, one after the other."""
        yield self
        if self.beside is not None:
            yield from self.beside.places


class Values(dict[tuple[str, bytes], tuple[float, Band | None]]):
    """A measure of lists that were met, with its band: by query and the grades of the list."""

    @property
    def size_bytes(self) -> int:
        """What they take up in memory, roughly."""
        return 1_000 + 400 * len(self)


@dataclass(frozen=True, slots=True, kw_only=True)
class Turned:
    """A ranker with a knob turned. mean: None where no query counts; band: where unjudged records leave it open.

    gained, lost: queries that differ from the ranker as it stands.
    """

    mean: float | None
    band: Band | None
    gained: int
    lost: int


@dataclass(frozen=True, slots=True)
class Turns:
    """standing: the ranker as it stands; turned: each turn, in order; queries: how many are counted."""

    standing: Turned
    turned: list[Turned]
    queries: int


def turns_on_set(
    bench: Workbench,
    collection_name: str,
    choice: RankerChoice,
    set_name: str,
    measure: Measure,
    turns: Sequence[Turn],
    how: How,
) -> Turns:
    """What each turn would come to on a set's queries. It is no look: the ranker that is settled on will be one.

    Raises BadInput for a value that a ranker cannot have there, NotFound, Unavailable.
    """

    def work(opened: OpenCollection) -> Turns:
        chosen = bench.choose(opened.collection, choice)
        judged = judged_in(bench, opened, set_name, how.part)
        rankers = _turned_rankers(bench, opened, choice, chosen.ranker, chosen.document, turns)
        # Most turns leave most lists as they are, and so do those of the next knob.
        kept = judged.judged_set
        key = (kept.id, kept.revision, measure.name, how.rules, how.bands)
        known = bench.memory.values.get_or_make(key, Values)
        told = _measured(opened, [chosen.ranker, *rankers], judged, measure, how, known)
        bench.memory.values.put(key, known)
        return told

    return bench.with_collection(collection_name, work)


def _turned_rankers(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    ranker: Ranker,
    document: RankerDocument,
    turns: Sequence[Turn],
) -> list[Ranker]:
    quick = [all(_is_number(ranker, place) for place in turn.places) for turn in turns]
    documents = [_turned_document(document, turn) for turn in turns]
    read = iter(
        bench.rankers_like(
            opened.collection, choice, [one for one, is_quick in zip(documents, quick, strict=True) if not is_quick]
        )
    )
    # A number is put where it belongs; whatever else is turned is read anew.
    return [
        _with_numbers(ranker, turn) if is_quick else next(read) for turn, is_quick in zip(turns, quick, strict=True)
    ]


def _is_number(ranker: Ranker, place: Turn) -> bool:
    is_number = isinstance(place.value, int | float) and not isinstance(place.value, bool)
    return is_number and number_at(ranker, place.path) is not None


def _turned_document(document: RankerDocument, turn: Turn) -> RankerDocument:
    check_wanted()
    whole = document.whole
    for place in turn.places:
        whole = with_value(whole, place.path, place.value)
    return RankerDocument(whole)


def _with_numbers(ranker: Ranker, turn: Turn) -> Ranker:
    for place in turn.places:
        ranker = with_number(ranker, place.path, place.value)
    return ranker


def with_value(document: Mapping[str, Any], path: Path, value: Any) -> dict[str, Any]:
    """The document with another value at a place. Raises BadInput where there is no such place.

    >>> with_value({"readings": [{"weight": 1}]}, ["readings", 0, "weight"], 2)
    {'readings': [{'weight': 2}]}
    """
    changed = dict(document)
    at: Any = changed
    for i, step in enumerate(path):
        if not _holds(at, step):
            raise BadInput(f'This ranker has nothing at "{dotted(path[: i + 1])[:200]}".')
        if i == len(path) - 1:
            at[step] = value
        else:
            # What is not on the way is the same as before.
            at[step] = copy(at[step])
            at = at[step]
    return changed


def _holds(at: Any, step: str | int) -> bool:
    if isinstance(step, str):
        return isinstance(at, dict) and step in at
    return isinstance(at, list) and 0 <= step < len(cast("list[Any]", at))


def _measured(
    opened: OpenCollection,
    rankers: Sequence[Ranker],
    judged: Judged,
    measure: Measure,
    how: How,
    known: Values,
) -> Turns:
    """The first ranker is the one that the others are turned from."""
    seen = seen_lists(opened, rankers, judged, [measure], how.rules, expecting=False)
    weights = judged.weights if how.weighted else None
    found = values_seen(seen, judged, measure, how, known)
    values = [{query: value for query, (value, _) in own.items()} for own in found]
    bands = [{query: own_band for query, (_, own_band) in own.items() if own_band is not None} for own in found]
    standing, *others = [turned(own, values[0], ends, weights) for own, ends in zip(values, bands, strict=True)]
    return Turns(standing, others, len(values[0]))


def counted_queries(judged: Judged, how: How) -> list[str]:
    """The queries that a mean is made of, in the order of their ids."""
    every = sorted({*judged.grades, *judged.nothing_to_find})
    if how.rules.without_relevant is not WithoutRelevant.LEFT_OUT:
        return every
    return [query for query in every if judged_list((), judged.grades.get(query, {})).relevant_count]


def values_seen(
    seen: Sequence[Mapping[str, Seen]], judged: Judged, measure: Measure, how: How, known: Values
) -> list[dict[str, tuple[float, Band | None]]]:
    """By ranker and query what a measure gives, with its band where bands are made. known: is added to."""
    found: list[dict[str, tuple[float, Band | None]]] = [{} for _ in seen]
    for query in counted_queries(judged, how):
        check_wanted()
        empty = judged_list((), judged.grades.get(query, {}))
        before, value = None, None
        for values, own in zip(found, seen, strict=True):
            ranked = own[query].judged if query in own else empty
            if value is None or ranked is not before:
                name = query, ranked.name
                if name not in known:
                    known[name] = _value(measure, ranked, how)
                before, value = ranked, known[name]
            values[query] = value
    return found


def _value(measure: Measure, ranked: JudgedList, how: How) -> tuple[float, Band | None]:
    with_band = how.bands and how.rules.unjudged is Unjudged.OFF_TOPIC
    return value_of(measure, ranked, how.rules), band(measure, ranked) if with_band else None


def turned(
    values: Mapping[str, float],
    standing: Mapping[str, float],
    bands: Mapping[str, Band],
    weights: Mapping[str, float] | None,
) -> Turned:
    """What a turn comes to, by the values of queries with it and as it stands.

    >>> turned({"a": 0.6, "b": 0.5}, {"a": 0.5, "b": 0.5}, {}, None).gained
    1
    """
    weighs = bool(values) if weights is None else any(weights.get(query, 0.0) > 0 for query in values)
    if not weighs:
        return Turned(mean=None, band=None, gained=0, lost=0)
    differences = [values[query] - standing[query] for query in values]
    return Turned(
        mean=weighted_mean(values, weights),
        band=Band(
            weighted_mean({query: own.worst for query, own in bands.items()}, weights),
            weighted_mean({query: own.best for query, own in bands.items()}, weights),
        )
        if bands
        else None,
        gained=sum(difference >= NO_DIFFERENCE for difference in differences),
        lost=sum(difference <= -NO_DIFFERENCE for difference in differences),
    )
