"""The terms around each word of a query, and which of them a ranker's spelling slack takes."""

from dataclasses import dataclass
from typing import Final

from pale_harbor.core.ranking import Ranker, TermKind
from pale_harbor.core.ranking.around import TermAround, terms_around
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import ask

MOST_WORDS: Final = 8
# Beside those that are taken.
_MOST_OTHERS: Final = 24


@dataclass(frozen=True, slots=True)
class NearWord:
    """A term near a word of the query. worth: what it counts, None where slack does not take it."""

    around: TermAround
    worth: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WordAround:
    """A term of the query in one reading, with those around it, taken ones first.

    holding: records that hold the term itself; more: terms around it that are not shown.
    """

    term: str
    field: str
    reading: int
    holding: int
    near: list[NearWord]
    more: int


def words_around(opened: OpenCollection, ranker: Ranker, question: Question) -> list[WordAround]:
    """The query's terms in each reading that is given slack, the first few, with what is near them."""
    asked = ask(opened, ranker, question)
    plan = asked.plan
    alive = [slab.alive for slab in opened.slabs]
    told: list[WordAround] = []
    for at, reading in enumerate(plan.readings):
        if plan.is_literal(at) or not reading.slack or reading.share > 0 or not asked.prepared:
            continue
        by_slab = [slab.readings[at] for slab in asked.prepared]
        taken = {
            (term.said, term.text): term.worth
            for term in by_slab[0].terms
            if term.kind in (TermKind.SPELLING, TermKind.SIMILAR)
        }
        plain = {term.text: term.holding for term in by_slab[0].terms if term.kind is TermKind.TERM}
        for term, holding in list(plain.items())[:MOST_WORDS]:
            around = terms_around(term, [one.index for one in by_slab], alive)
            near = [NearWord(one, taken.get((term, one.text))) for one in around]
            known = {one.around.text for one in near}
            # A term that stands in for another need not be near it by either figure's limit.
            near += [
                NearWord(TermAround(text, None, 0.0, 0, 0), worth)
                for (said, text), worth in taken.items()
                if said == term and text not in known
            ]
            others = [one for one in near if one.worth is None]
            told.append(
                WordAround(
                    term=term,
                    field=reading.field,
                    reading=plan.numbers[at],
                    holding=holding,
                    near=[one for one in near if one.worth is not None] + others[:_MOST_OTHERS],
                    more=max(0, len(others) - _MOST_OTHERS),
                )
            )
    return told
