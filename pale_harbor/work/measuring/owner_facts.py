"""What the owner of a search box is told of two rankers: plain sentences from a comparison and the diary."""

from typing import Final

from pale_harbor.core.comparing import ALPHA
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.formats.owner_page import OwnerDecision, OwnerExample, OwnerFacts, OwnerQuery
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.measuring.diary import diary_of
from pale_harbor.work.measuring.comparing import HeadToHead
from pale_harbor.work.measuring.measuring import Part
from pale_harbor.work.workbench import Workbench

MOST_WORSE: Final = 8
# Losses smaller than this are not worth a person's time.
WORTH_TELLING: Final = 0.05

_MEANS: Final = {
    "ndcg": "how good the first {k} results are and in how good an order",
    "ndcg_lin": "how good the first {k} results are and in how good an order",
    "precision": "the share of the first {k} results that are of use",
    "recall": "the share of all useful records that stand among the first {k}",
    "success": "how often one of the first {k} results is of use",
    "rr": "how early the first useful result comes",
    "err": "how early a reader finds what was wanted",
    "ap": "how early and how completely useful records come",
    "map": "how early and how completely useful records come",
    "rbp": "how much of use a patient reader meets",
    "bpref": "how often useful records come before useless ones",
    "rprec": "the share of useful records among as many first results as there are",
}


def owner_facts(bench: Workbench, collection_name: str, set_name: str, found: HeadToHead) -> OwnerFacts:
    """The owner's page of a comparison: the first ranker is what was, the second what is proposed."""
    before, after = found.names
    with bench.pool.connection() as connection:
        entries = diary_of(connection, collection_named(connection, collection_name).id)
    worse = sorted(
        (row for row in found.queries if row.second < row.first - WORTH_TELLING), key=lambda row: row.second - row.first
    )
    first_broken = {one.expectation.id for one in found.figures[0].broken}
    return OwnerFacts(
        title=f"Is {after} better than {before}?",
        verdict=_verdict(found),
        sentences=_sentences(found, set_name),
        got_worse=[OwnerQuery(row.query, row.first, row.second) for row in worse[:MOST_WORSE]],
        worse_in_all=len(worse),
        worse_kinds=[
            f"“{one.tag}”: {one.comparison.first:.3f} to {one.comparison.second:.3f} over {one.comparison.queries}"
            for one in found.slices
            if one.comparison.gain < 0 and one.corrected < ALPHA and not one.says_little
        ],
        broken=[
            f"{_query(found, one.expectation.query_id)}: {one.said}; {one.instead}"
            + ("" if one.expectation.id in first_broken else f" (it held with {before})")
            for one in found.figures[1].broken
        ],
        examples=[
            OwnerExample(
                query=one.query,
                need=one.need,
                before=[title for _, title, _ in one.first],
                after=[title for _, title, _ in one.second],
                gained=one.second_value > one.first_value,
            )
            for one in found.examples
        ],
        changed=found.differences,
        decisions=[
            OwnerDecision(one.written_at.date().isoformat(), one.title, one.body)
            for one in entries
            if one.kind == "decision" and one.details.get("rankers") == [before, after]
        ],
    )


def _verdict(found: HeadToHead) -> str:
    whole = found.comparison
    if not whole.queries:
        return "Nothing to say: no query is judged."
    if not whole.beyond_luck:
        return "It cannot be told: the difference is within luck."
    return "Yes, it is better." if whole.gain > 0 else "No, it is worse."


def _sentences(found: HeadToHead, set_name: str) -> list[str]:
    before, after = found.names
    whole = found.comparison
    measure = measure_named(found.measure)
    means = _MEANS.get(measure.kind, "how good the results are").format(k=measure.depth)
    part = "locked" if found.part is Part.LOCKED else "judged"
    said = [
        f"Over {whole.queries} {part} queries of {set_name}, {after} reaches {whole.second:.3f} and {before} "
        f"{whole.first:.3f}. The figure is {found.measure}: {means}; 1 would be perfect.",
        f"The difference is {whole.gain:+.3f}; with other queries of the same kind it would most likely lie between "
        f"{whole.interval.low:+.3f} and {whole.interval.high:+.3f}. {whole.gained} queries got better, {whole.lost} "
        f"got worse, {whole.tied} stayed as they were.",
    ]
    if whole.queries:
        said.append(
            f"If both were equally good, luck alone would show such a difference in {_share(whole.randomisation)} of "
            f"cases."
            + (
                f" {found.looks} rankers were looked at on these queries; that one of so many shows it by luck: "
                f"{_share(found.by_luck)}."
                if found.looks > 1 and found.part is not Part.LOCKED
                else ""
            )
        )
    unjudged = max(one.unjudged.get(found.measure, 0.0) for one in found.figures)
    if unjudged:
        said.append(
            f"Up to {_share(unjudged)} of the results that count were never judged; they are taken as off topic."
        )
    if found.locked and found.part is not Part.LOCKED:
        more = "1 more query is" if found.locked == 1 else f"{found.locked} more queries are"
        was = "was" if found.locked == 1 else "were"
        said.append(f"{more} locked away and {was} not looked at for this page.")
    return said


def _share(share: float) -> str:
    return "less than 0.1 %" if share < 0.001 else f"{100 * share:.1f} %" if share < 0.1 else f"{100 * share:.0f} %"


def _query(found: HeadToHead, query_id: str) -> str:
    return next((row.query for row in found.queries if row.query_id == query_id), query_id)
