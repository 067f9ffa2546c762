"""A run measured: every measure for every judged query, and the means."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pale_harbor.core.measures.judged_list import judged_list
from pale_harbor.core.measures.measure import Measure


@dataclass(frozen=True, slots=True)
class Measured:
    """means: by measure, over all queries with judgments; per_query: query, then measure."""

    means: dict[str, float]
    per_query: dict[str, dict[str, float]]


def measured(
    lists: Mapping[str, Sequence[str]],
    grades: Mapping[str, Mapping[str, int]],
    measures: Sequence[Measure],
) -> Measured:
    """Ranked lists of record keys against the grades of each query.

    A judged query without a list counts as an empty list. A list without judgments is left out.
    Queries are taken in code point order, so that the means have the same digits every time.
    """
    per_query: dict[str, dict[str, float]] = {}
    for query in sorted(grades):
        judged = judged_list(lists.get(query, ()), grades[query])
        per_query[query] = {measure.name: measure.of(judged) for measure in measures}
    count = len(per_query)
    means = {
        measure.name: sum(values[measure.name] for values in per_query.values()) / count if count else 0.0
        for measure in measures
    }
    return Measured(means, per_query)
