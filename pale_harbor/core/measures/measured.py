"""A run measured: every measure for every judged query, and the means."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from pale_harbor.core.measures.judged_list import JudgedList, judged_list
from pale_harbor.core.measures.measure import TELLS_OF_JUDGMENTS, Measure
from pale_harbor.core.measures.rules import USUAL_RULES, MeasureRules, Unjudged, WithoutRelevant, without_unjudged


@dataclass(frozen=True, slots=True)
class Measured:
    """means: by measure, over all queries with judgments, none where there are none; per_query: query, then measure."""

    means: dict[str, float]
    per_query: dict[str, dict[str, float]]


def measure_lists(
    lists: Mapping[str, Sequence[str]],
    grades: Mapping[str, Mapping[str, int]],
    measures: Sequence[Measure],
    rules: MeasureRules = USUAL_RULES,
    nothing_to_find: Collection[str] = (),
    weights: Mapping[str, float] | None = None,
) -> Measured:
    """Ranked lists of record keys against the grades of each query.

    A judged query without a list counts as an empty list. A list without judgments is left out, unless its query
    is known to have nothing to find. weights: of queries, such as how often each is asked; all alike where there
    are none. Queries are taken in code point order, so that the means have the same digits every time.
    """
    judged = {
        query: judged_list(lists.get(query, ()), grades.get(query, {})) for query in sorted({*grades, *nothing_to_find})
    }
    return measure_judged(judged, measures, rules, weights)


def measure_judged(
    lists: Mapping[str, JudgedList],
    measures: Sequence[Measure],
    rules: MeasureRules = USUAL_RULES,
    weights: Mapping[str, float] | None = None,
) -> Measured:
    """Lists seen through their grades, one for each query that counts, in the order in which they are added up."""
    per_query: dict[str, dict[str, float]] = {}
    for query, judged in lists.items():
        if rules.without_relevant is WithoutRelevant.LEFT_OUT and not judged.relevant_count:
            continue
        per_query[query] = {one.name: value_of(one, judged, rules) for one in measures}
    # Of nothing there is no mean: 0 would say that nothing good was found.
    weighs = bool(per_query) if weights is None else any(weights.get(query, 0.0) > 0 for query in per_query)
    return Measured(
        {
            one.name: weighted_mean({query: values[one.name] for query, values in per_query.items()}, weights)
            for one in measures
            if weighs
        },
        per_query,
    )


def value_of(measure: Measure, judged: JudgedList, rules: MeasureRules) -> float:
    """A measure of one list by the rules; what tells of the judgments themselves keeps to its formula."""
    if measure.kind in TELLS_OF_JUDGMENTS:
        return measure.of(judged)
    if not judged.relevant_count and rules.without_relevant is WithoutRelevant.EMPTY_IS_RIGHT:
        return 0.0 if judged.grades.size else 1.0
    return measure.of(without_unjudged(judged) if rules.unjudged is Unjudged.LEFT_OUT else judged)


def weighted_mean(values: Mapping[str, float], weights: Mapping[str, float] | None = None) -> float:
    """Σ w·v / Σ w in the order of `values`; 0 where nothing weighs anything.

    >>> weighted_mean({"a": 1.0, "b": 0.0}, {"a": 3.0, "b": 1.0})
    0.75
    """
    total = float(len(values)) if weights is None else sum(weights.get(query, 0.0) for query in values)
    summed = sum(value if weights is None else value * weights.get(query, 0.0) for query, value in values.items())
    return summed / total if total else 0.0
