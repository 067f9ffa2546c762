"""Options that say how figures are made, for every command that measures."""

from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.core.measures import MeasureRules, Ties, Unjudged, WithoutRelevant

if TYPE_CHECKING:
    from pale_harbor.work.measuring.measuring import How

TiesRule = Annotated[Ties, typer.Option("--ties", help="How records of equal score stand.")]
UnjudgedRule = Annotated[Unjudged, typer.Option("--unjudged", help="Unjudged records off topic, or left out.")]
WithoutRelevantRule = Annotated[
    WithoutRelevant, typer.Option("--without-relevant", help="What a query without a relevant record counts.")
]
Weighted = Annotated[bool, typer.Option("--weighted", help="A query counts as often as it was asked.")]
Locked = Annotated[bool, typer.Option("--locked", help="Open the locked queries, which the diary notes.")]
Bands = Annotated[bool, typer.Option("--bands", help="Worst and best once the unjudged are judged.")]


def how_of(
    ties: Ties, unjudged: Unjudged, without_relevant: WithoutRelevant, weighted: bool, locked: bool, bands: bool
) -> "How":
    """How figures are made, from the options."""
    from pale_harbor.work.measuring.judged import Part
    from pale_harbor.work.measuring.measuring import How

    rules = MeasureRules(ties, unjudged, without_relevant)
    return How(rules, weighted, Part.LOCKED if locked else Part.OPEN, bands)
