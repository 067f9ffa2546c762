"""The chain doctor: classic mistakes in a pair of chains, each with its evidence and, where there is one, a mend.

To add a check: one function in `checks_*.py`, one line in the table below.
"""

from collections.abc import Callable, Sequence
from typing import Final

from pale_harbor.core.consequences import checks_of_grams, checks_of_order, checks_of_words
from pale_harbor.core.consequences.examined import Asked, Examined, Finding, Mend
from pale_harbor.core.consequences.figures import Consequences
from pale_harbor.core.text import Chain

__all__ = ["Asked", "Finding", "Mend", "findings_of"]

_CHECKS: Final[tuple[Callable[[Examined], list[Finding]], ...]] = (
    checks_of_grams.query_longer_than_the_longest_gram,
    checks_of_grams.grams_cut_on_the_query_side,
    checks_of_words.queries_left_empty,
    checks_of_words.values_left_empty,
    checks_of_words.never_meeting,
    checks_of_order.case_before_folding,
    checks_of_order.lists_after_altering,
    checks_of_words.another_language,
    checks_of_grams.words_shorter_than_the_shortest_gram,
    checks_of_grams.index_growth,
    checks_of_order.changing_nothing,
)


def findings_of(
    record_chain: Chain, query_chain: Chain, asked: Sequence[Asked], consequences: Consequences
) -> list[Finding]:
    """What is likely wrong, gravest first.

    asked: the open query, if there is one, and the judged ones.
    """
    examined = Examined(record_chain, query_chain, tuple(asked), consequences)
    return [finding for check in _CHECKS for finding in check(examined)]
