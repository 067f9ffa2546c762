"""Checks of words that are lost, or that never meet."""

from dataclasses import replace
from typing import Final, cast

from pale_harbor.core.consequences.examined import (
    READING_LISTS,
    AnyGrams,
    AskedQuery,
    Examined,
    Finding,
    Mend,
    Without,
    examples_in_words,
    gram_stage,
    query_in_quotes,
    token_stages,
)
from pale_harbor.core.consequences.gathering import LANGUAGES_LOOKED_FOR
from pale_harbor.core.text import Chain
from pale_harbor.core.text.binding import BoundStage
from pale_harbor.core.text.kinds import Language, StageKind
from pale_harbor.core.text.notation import Argument, StageCall, Word, format_notation
from pale_harbor.core.text.stages.stem import Stem
from pale_harbor.core.text.stages.stopwords import StopWords

# Fewer words than this share are exceptions, not a mistake.
_SHARE_THAT_MATTERS: Final = 0.02
_LANGUAGE_SHARE: Final = 0.6
_MIXED_SHARE: Final = 0.15
_FEWEST_TOLD: Final = 5
# Where the language of fewer values than this share can be told, those that can are no ordinary ones.
_SHARE_TOLD: Final = 0.1


def queries_left_empty(examined: Examined) -> list[Finding]:
    """A query of which the chain leaves nothing to look for."""
    by_stage: dict[StageCall, list[AskedQuery]] = {}
    for asked, terms in examined.query_terms:
        if not terms and any(map(str.isalnum, asked.query)):
            emptying = _emptying_stage(examined.query_chain, asked.query)
            if emptying is not None:
                by_stage.setdefault(emptying.call, []).append(asked)
    return [
        Finding(
            "empty queries",
            f"{call} leaves nothing of {'a query' if len(emptied) == 1 else f'{len(emptied):,} queries'}: "
            "nothing is found by it.",
            (listed_queries(emptied),),
            _taken_out(examined, call),
        )
        for call, emptied in by_stage.items()
    ]


def listed_queries(emptied: list[AskedQuery]) -> str:
    """Queries as a finding names them: their ids, or the open query itself."""
    shown = ", ".join(query_in_quotes(asked) for asked in emptied[:6])
    return f"{shown}." if len(emptied) <= 6 else f"{shown} and {len(emptied) - 6:,} more."


def values_left_empty(examined: Examined) -> list[Finding]:
    """Values that have letters, and of which the record chain leaves no token."""
    figures = examined.gathered.consequences
    if not figures.empty_values:
        return []
    by_stage: dict[StageCall, list[str]] = {}
    for key, text in figures.empty_values:
        emptying = _emptying_stage(examined.record_chain, text)
        if emptying is not None:
            by_stage.setdefault(emptying.call, []).append(f"{text[:60]} ({key})")
    return [
        Finding(
            "empty values",
            f"{call} leaves nothing of {figures.empty_count:,} "
            f"{'value: it is' if figures.empty_count == 1 else 'values: they are'} not found by this reading.",
            (f"{examples_in_words(values, 4)}.",),
            examined.mend(f"Take {call} out", Without(call)) if _may_go(examined.record_chain, call) else None,
        )
        for call, values in by_stage.items()
    ]


def never_meeting(examined: Examined) -> list[Finding]:
    """Words of the collection that a query for the very same word would not find."""
    if examined.same:
        return []
    words = examined.words
    cutting = gram_stage(examined.record_chain)
    if cutting is not None:
        # What is too long or too short for the pieces has a finding of its own.
        lengths = cast(AnyGrams, cutting.stage)
        words = [word for word in words if lengths.min <= len(word) <= lengths.max]
    counts = examined.gathered.surfaces
    tried, times, missed = 0, 0, list[tuple[str, list[str], list[str]]]()
    for word in words:
        record_terms, query_terms = examined.record_chain.terms(word), examined.query_chain.terms(word)
        if record_terms and query_terms:
            tried += counts[word]
            if not set(record_terms) & set(query_terms):
                missed.append((word, record_terms, query_terms))
                times += counts[word]
    # A sample shows what is plain; what is near the limit might be withdrawn once all is read.
    limit = _SHARE_THAT_MATTERS * (3 if examined.gathered.consequences.is_sample else 1)
    if not missed or times < limit * tried:
        return []
    examples = [f"{word}: “{record[0]}” in records, “{query[0]}” in queries" for word, record, query in missed[:3]]
    share = 100 * times / tried
    how_many = "every one" if times == tried else f"{share:.0f} %"
    return [
        Finding(
            "never meeting",
            f"The two chains do not agree: {how_many} of {tried:,} words in the texts cannot be found by the "
            "very same word.",
            tuple(f"{example}." for example in examples),
            Mend("Read queries as records are read", query_chain=_reading_alike(examined, cutting)),
        )
    ]


def _reading_alike(examined: Examined, cutting: BoundStage | None) -> str:
    """The record chain for queries, which are not cut into pieces; word lists that only queries read stay with them."""
    calls = [
        call
        for call in examined.record_chain.calls
        if cutting is None or cutting.kind is not StageKind.TOKEN or call != cutting.call
    ]
    own = [
        bound.call
        for bound in token_stages(examined.query_chain)
        if isinstance(bound.stage, READING_LISTS) and bound.call not in calls
    ]
    names = ("stem", "sounds", "grams", "prefixes", "reverse", "accents")
    at = next((i for i, call in enumerate(calls) if i > 0 and call.name in names), len(calls))
    return format_notation((*calls[:at], *own, *calls[at:]))


def another_language(examined: Examined) -> list[Finding]:
    """Stop words or a stemmer of a language that the texts are not in; once all is read, since shares of a sample may
    be withdrawn."""
    told = examined.gathered.languages
    figures = examined.gathered.consequences
    total = sum(told.values())
    if figures.is_sample or total < max(_FEWEST_TOLD, _SHARE_TOLD * min(figures.values, LANGUAGES_LOOKED_FOR)):
        return []
    main = max(told, key=lambda language: (told[language], language))
    by_count = sorted(told.items(), key=lambda one: (-one[1], one[0]))[:4]
    shares = ", ".join(f"{language} {100 * count / total:.0f} %" for language, count in by_count)
    evidence = f"Of {total:,} values whose language can be told: {shares}."
    made_for: dict[str, list[BoundStage]] = {}
    for bound in token_stages(examined.record_chain):
        language = _language_of_stage(bound)
        if language is not None:
            made_for.setdefault(language, []).append(bound)
    findings: list[Finding] = []
    for language, stages in made_for.items():
        named = " and ".join(str(bound.call) for bound in stages)
        if main != language and told[main] >= _LANGUAGE_SHARE * total:
            sentence = (
                f"{named} {'is' if len(stages) == 1 else 'are'} made for {language}, and the texts are in {main}."
            )
            findings.append(Finding("another language", sentence, (evidence,), _in_language(examined, stages, main)))
        elif told.get(language, 0) <= (1 - _MIXED_SHARE) * total:
            sentence = f"{named} {'reads' if len(stages) == 1 else 'read'} every record, and not all are in {language}."
            advice = "A reading may choose its chain for each record by a field with its language."
            findings.append(Finding("several languages", sentence, (evidence, advice)))
    return findings


def _language_of_stage(bound: BoundStage) -> str | None:
    if isinstance(bound.stage, Stem):
        return bound.stage.language.value
    if isinstance(bound.stage, StopWords) and isinstance(bound.stage.words, Language):
        return bound.stage.words.value
    return None


def _in_language(examined: Examined, stages: list[BoundStage], language: str) -> Mend | None:
    if language not in {known.value for known in Language}:
        return None

    def change(chain: Chain) -> str:
        calls = list(chain.calls)
        for bound in stages:
            call = replace(bound.call, arguments=(Argument(None, Word(language), bound.call.place),))
            calls = [call if one == bound.call else one for one in calls]
        return format_notation(tuple(calls))

    return examined.mend(f"Read it as {language}", change)


def _emptying_stage(chain: Chain, text: str) -> BoundStage | None:
    """The token stage after which nothing is left; None where the tokenizer cut nothing: see `finding_nothing`."""
    traces = chain.trace(text)
    for bound, before, after in zip(chain.stages[1:], traces, traces[1:], strict=False):
        if bound.kind is StageKind.TOKEN and before.tokens and not after.tokens:
            return bound
    return None


def _may_go(chain: Chain, call: StageCall) -> bool:
    return any(bound.call == call for bound in token_stages(chain))


def _taken_out(examined: Examined, call: StageCall) -> Mend:
    """The stage taken out of the query chain; of the record chain too, where one chain reads both."""
    if examined.same:
        return Mend(f"Take {call} out", record_chain=Without(call)(examined.record_chain))
    return Mend(f"Take {call} out of the query chain", query_chain=Without(call)(examined.query_chain))
