"""What the owner of a search box is told of two rankers, who need not know what a ranker is: plain sentences."""

from collections.abc import Mapping, Sequence
from typing import Final

from pale_harbor.core.comparing import ALPHA, STILL, Outcome, Tried
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.formats.owner_page import OwnerDecision, OwnerExample, OwnerFacts, OwnerQuery
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.judged_sets import set_named
from pale_harbor.store.judging.judgments import judges_of
from pale_harbor.store.measuring.diary import diary_of
from pale_harbor.work.judging.expecting import Broken
from pale_harbor.work.measuring.comparing import HeadToHead, QueryRow
from pale_harbor.work.measuring.judged import Part
from pale_harbor.work.measuring.verdicts import share_text
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import Workbench

MOST_WORSE: Final = 8
# Losses of less are counted, not listed: few would notice them.
WORTH_LISTING: Final = 0.05

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
    "letters_saved": "the share of letters that need not be typed until something useful is among the first {k}",
    "keystrokes_saved": "the share of letters and steps down the list that nobody has to make to something useful",
}
_VERDICTS: Final = {
    Outcome.BETTER: "Yes, it is better.",
    Outcome.WORSE: "No, it is worse.",
    Outcome.LUCK: "It cannot be told: the difference is within luck.",
    Outcome.DISAGREE: "It cannot be told: the searches that were kept back say the opposite.",
    Outcome.NOTHING: "Nothing to say: no search is rated.",
}


def owner_facts(bench: Workbench, collection_name: str, set_name: str, found: HeadToHead) -> OwnerFacts:
    """The owner's page of a comparison: the first ranker is the search of today, the second what is proposed."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        entries = diary_of(connection, collection.id)
        judges = judges_of(connection, set_named(connection, collection.id, set_name).id)
        keys = [key for one in found.figures[1].broken if (key := one.expectation.wanted.record_key) is not None]
        titles = titles_of(connection, collection, keys)
    losses = sorted(
        (row for row in found.queries if row.second <= row.first - STILL), key=lambda row: row.second - row.first
    )
    worse = [row for row in losses if _worth_listing(row)][:MOST_WORSE]
    first_broken = {one.expectation.id for one in found.figures[0].broken}
    return OwnerFacts(
        title="Is the proposed search better than today's?",
        verdict=_VERDICTS[found.verdict.outcome],
        sentences=[*_sentences(found), *_raters(judges), *_left_out(found)],
        got_worse=[OwnerQuery(row.query, *points(row.first, row.second)) for row in worse],
        more_worse=_more_worse(losses[len(worse) :], bool(worse)),
        worse_kinds=[
            f"“{one.tag}”: {' to '.join(points(one.comparison.first, one.comparison.second))} over "
            f"{one.comparison.queries} searches"
            for one in found.slices
            if one.comparison.gain < 0 and one.corrected < ALPHA and not one.says_little
        ],
        broken=[
            f"{_query(found, one.expectation.query_id)}: {_wanted(one, titles)}; {one.instead}"
            + ("" if one.expectation.id in first_broken else " (today it holds)")
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
        decisions=[
            OwnerDecision(one.written_at.date().isoformat(), one.title, one.body)
            for one in entries
            if one.kind == "decision" and one.details.get("rankers") == list(found.names)
        ],
        made_of=[
            f"Today's search is {found.names[0]}, the proposed one {found.names[1]}; the figure is {found.measure}, "
            f"times 100; the judged set is {set_name}, revision {found.judged_revision}.",
            *found.reasons,
        ],
        changed=[one.words for one in found.differences],
    )


def points(first: float, second: float) -> tuple[str, str]:
    """Two values of a measure on a scale to 100, with as many digits as it takes to tell them apart.

    >>> points(0.503, 0.597), points(0.5031, 0.5047)
    (('50', '60'), ('50.3', '50.5'))
    """
    for digits in (0, 1, 2):
        both = f"{100 * first:.{digits}f}", f"{100 * second:.{digits}f}"
        if both[0] != both[1] or first == second:
            return both
    return f"{100 * first:.2f}", f"{100 * second:.2f}"


def _sentences(found: HeadToHead) -> list[str]:
    whole, opened, locked = found.comparison, found.verdict.open, found.verdict.locked
    measure = measure_named(found.measure)
    means = _MEANS.get(measure.kind, "how good the results are").format(k=measure.depth)
    before, after = points(whole.first, whole.second)
    which = " that had been kept back" if found.part is Part.LOCKED else ""
    said = [
        f"Over {_searches(whole.queries)}{which}, today's search reaches {before} of 100 points and the proposed one "
        f"{after}. Points say {means}; 100 would be perfect.",
        f"{_searches(whole.gained)} got better, {whole.lost} got worse, {whole.tied} stayed as they were.",
    ]
    tried = locked if found.part is Part.LOCKED else opened
    if tried is not None and tried.queries:
        said.append(
            "If both were equally good, luck alone would show such a difference"
            + (f" in one of {tried.tries} proposals" if tried.tries > 1 else "")
            + f" in {share_text(tried.by_luck)} of cases."
        )
    # What the figures above are of is not told a second time.
    if found.part is Part.LOCKED and opened is not None and opened.queries:
        before, after = points(opened.first, opened.second)
        said.append(f"Over the {_searches(opened.queries)} for everyday looking they reach {before} and {after}.")
    elif locked is not None and locked.queries:
        said.append(_kept_back(locked))
    return said


def _kept_back(locked: Tried) -> str:
    before, after = points(locked.first, locked.second)
    word = {
        Outcome.BETTER: "they say that it is better",
        Outcome.WORSE: "they say that it is worse",
    }.get(locked.outcome, "they alone are too few to tell")
    was = "was" if locked.queries == 1 else "were"
    return (
        f"{_searches(locked.queries)} had been kept back for this question and {was} opened: today's search reaches "
        f"{before}, the proposed one {after}; {word}."
    )


def _worth_listing(row: QueryRow) -> bool:
    return row.second < row.first - WORTH_LISTING


def _more_worse(others: Sequence[QueryRow], any_listed: bool) -> str:
    """What is said of losses that are not listed, so that none is dropped in silence."""
    if not others:
        return ""
    slight = sum(not _worth_listing(row) for row in others)
    large = len(others) - slight
    said = [f"{large} more"] if large else []
    said += [f"{slight} by 5 points or less"] if slight else []
    return f"{'and ' if any_listed else ''}{', and '.join(said)}"


def _raters(judges: dict[str, int]) -> list[str]:
    named = len([name for name in judges if name])
    if not judges:
        return []
    everything = sum(judges.values())
    if not named:
        return [f"{everything:,} results were rated; by whom is not known."]
    people = "1 person" if named == 1 else f"{named} people"
    unknown = judges.get("", 0)
    of_nobody = f"; of {unknown:,} it is not known who did" if unknown else ""
    return [f"{people} rated results, {everything:,} in all{of_nobody}."]


def _left_out(found: HeadToHead) -> list[str]:
    said: list[str] = []
    unjudged = max(one.unjudged.get(found.measure, 0.0) for one in found.figures)
    if unjudged:
        said.append(
            f"Up to {share_text(unjudged)} of the results that count were never rated; they are taken as of no use."
        )
    if found.locked and found.part is Part.OPEN and found.verdict.locked is None:
        more = "1 more search is" if found.locked == 1 else f"{found.locked} more searches are"
        was = "was" if found.locked == 1 else "were"
        how = "looked at in another way than for" if found.locked_opened else "not looked at for"
        said.append(f"{more} kept back and {was} {how} this page.")
    return said


def _searches(count: int) -> str:
    return "1 search" if count == 1 else f"{count} searches"


def _query(found: HeadToHead, query_id: str) -> str:
    return next((row.query for row in found.queries if row.query_id == query_id), query_id)


def _wanted(broken: Broken, titles: Mapping[str, str]) -> str:
    """What was expected, its record by title: an owner knows no keys."""
    wanted = broken.expectation.wanted
    key = wanted.record_key
    return wanted.of(None if key is None else f"“{titles.get(key, key)}”")
