"""Feedback from the list: words of a query's own first records, and how much each of them counts.

    relevance model   w(t) = Σ over records: score / Σ scores · tf(t) / Σ tf
    mean record       w(t) = Σ over records: v(t) / |v|,  v(t) = tf(t) · idf(t)

The terms that weigh most are kept and their weights scaled to a sum of 1. In the query they count as much as `share`
says: its own words keep their weight, and those of feedback together weigh share / (1 − share) times as much.

Sources: J. Rocchio, "Relevance feedback in information retrieval", 1971, for the mean of record vectors;
N. Abdul-Jaleel and others, "UMass at TREC 2004: Novelty and HARD", 2004, for the relevance model that is mixed with the
query.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import KW_ONLY, dataclass
from enum import Enum
from math import sqrt
from typing import Annotated

from pale_harbor.core.knobs import Knob, Names
from pale_harbor.core.ranking.bm25 import inverse_document_frequency


class FeedbackHow(Enum):
    """How the words of the first records are weighed."""

    MODEL = "model"
    MEAN = "mean"


@dataclass(frozen=True, slots=True)
class Feedback:
    """Words of the first records are looked for too."""

    _: KW_ONLY
    how: Annotated[
        FeedbackHow,
        Knob(
            "weighed",
            "how the words of the first records are weighed: as a relevance model, by the records’ scores and each "
            "word’s share of its record, or by the mean of the records, rare words weighing more",
            choices={"model": "as a relevance model", "mean": "by the mean record"},
        ),
    ] = FeedbackHow.MODEL
    records: Annotated[
        int,
        Knob(
            "first records",
            "from so many of the first records by words",
            least=1,
            most=100,
            unit="records",
            step=1,
            reach=30,
        ),
    ] = 10
    terms: Annotated[
        int,
        Knob(
            "most terms of feedback",
            "in each reading, of all terms of these records, so many count",
            least=1,
            most=100,
            unit="terms",
            step=1,
            reach=50,
        ),
    ] = 10
    share: Annotated[
        float,
        Knob(
            "share of feedback",
            "how much of the query they are: at 0.5 as much as what was typed",
            above=0,
            most=0.9,
            step=0.05,
        ),
    ] = 0.3
    common: Annotated[
        float,
        Knob(
            "passed over above",
            "terms that a greater share of all records holds are passed over",
            above=0,
            most=1,
            step=0.05,
        ),
    ] = 0.1
    finds: Annotated[
        bool,
        Knob("finds records by itself", "whether records that hold none of the query’s own words are found by them"),
    ] = True
    field: Annotated[
        str | None,
        Knob(
            "words of one field",
            "only the words of this field; none: those of each reading, looked for where they were found",
            longest=200,
            names=Names.FIELD,
        ),
    ] = None


@dataclass(frozen=True, slots=True)
class RecordTerms:
    """How often a record of the list's beginning holds each term of a reading, and its score."""

    score: float
    frequencies: Mapping[str, int]


def feedback_terms(
    feedback: Feedback, records: Sequence[RecordTerms], record_count: int, holding: Callable[[str], int]
) -> list[tuple[str, float]]:
    """The terms that feedback adds to a reading, those that weigh most first, with weights that sum to 1.

    record_count: records of the collection; holding: how many of them hold a term. Equal weights go by term; terms that
    only one record holds are passed over.

    >>> records = [RecordTerms(2.0, {"oil": 1, "lamp": 1}), RecordTerms(1.0, {"oil": 1})]
    >>> feedback_terms(Feedback(common=1.0), records, 10, lambda term: 2)
    [('oil', 0.6666666666666666), ('lamp', 0.3333333333333333)]
    """
    held: dict[str, int] = {}
    for record in records:
        for term in record.frequencies:
            if term not in held:
                held[term] = holding(term)
    # What one record alone holds finds nothing: it would only lift the record that it came from.
    kept = {term for term, count in held.items() if 1 < count <= feedback.common * record_count}
    idf = {term: inverse_document_frequency(record_count, held[term]) for term in kept}
    total = sum(record.score for record in records)
    weights = dict.fromkeys(sorted(kept), 0.0)
    for record in records:
        if feedback.how is FeedbackHow.MODEL:
            length = sum(record.frequencies.values())
            # Where nothing has a score, as where all that was asked is worth nothing, records count alike.
            counts = record.score / total if total > 0 else 1 / len(records)
            own = {term: counts * times / length for term, times in record.frequencies.items() if term in kept}
        else:
            vector = {term: times * idf[term] for term, times in record.frequencies.items() if term in kept}
            size = sqrt(sum(value * value for value in vector.values()))
            own = {term: value / size for term, value in vector.items()} if size else {}
        for term, weight in own.items():
            weights[term] += weight
    best = sorted(weights.items(), key=lambda one: (-one[1], one[0]))[: feedback.terms]
    together = sum(weight for _, weight in best)
    return [(term, weight / together) for term, weight in best] if together > 0 else []
