"""A ranker as the holder of a key meets it: it reads, completes and corrects by nothing that they may not see."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pale_harbor.core.fields import Filter
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.ranker import PLAIN_BLEND
from pale_harbor.core.typing.recipe import Completions, FieldPhrases, FieldValues, PastQueries, SuggestionSource
from pale_harbor.errors import BadInput


@dataclass(frozen=True, slots=True, kw_only=True)
class Audience:
    """shown: fields that answers may hold, in the collection's order, and that may be filtered, counted and sorted by.
    searched: fields that words are looked for in. filters: what every record has to pass."""

    shown: tuple[str, ...]
    searched: tuple[str, ...]
    filters: tuple[Filter, ...] = ()

    @property
    def named(self) -> tuple[str, ...]:
        """Fields that a query may name, as in `title:lamp`: whatever may be searched and seen."""
        return tuple(name for name in self.shown if name in self.searched)

    def values(self, field_values: Mapping[str, Any]) -> dict[str, Any]:
        """Of a record's values those that may be seen.

        >>> Audience(shown=("title",), searched=("title",)).values({"title": "Lamp", "price": 12})
        {'title': 'Lamp'}
        """
        return {name: field_values[name] for name in self.shown if name in field_values}


def audience_of(
    fields: Sequence[str],
    shown: Sequence[str] | None,
    searched: Sequence[str] | None,
    filters: Sequence[Filter] = (),
) -> Audience:
    """Who may see what. fields: of the collection; shown: all where it is None; searched: as shown where it is None.

    Fields that the collection does not have any more are seen by nobody.
    """
    seen = tuple(name for name in fields if shown is None or name in shown)
    wanted = seen if searched is None else tuple(name for name in fields if name in searched)
    return Audience(shown=seen, searched=wanted, filters=tuple(filters))


def ranker_for(
    ranker: Ranker,
    audience: Audience,
    suggestions: Completions,
    covered: Mapping[str, Sequence[str]],
) -> Ranker:
    """The ranker without whatever would tell of fields that the audience may not search or see.

    suggestions: its completions, with the usual sources written out. covered: the fields of which each space is made,
    by its name: of brought vectors none, since nobody can tell, so that these are asked in any case. The order follows
    the ranker's signals, whatever fields these are of. Raises BadInput where nothing is left to search.
    """
    readings = tuple(one for one in ranker.readings if one.field in audience.searched)
    if not readings:
        read = ", ".join(dict.fromkeys(one.field for one in ranker.readings))
        raise BadInput(
            f"The ranker reads {read}, and this key searches none of it. Name a ranker that reads what the key may "
            "search."
        )
    spaces = tuple(use for use in ranker.spaces if _may_ask(use.space, audience, covered))
    second = ranker.second_stage
    if second is not None and not _may_ask(second.space, audience, covered):
        second = None
    sources = tuple(one for one in suggestions.sources if _may_suggest(one, audience))
    completions = replace(suggestions, sources=sources or (PastQueries(asked=1),))
    if completions.language not in (None, *audience.shown):
        completions = replace(completions, language=None)
    return replace(
        ranker,
        readings=readings,
        filters=(*ranker.filters, *audience.filters),
        spaces=spaces,
        blend=ranker.blend if spaces else PLAIN_BLEND,
        kinds=ranker.kinds if spaces else (),
        second_stage=second,
        completions=completions,
    )


def _may_ask(space: str, audience: Audience, covered: Mapping[str, Sequence[str]]) -> bool:
    own = covered.get(space)
    return own is not None and all(name in audience.searched for name in own)


def _may_suggest(source: SuggestionSource, audience: Audience) -> bool:
    """Whether a source holds nothing but what may be seen and searched. Past queries are what visitors said."""
    match source:
        case FieldValues(values=name) | FieldPhrases(phrases=name):
            return name in audience.named
        case PastQueries():
            return True
