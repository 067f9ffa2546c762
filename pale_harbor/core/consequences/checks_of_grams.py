"""Checks of chains that cut words into pieces."""

from typing import Final, cast

from pale_harbor.core.consequences.examined import (
    AnyGrams,
    Examined,
    Finding,
    Instead,
    Mend,
    examples_in_words,
    gram_stage,
    query_in_quotes,
    with_argument,
)
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import format_notation
from pale_harbor.core.text.stages.grams import LONGEST_GRAM, Grams, TextGrams

# An index so many times as large as its text is worth a word.
GROWTH_LIMIT: Final = 10.0
# Of a smaller one nobody needs to be told.
_SMALL_INDEX: Final = 1_000_000


def query_longer_than_the_longest_gram(examined: Examined) -> list[Finding]:
    """Grams on the record side, whole words on the query side, and a word that no gram is as long as."""
    cutting = gram_stage(examined.record_chain)
    if cutting is None or gram_stage(examined.query_chain) is not None:
        return []
    stage = cast(AnyGrams, cutting.stage)
    too_long = {term: asked for asked, terms in examined.query_terms for term in terms if len(term) > stage.max}
    if not too_long:
        return []
    longest = max(map(len, too_long))
    evidence = [
        f"The query {query_in_quotes(asked)} has “{term}”, of {len(term)} letters."
        for term, asked in list(too_long.items())[:4]
    ]
    if len(too_long) > 4:
        evidence.append(f"So have {len(too_long) - 4} more terms of the queries.")
    mend = None
    if longest <= LONGEST_GRAM:
        call = with_argument(cutting, "max", longest)
        mend = Mend(
            f"Cut up to {longest} letters: {call}", record_chain=Instead(cutting.call, call)(examined.record_chain)
        )
    return [
        Finding(
            "longest gram",
            f"{cutting.call} cuts pieces of at most {stage.max} letters; a longer word of a query can never match.",
            tuple(evidence),
            mend,
        )
    ]


def grams_cut_on_the_query_side(examined: Examined) -> list[Finding]:
    """A query cut into pieces matches whatever shares any piece."""
    cutting = gram_stage(examined.query_chain)
    if cutting is None:
        return []
    held = examined.gathered.term_records
    records = max(examined.gathered.consequences.records, 1)
    evidence: list[str] = []
    for asked, terms in examined.query_terms[:1] or []:
        widest = max(terms, key=lambda term: (held.get(term, 0), term), default=None)
        if widest is not None and held.get(widest, 0):
            share = 100 * held[widest] / records
            evidence.append(
                f"Of {query_in_quotes(asked)} the piece “{widest}” alone is in {share:.0f} % of the records looked at."
            )
    commonest = sorted(held, key=lambda term: (-held[term], term))[:4]
    if commonest:
        share = 100 * held[commonest[-1]] / records
        evidence.append(f"Pieces such as {examples_in_words(commonest)} are each in {share:.0f} % of them or more.")
    rest = tuple(call for call in examined.query_chain.calls if call != cutting.call)
    mend = None
    if cutting.kind is StageKind.TOKEN:
        mend = Mend(f"Leave {cutting.call} out of the query chain", query_chain=format_notation(rest))
    return [
        Finding(
            "grams in queries",
            f"{cutting.call} cuts the query too: unless the ranker needs a share of them, a record matches "
            "as soon as it shares any piece of any word.",
            tuple(evidence),
            mend,
        )
    ]


def words_shorter_than_the_shortest_gram(examined: Examined) -> list[Finding]:
    """Words of which no piece is cut, so that they cannot be found."""
    cutting = gram_stage(examined.record_chain)
    if cutting is None or cutting.kind is not StageKind.TOKEN:
        return []
    stage = cast(AnyGrams, cutting.stage)
    lost = [one for one in examined.gathered.consequences.dropped if len(one.word) < stage.min]
    if stage.min == 1 or not lost:
        return []
    shortest = min(len(one.word) for one in lost)
    call = with_argument(cutting, "min", shortest)
    return [
        Finding(
            "shortest gram",
            f"{cutting.call} drops words of fewer than {stage.min} letters: they are not found at all.",
            (f"{examples_in_words([f'{one.word} ×{one.count:,}' for one in lost])} in the records looked at.",),
            examined.mend(f"Cut shorter pieces too: {call}", Instead(cutting.call, call)),
        )
    ]


def index_growth(examined: Examined) -> list[Finding]:
    """An index many times as large as the text it was made of."""
    figures = examined.gathered.consequences
    scale = figures.records_in_all / figures.records if figures.records else 1.0
    text_bytes = figures.text_bytes * scale
    size = figures.index_bytes.total
    if text_bytes == 0 or size < _SMALL_INDEX or size < GROWTH_LIMIT * text_bytes:
        return []
    cutting = gram_stage(examined.record_chain)
    mend = None
    if cutting is not None and (stage := cast(AnyGrams, cutting.stage)).max > stage.min:
        narrower = max(stage.min, stage.max // 2)
        call = with_argument(cutting, "max", narrower)
        asked = max((len(term) for _, terms in examined.query_terms for term in terms), default=0)
        # Nobody is helped by pieces too short for what is asked.
        too_short = not isinstance(stage, Grams | TextGrams) and narrower < asked
        mend = (
            None
            if too_short
            else Mend(f"Cut fewer lengths: {call}", record_chain=Instead(cutting.call, call)(examined.record_chain))
        )
    estimate = " (estimated from a sample)" if figures.is_sample else ""
    return [
        Finding(
            "index growth",
            f"The index would be {size / text_bytes:.0f} times as large as the text it is made of.",
            (
                f"{text_bytes / 1e6:,.1f} MB of text, {size / 1e6:,.1f} MB of index{estimate}: "
                f"{figures.tokens / max(figures.records, 1):,.0f} tokens for each record.",
            ),
            mend,
        )
    ]
