"""Checks of words that are written in another way than they are asked for."""

from collections.abc import Callable
from typing import Final

from pale_harbor.core.consequences.examined import (
    GRAM_STAGES,
    Examined,
    Finding,
    Put,
    examples_in_words,
    stage_call,
    with_argument,
)
from pale_harbor.core.text import Chain
from pale_harbor.core.text.binding import BoundStage
from pale_harbor.core.text.notation import Word, format_notation
from pale_harbor.core.text.stages.accents import bare
from pale_harbor.core.text.stages.sounds import Sounds
from pale_harbor.core.text.stages.word_grams import WordGrams

# Fewer of the commonest words than these shares, as often as they stand there, are exceptions: a share of distinct
# words would be another in a sample.
_SHARE_WITH_CAPITALS: Final = 0.02
_SHARE_WITH_ACCENTS: Final = 0.01


def case_not_folded(examined: Examined) -> list[Finding]:
    """Words with capitals that are not found in small letters."""
    missed = _missed(examined, str.lower, _SHARE_WITH_CAPITALS)
    if not missed:
        return []
    lower = stage_call("lower")
    return [
        Finding(
            "case kept",
            "Nothing makes capitals small: who types small letters does not find words that are written with capitals.",
            (f"Not found in small letters: {examples_in_words(missed)}.",),
            examined.mend("Make them small: lower", Put(lower)),
        )
    ]


def accents_not_folded(examined: Examined) -> list[Finding]:
    """Words with accents that are not found without them."""
    missed = _missed(examined, bare, _SHARE_WITH_ACCENTS)
    if not missed:
        return []
    call = stage_call("accents")
    return [
        Finding(
            "accents kept",
            "Nothing takes accents off: who types none does not find words that are written with them.",
            (f"Not found without accents: {examples_in_words(missed)}.",),
            examined.mend("Take them off: accents", Put(call, before=(*GRAM_STAGES, Sounds, WordGrams))),
        )
    ]


def _missed(examined: Examined, typed: Callable[[str], str], share: float) -> list[str]:
    """Words that are found as they are written, and not as they may be typed; none where they are too few."""
    counts = examined.gathered.surfaces
    tried, times, missed = 0, 0, list[str]()
    for word in examined.words:
        terms = set(examined.record_chain.terms(word))
        if not terms or terms.isdisjoint(examined.query_chain.terms(word)):
            continue
        tried += counts[word]
        other = typed(word)
        if other != word and terms.isdisjoint(examined.query_chain.terms(other)):
            missed.append(word)
            times += counts[word]
    # Near its limit a sample might say what is withdrawn once all is read.
    limit = share * (2 if examined.gathered.consequences.is_sample else 1)
    return missed if times >= limit * tried else []


def pairs_against_single_words(examined: Examined) -> list[Finding]:
    """Words that are kept only as pairs, so that one word by itself is never met."""
    record, query = _only_joined(examined.record_chain), _only_joined(examined.query_chain)
    joining = record or query
    if joining is None:
        return []
    call = with_argument(joining, "single", Word("yes"))
    if record is not None and query is not None:
        said = f"{joining.call} keeps words only joined to their neighbours: a query of one word finds nothing."
    elif record is not None:
        said = f"{joining.call} keeps the record's words only joined to their neighbours; the query's are single."
    else:
        said = f"{joining.call} joins the query's words to their neighbours; the record's are single, and none meets."
    word = next(iter(examined.words), "")
    in_records = examples_in_words(examined.record_chain.terms(word)) or "nothing"
    in_queries = examples_in_words(examined.query_chain.terms(word)) or "nothing"

    def with_single(chain: Chain) -> str:
        return format_notation(tuple(call if one == joining.call else one for one in chain.calls))

    return [
        Finding(
            "pairs alone",
            said,
            (f"Of “{word}” by itself there is {in_records} in records, {in_queries} in queries.",),
            examined.mend(f"Keep single words too: {call}", with_single),
        )
    ]


def _only_joined(chain: Chain) -> BoundStage | None:
    """The stage that leaves no word by itself, if there is one."""
    return next((one for one in chain.stages if isinstance(one.stage, WordGrams) and not one.stage.single), None)
