"""A made-up visitor of known taste: what they click of a list, by the model that clicks are read by (`clicks.py`)."""

from collections.abc import Sequence
from dataclasses import dataclass
from random import Random
from typing import Final


@dataclass(frozen=True, slots=True)
class Taste:
    """attract, satisfy: by grade, from 0 on, how likely a row is clicked once it is read, and ends the search once it
    is clicked; patience: how likely somebody who is not satisfied reads one row more."""

    attract: tuple[float, ...] = (0.05, 0.2, 0.5, 0.8)
    satisfy: tuple[float, ...] = (0.02, 0.1, 0.4, 0.8)
    patience: float = 0.9


USUAL_TASTE: Final = Taste()


@dataclass(frozen=True, slots=True)
class Clicks:
    """places: of the rows that were clicked, from 0, in order; is_satisfied: whether the last one ended the search."""

    places: list[int]
    is_satisfied: bool


def clicks_on(grades: Sequence[int], taste: Taste, random: Random) -> Clicks:
    """What somebody clicks of a list whose rows are this good for what they want.

    >>> sure = Taste(attract=(0.0, 1.0), satisfy=(0.0, 1.0), patience=1.0)
    >>> clicks_on([0, 0, 1, 1], sure, Random(1))
    Clicks(places=[2], is_satisfied=True)
    """
    places: list[int] = []
    for place, grade in enumerate(grades):
        if place > 0 and random.random() >= taste.patience:
            break
        if random.random() >= taste.attract[grade]:
            continue
        places.append(place)
        if random.random() < taste.satisfy[grade]:
            return Clicks(places, is_satisfied=True)
    return Clicks(places, is_satisfied=False)
