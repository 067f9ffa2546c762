"""The chain doctor: classic mistakes in a pair of chains, each with its evidence and, where one does no harm, a mend.

To add a check: one function in `checks_*.py`, one line in the table below, one in docs/chains.md.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Final

from pale_harbor.core.consequences.checks_of_cutting import (
    digits_left_out,
    elided_words,
    finding_nothing,
    markup_left_in,
    punctuation_on_words,
    scripts_without_blanks,
    whole_on_prose,
)
from pale_harbor.core.consequences.checks_of_grams import (
    grams_cut_on_the_query_side,
    index_growth,
    query_longer_than_the_longest_gram,
    words_shorter_than_the_shortest_gram,
)
from pale_harbor.core.consequences.checks_of_meeting import (
    accents_not_folded,
    case_not_folded,
    pairs_against_single_words,
)
from pale_harbor.core.consequences.checks_of_order import (
    accents_too_early,
    case_before_folding,
    changing_nothing,
    entries_cut_apart,
    limit_before_dropping,
    lists_after_altering,
)
from pale_harbor.core.consequences.checks_of_words import (
    another_language,
    never_meeting,
    queries_left_empty,
    values_left_empty,
)
from pale_harbor.core.consequences.examined import AskedQuery, Examined, Finding, Mend
from pale_harbor.core.consequences.figures import Gathered
from pale_harbor.core.consequences.trying import Trial, TrialRecords
from pale_harbor.core.text import Chain
from pale_harbor.core.text.errors import ChainError

__all__ = ["AskedQuery", "Finding", "Mend", "TrialRecords", "findings_of"]

_CHECKS: Final[tuple[Callable[[Examined], list[Finding]], ...]] = (
    finding_nothing,
    whole_on_prose,
    query_longer_than_the_longest_gram,
    grams_cut_on_the_query_side,
    pairs_against_single_words,
    queries_left_empty,
    values_left_empty,
    limit_before_dropping,
    never_meeting,
    case_before_folding,
    case_not_folded,
    accents_not_folded,
    accents_too_early,
    entries_cut_apart,
    lists_after_altering,
    punctuation_on_words,
    digits_left_out,
    scripts_without_blanks,
    elided_words,
    markup_left_in,
    another_language,
    words_shorter_than_the_shortest_gram,
    index_growth,
    changing_nothing,
)


def findings_of(
    chains: tuple[Chain, Chain],
    asked: Sequence[AskedQuery],
    gathered: Gathered,
    tried_on: TrialRecords,
    chain_from: Callable[[str], Chain],
) -> list[Finding]:
    """What is likely wrong with a record chain and a query chain, gravest first.

    asked: the open query, if there is one, and the judged ones; tried_on: records of the collection, on which every
    mend is tried; chain_from: makes a chain of a mend's notation.
    """
    record_chain, query_chain = chains
    examined = Examined(record_chain, query_chain, tuple(asked), gathered, tried_on.texts)
    found = [finding for check in _CHECKS for finding in check(examined)]
    if any(finding.name == "case" for finding in found):
        # One mend for one mistake: a stage that knows small letters is the nearer reason.
        found = [finding for finding in found if finding.name != "case kept"]
    trial = Trial(tried_on, asked)
    return [_with_tried_mend(finding, examined, trial, chain_from) for finding in found]


def _with_tried_mend(finding: Finding, examined: Examined, trial: Trial, chain_from: Callable[[str], Chain]) -> Finding:
    """A finding with what its mend would do; without the mend, and told why, where it would do harm."""
    mend = finding.mend
    if mend is None:
        return finding
    if mend.record_chain is None and mend.query_chain is None:
        return replace(finding, mend=None)
    try:
        record = examined.record_chain if mend.record_chain is None else chain_from(mend.record_chain)
        if mend.query_chain is not None:
            query = chain_from(mend.query_chain)
        else:
            query = record if examined.same else examined.query_chain
        outcome = trial.outcome((examined.record_chain, examined.query_chain), (record, query))
    except ChainError:
        # Chains that cannot be made, or that are stopped on these texts, mend nothing.
        return replace(finding, mend=None)
    if outcome.does_harm:
        said = f"Not offered, since it does harm: {mend.label}. {outcome.sentence}"
        return replace(finding, mend=None, evidence=(*finding.evidence, said))
    return replace(finding, mend=replace(mend, would=outcome.sentence))
