"""Parts that are one of several kinds, told apart by the keys that are written."""

from collections.abc import Callable, Mapping, Set
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.fields import Has, OneOf, Within
from pale_harbor.core.knobs import declared_knobs
from pale_harbor.core.ranking.rules import Always, FilterBy, Hide, Holding, Lift, LookIn, Matching, Pin, Saying, Weigh
from pale_harbor.core.typing.recipe import FieldPhrases, FieldValues, PastQueries


@dataclass(frozen=True, slots=True)
class OneOfParts:
    """Several kinds of one part. wrong: what to say of keys that are of none or of several."""

    name: str
    kinds: tuple[type, ...]
    wrong: Callable[[Set[str]], str]

    def kind_with(self, keys: Set[str]) -> type | None:
        """The kind that has all of these keys and whose own keys are there; None where that is not one."""
        fitting = [kind for kind in self.kinds if self._fits(kind, keys)]
        return fitting[0] if len(fitting) == 1 else None

    def _fits(self, kind: type, keys: Set[str]) -> bool:
        own = declared_knobs(kind)
        if not keys <= own.keys() or any(one.required and name not in keys for name, one in own.items()):
            return False
        # What every kind has tells nothing.
        shared = set.intersection(*(set(declared_knobs(one)) for one in self.kinds))
        return bool(keys - shared) or not own.keys() - shared


def _wrong_action(keys: Set[str]) -> str:
    done = [name for name in ACTIONS if name in keys]
    if len(done) != 1:
        return f"a rule does one thing: {', '.join(ACTIONS)}."
    if ("by" in keys) != (done[0] in ("lift", "weigh")):
        return '"by" says what is multiplied with: it belongs to "lift" and "weigh", and they need it.'
    return '"spread" belongs to "filter".'


ACTIONS: Final = ("pin", "lift", "hide", "filter", "look_in", "weigh")
CONDITION: Final = OneOfParts(
    "Condition",
    (Saying, Holding, Matching, Always),
    lambda keys: 'a rule looks for one thing: "query", "list" or "pattern".',
)
ACTION: Final = OneOfParts("Action", (Pin, Lift, Hide, FilterBy, LookIn, Weigh), _wrong_action)
FILTER: Final = OneOfParts(
    "Filter",
    (OneOf, Within, Has),
    lambda keys: 'a filter has "one_of", or "low" and "high" (one of them may be missing), or "has".',
)
SUGGESTION_SOURCE: Final = OneOfParts(
    "SuggestionSource",
    (FieldValues, FieldPhrases, PastQueries),
    lambda keys: (
        'suggestions are "values" or "phrases" of a field, or past queries: "asked", so often at least. '
        '"by" belongs to "values", "fewest", "words" and "records" to "phrases".'
    ),
)
_ALL: Final = (CONDITION, ACTION, FILTER, SUGGESTION_SOURCE)


def union_of(kinds: tuple[Any, ...]) -> OneOfParts | None:
    """The union that is of these kinds, in whatever order."""
    return next((one for one in _ALL if set(one.kinds) == set(kinds)), None)


def said_keys(written: Mapping[str, Any]) -> Set[str]:
    """The keys that say something."""
    return {key for key, value in written.items() if value is not None}
