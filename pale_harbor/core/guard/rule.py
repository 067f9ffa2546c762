"""Guard rules, one a line, in words that a person reads:

    ndcg@10 may not drop more than 0.01       of the mean
    tag:code rr >= 0.95                       of the queries with that tag
    each query ndcg@10 may not drop more than 0.3
    each query tag:code success@3 > 0
    letters@10 may not rise more than 0.2     letters until found, of which fewer are better
    expectations hold

A measure, a bound, and before them which queries are meant. Words count whatever their capitals.
"""

import re
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from pale_harbor.core.measures import Measure, measure
from pale_harbor.errors import BadInput


class Bound(StrEnum):
    """What is asked of a value."""

    DROP = "may not drop more than"
    RISE = "may not rise more than"
    AT_LEAST = ">="
    ABOVE = ">"
    AT_MOST = "<="
    BELOW = "<"


@dataclass(frozen=True, slots=True)
class GuardRule:
    """text: as it was written. measure: None where expectations have to hold, and for letters until found. tag: of
    queries, None: all; each: every query by itself instead of the mean; limit: of the bound; letters: so far down a
    record counts as found, None where the rule is of something else."""

    text: str
    measure: Measure | None
    bound: Bound = Bound.DROP
    limit: float = 0.0
    tag: str | None = None
    each: bool = False
    letters: int | None = None

    @property
    def needs_before(self) -> bool:
        """Whether it compares with another ranker."""
        return self.bound is Bound.RISE or (self.measure is not None and self.bound is Bound.DROP)


_RULE: Final = re.compile(
    r"""(?P<each>each\s+query\s+)?
        (?:tag:(?:"(?P<quoted>[^"]+)"|(?P<tag>\S+))\s+)?
        (?P<measure>[a-z_]+(?:@\d+)?)\s*
        (?:(?P<drop>may\s+not\s+drop)(?:\s+more\s+than\s+(?P<most>\d*\.?\d+))?
          |(?P<rise>may\s+not\s+rise)(?:\s+more\s+than\s+(?P<rising>\d*\.?\d+))?
          |(?P<sign>>=|<=|>|<)\s*(?P<limit>-?\d*\.?\d+))""",
    re.VERBOSE | re.IGNORECASE,
)
LETTERS: Final = "letters"
DEEPEST_LETTERS: Final = 100
_COMMENT: Final = re.compile(r"(^|\s)#.*")
_EXPECTATIONS: Final = re.compile(r"expectations\s+hold", re.IGNORECASE)


def guard_rule(text: str) -> GuardRule:
    """The rule that is written so. Raises BadInput.

    >>> guard_rule("tag:code rr >= 0.95").limit
    0.95
    """
    said = text.strip()
    if _EXPECTATIONS.fullmatch(said):
        return GuardRule(said, None)
    found = _RULE.fullmatch(said)
    if found is None:
        raise BadInput(
            f'"{said[:200]}" is no rule. Rules read like "ndcg@10 may not drop more than 0.01", "tag:code rr >= 0.95", '
            '"each query ndcg@10 may not drop more than 0.3" or "expectations hold".'
        )
    tag = found["quoted"] or found["tag"]
    name, _, depth = found["measure"].lower().partition("@")
    if name == LETTERS:
        return _letters_rule(said, found, int(depth or 10), tag)
    if found["rise"]:
        raise BadInput(f'"{said[:200]}" is no rule: more of {found["measure"]} is better, so it "may not drop".')
    wanted = measure(found["measure"].lower())
    if found["drop"]:
        return GuardRule(said, wanted, Bound.DROP, float(found["most"] or 0), tag, bool(found["each"]))
    return GuardRule(said, wanted, Bound(found["sign"]), float(found["limit"]), tag, bool(found["each"]))


def lines_of_rules(text: str) -> list[str]:
    """The lines of a file of rules; empty ones and what follows a # of its own are passed over.

    >>> lines_of_rules("# of every night\\nrr > 0.5\\n")
    ['rr > 0.5']
    """
    return [said for line in text.splitlines() if (said := _COMMENT.sub("", line).strip())]


def _letters_rule(said: str, found: re.Match[str], first: int, tag: str | None) -> GuardRule:
    if found["drop"]:
        raise BadInput(f'"{said[:200]}" is no rule: fewer letters are better, so they "may not rise".')
    if not 1 <= first <= DEEPEST_LETTERS:
        raise BadInput(f'"{said[:200]}" is no rule: a record counts as found among the first 1 to {DEEPEST_LETTERS}.')
    each = bool(found["each"])
    if found["rise"]:
        return GuardRule(said, None, Bound.RISE, float(found["rising"] or 0), tag, each, first)
    return GuardRule(said, None, Bound(found["sign"]), float(found["limit"]), tag, each, first)


def rules_in(text: str) -> list[GuardRule]:
    """The rules of a file: one a line; empty lines and what follows a # of its own are passed over.

    Raises BadInput, line by line.

    >>> [rule.text for rule in rules_in("# of every night\\nrr > 0.5\\n")]
    ['rr > 0.5']
    """
    rules: list[GuardRule] = []
    problems: list[tuple[str, str]] = []
    for number, line in enumerate(text.splitlines(), start=1):
        said = _COMMENT.sub("", line).strip()
        if said:
            try:
                rules.append(guard_rule(said))
            except BadInput as error:
                problems.append((f"line {number}", str(error)))
    if problems:
        raise BadInput("These rules cannot be read.", problems)
    return rules
