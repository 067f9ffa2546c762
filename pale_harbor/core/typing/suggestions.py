"""Suggestions of several sources brought together: how popular each is, and which are only another form of one."""

from collections.abc import Callable, Hashable, Iterable, Sequence, Set
from dataclasses import dataclass
from math import log
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.typing.letters import BLANK, whole_letters_of

# Of letters as they are compared. What is longer is a text and no suggestion.
LONGEST_SUGGESTION: Final = 120


@dataclass(frozen=True, slots=True)
class Offered:
    """What a source offers. weight: how often it was asked or held, or what a field of numbers says."""

    text: str
    weight: float
    language: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Suggestions:
    """Suggestions in the order of their languages and letters.

    texts, letters, languages: by number; weights: float64 (suggestions,), as their strongest source says; popular:
    float64 (suggestions,), above 0 to 1; sources: uint16 (suggestions,), a bit for each source that offers it; groups:
    int32 (suggestions,), the same for those of which one is shown. too_long, withheld: how many were left out.
    """

    texts: list[str]
    letters: list[str]
    languages: list[str]
    weights: NDArray[np.float64]
    popular: NDArray[np.float64]
    sources: NDArray[np.uint16]
    groups: NDArray[np.int32]
    too_long: int
    withheld: int

    def __len__(self) -> int:
        return len(self.texts)


@dataclass(slots=True)
class _Known:
    """What is known of one suggestion while sources are read. weights: by source."""

    text: str
    text_weight: float
    weights: dict[int, float]


def suggestions_of(
    sources: Sequence[tuple[float, Iterable[Offered]]],
    read_alike: Callable[[Sequence[str], Sequence[str]], Sequence[Hashable]] | None = None,
    withheld: Set[str] = frozenset(),
) -> Suggestions:
    """The suggestions of several sources, each with what its popularity is worth.

    What has the same letters is one suggestion, shown as it was offered with the greatest weight. Its popularity is
    the greatest of `worth · log(2 + weight) / log(2 + greatest weight)` of its sources.

    read_alike: what a ranker reads of texts in their languages, the same for mere inflections: the most popular of them
    has the weight of all, and stands for all. withheld: words, or words in a row, that none may hold.

    >>> found = suggestions_of([(1.0, [Offered("Fog bell", 3), Offered("fog-bell", 1), Offered("foghorn", 8)])])
    >>> found.texts, found.weights.tolist(), found.popular.round(3).tolist()
    (['Fog bell', 'foghorn'], [4.0, 8.0], [0.778, 1.0])
    """
    known: dict[tuple[str, str], _Known] = {}
    too_long = 0
    for number, (_, offered) in enumerate(sources):
        for one in offered:
            letters = whole_letters_of(one.text)
            if not letters:
                continue
            if len(letters) > LONGEST_SUGGESTION:
                too_long += 1
                continue
            weight = max(0.0, one.weight)
            key = (one.language, letters)
            before = known.get(key)
            if before is None:
                known[key] = _Known(one.text, weight, {number: weight})
            else:
                before.weights[number] = before.weights.get(number, 0.0) + weight
                if (-weight, one.text) < (-before.text_weight, before.text):
                    before.text, before.text_weight = one.text, weight
    hidden = _withheld(known, withheld)
    kept = sorted(known.keys() - hidden)
    own = [known[key] for key in kept]
    greatest = [max((one.weights.get(number, 0.0) for one in own), default=0.0) for number in range(len(sources))]

    def popular_of(weights: dict[int, float]) -> float:
        return max(
            sources[number][0] * log(2 + weight) / log(2 + max(weight, greatest[number]))
            for number, weight in weights.items()
        )

    popular = np.array([popular_of(one.weights) for one in own], np.float64)
    weights = np.array([max(one.weights.values()) for one in own], np.float64)
    groups = np.arange(len(own), dtype=np.int32)
    if read_alike is not None and own:
        read = read_alike([one.text for one in own], [language for language, _ in kept])
        members: dict[Hashable, list[int]] = {}
        for number, (key, words) in enumerate(zip(kept, read, strict=True)):
            # What nothing is read of is like nothing else.
            members.setdefault((key[0], words) if words else (key[0], None, number), []).append(number)
        for numbers in members.values():
            if len(numbers) == 1:
                continue
            groups[numbers] = numbers[0]
            best = min(numbers, key=lambda one: (-popular[one], len(kept[one][1]), one))
            together: dict[int, float] = {}
            for number in numbers:
                for source, weight in own[number].weights.items():
                    together[source] = together.get(source, 0.0) + weight
            popular[best] = min(1.0, popular_of(together))
            weights[best] = max(together.values())
    # The same words in two languages are shown once.
    first_of: dict[str, int] = {}
    for number, (_, letters) in enumerate(kept):
        first = first_of.setdefault(letters, number)
        if first != number:
            groups[number] = groups[first]
    return Suggestions(
        texts=[one.text for one in own],
        letters=[letters for _, letters in kept],
        languages=[language for language, _ in kept],
        weights=weights,
        popular=popular,
        sources=np.array([sum(1 << number for number in one.weights) for one in own], np.uint16),
        groups=groups,
        too_long=too_long,
        withheld=len(hidden),
    )


def _withheld(known: Iterable[tuple[str, str]], withheld: Set[str]) -> set[tuple[str, str]]:
    """Of suggestions by language and letters those that hold one of these, as whole words."""
    phrases = {letters for one in withheld if (letters := whole_letters_of(one))}
    if not phrases:
        return set()
    longest = max(one.count(BLANK) for one in phrases) + 1

    def holds_one(letters: str) -> bool:
        words = letters.split(BLANK)
        return any(
            BLANK.join(words[at : at + length]) in phrases
            for at in range(len(words))
            for length in range(1, min(longest, len(words) - at) + 1)
        )

    return {key for key in known if holds_one(key[1])}
