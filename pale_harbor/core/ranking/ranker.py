"""A ranker: the recipe from a query to a ranked list."""

from dataclasses import dataclass

from pale_harbor.core.text.chain_choice import ChainChoice


@dataclass(frozen=True, slots=True)
class Reading:
    """One field read through a chain, and how much its matches weigh.

    weight: 0 or more, 0 switches the reading off; k1: 0 or more, how long more occurrences go on
    adding; b: 0 to 1, how much longer values are held back.
    """

    field: str
    chain: ChainChoice
    query_chain: ChainChoice
    weight: float = 1.0
    k1: float = 1.2
    b: float = 0.75


@dataclass(frozen=True, slots=True)
class FieldOrder:
    """A field that settles the order of equal scores; records without a value come last."""

    field: str
    descending: bool = False


@dataclass(frozen=True, slots=True)
class Ranker:
    """Readings whose weighted scores are summed; equal scores go by `equals_by`, then by key."""

    readings: tuple[Reading, ...]
    equals_by: tuple[FieldOrder, ...] = ()
