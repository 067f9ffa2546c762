"""Endings of words, of which a stemmer cuts the longest."""

from collections.abc import Iterable, Mapping


class Endings(dict[str, str]):
    """Endings, and what is said of each: what takes its place, or what kind it is; none is added later.

    >>> steps = Endings({"s": "", "es": "", "ies": "y"})
    >>> steps.longest("berries"), steps["ies"]
    ('ies', 'y')
    """

    def __init__(self, endings: Mapping[str, str]) -> None:
        super().__init__(endings)
        longest_first = sorted(endings, key=len, reverse=True)
        # Of most words the last letters already tell that none fits.
        self._told_by = min(2, len(longest_first[-1]))
        self._by_letters: dict[str, list[str]] = {}
        for ending in longest_first:
            self._by_letters.setdefault(ending[-self._told_by :], []).append(ending)

    def all_of(self, word: str) -> list[str]:
        """Those that the word has, longest first."""
        return [one for one in self._by_letters.get(word[-self._told_by :], ()) if word.endswith(one)]

    def longest(self, word: str) -> str:
        """The longest of them that the word has; empty where it has none."""
        for ending in self._by_letters.get(word[-self._told_by :], ()):
            if word.endswith(ending):
                return ending
        return ""


def endings(*those: str) -> Endings:
    """Endings of which nothing more is said, parted by blanks."""
    return Endings(dict.fromkeys(" ".join(those).split(), ""))


def by_kind(kinds: Mapping[str, Iterable[str]]) -> Endings:
    """Endings of several kinds."""
    return Endings({ending: kind for kind, own in kinds.items() for ending in own})
