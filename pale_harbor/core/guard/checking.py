"""Whether guard rules hold, and which queries broke them."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.guard.rule import Bound, GuardRule
from pale_harbor.core.measures.measured import weighted_mean
from pale_harbor.errors import BadInput

# Differences beyond are how numbers are held, not what was measured.
_DECIMALS: Final = 9


@dataclass(frozen=True, slots=True)
class QueryChange:
    """A query by one measure. before: None where nothing is compared."""

    query_id: str
    before: float | None
    after: float


@dataclass(frozen=True, slots=True)
class Checked:
    """A rule checked. said: what was found, in a sentence; queries: those that broke it, the worst first; of a mean
    those that pull it down most."""

    rule: GuardRule
    holds: bool
    said: str
    queries: list[QueryChange]


def check(
    rule: GuardRule,
    after: Mapping[str, float],
    before: Mapping[str, float] | None,
    tags: Mapping[str, Sequence[str]],
    weights: Mapping[str, float] | None = None,
) -> Checked:
    """Whether a rule about a measure holds. after, before: its value by query; tags, weights: by query.

    Raises BadInput where no query has the rule's tag, or where there is nothing to compare with.
    """
    if rule.needs_before and before is None:
        raise BadInput(f'"{rule.text}" compares: say with which ranker (--against).')
    own = [query for query in after if rule.tag is None or rule.tag in tags.get(query, ())]
    if not own:
        known = sorted({tag for some in tags.values() for tag in some})
        hint = f" There are: {', '.join(known)}." if known else ""
        wanted = "no query" if rule.tag is None else f'no query with the tag "{rule.tag}"'
        raise BadInput(f'"{rule.text}" cannot be checked: {wanted} is measured.{hint}')
    changes = [QueryChange(query, None if before is None else before.get(query, 0.0), after[query]) for query in own]
    if rule.each:
        broken = sorted((one for one in changes if not _holds(rule, one.before, one.after)), key=_badness(rule))
        counted = f"{len(broken)} of {len(own)} queries"
        return Checked(rule, not broken, "every query" if not broken else counted, broken)
    mean = weighted_mean({one.query_id: one.after for one in changes}, weights)
    old = None if before is None else weighted_mean({one.query_id: one.before or 0.0 for one in changes}, weights)
    holds = _holds(rule, old, mean)
    said = f"{mean:.4f}" if old is None else f"{old:.4f} to {mean:.4f}"
    pulling = [one for one in changes if _pulls(rule, one)] if not holds else []
    return Checked(rule, holds, said, sorted(pulling, key=_badness(rule)))


def _pulls(rule: GuardRule, one: QueryChange) -> bool:
    if rule.bound is Bound.DROP:
        return one.before is not None and one.after < one.before
    if rule.bound is Bound.RISE:
        return one.before is not None and one.after > one.before
    return not _holds(rule, one.before, one.after)


def _holds(rule: GuardRule, before: float | None, after: float) -> bool:
    value, limit = round(after, _DECIMALS), round(rule.limit, _DECIMALS)
    match rule.bound:
        case Bound.DROP:
            return round((before or 0.0) - after, _DECIMALS) <= limit
        case Bound.RISE:
            return round(after - (before or 0.0), _DECIMALS) <= limit
        case Bound.AT_LEAST:
            return value >= limit
        case Bound.ABOVE:
            return value > limit
        case Bound.AT_MOST:
            return value <= limit
        case Bound.BELOW:
            return value < limit


def _badness(rule: GuardRule) -> Callable[[QueryChange], tuple[float, str]]:
    """The worst first; equal ones by query."""
    if rule.bound is Bound.DROP:
        return lambda one: (one.after - (one.before or 0.0), one.query_id)
    if rule.bound is Bound.RISE:
        return lambda one: ((one.before or 0.0) - one.after, one.query_id)
    if rule.bound in (Bound.AT_MOST, Bound.BELOW):
        return lambda one: (-one.after, one.query_id)
    return lambda one: (one.after, one.query_id)
