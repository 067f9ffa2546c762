"""The chain doctor: classic mistakes in a pair of chains, each with its evidence and, where there is one, a mend.

To add a check: one function in `checks_*.py`, one line in the table below.
"""

from collections.abc import Callable, Sequence
from typing import Final

from pale_harbor.core.consequences.checks_of_grams import (
    grams_cut_on_the_query_side,
    index_growth,
    query_longer_than_the_longest_gram,
    words_shorter_than_the_shortest_gram,
)
from pale_harbor.core.consequences.checks_of_order import (
    case_before_folding,
    changing_nothing,
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
from pale_harbor.core.text import Chain

__all__ = ["AskedQuery", "Finding", "Mend", "findings_of"]

_CHECKS: Final[tuple[Callable[[Examined], list[Finding]], ...]] = (
    query_longer_than_the_longest_gram,
    grams_cut_on_the_query_side,
    queries_left_empty,
    values_left_empty,
    never_meeting,
    case_before_folding,
    lists_after_altering,
    another_language,
    words_shorter_than_the_shortest_gram,
    index_growth,
    changing_nothing,
)


def findings_of(
    record_chain: Chain, query_chain: Chain, asked: Sequence[AskedQuery], gathered: Gathered
) -> list[Finding]:
    """What is likely wrong, gravest first.

    asked: the open query, if there is one, and the judged ones.
    """
    examined = Examined(record_chain, query_chain, tuple(asked), gathered)
    return [finding for check in _CHECKS for finding in check(examined)]
