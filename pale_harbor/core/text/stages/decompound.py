"""The token stage `decompound`."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar, Final

from pale_harbor.core.text.alternatives import taken_apart
from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.word_lists import WordSet

# A shorter word would be found inside nearly any other.
_SHORTEST_PART: Final = 2
_LONGEST_WORD: Final = 100

Stretches = tuple[tuple[int, int], ...]


@dataclass(frozen=True, slots=True)
class Decompound:
    """Takes a compound apart into words of a list; links are letters that may join them, whole=yes keeps the whole."""

    words: WordSet
    whole: bool = False
    links: str = ""
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = 'decompound(@parts, links="s"), with schiff and arzt listed: schiffsarzt gives both'

    def concerns(self, token: Token) -> bool:
        return len(self._stretches(token)) > 1

    def __call__(self, tokens: Sequence[Token]) -> list[Made]:
        return taken_apart(tokens, self._stretches, keep=self.whole)

    def _stretches(self, token: Token) -> Stretches:
        return () if token.kept else _fewest_parts(self.words, tuple(self.links.split()), token.text)


@lru_cache(maxsize=200_000)
def _fewest_parts(words: WordSet, links: tuple[str, ...], text: str) -> Stretches:
    """The stretches of the words that a compound is made of, as few as can be; none where it is no compound.

    Of equally few the way with the longest last words.
    """
    if not 2 * _SHORTEST_PART <= len(text) <= _LONGEST_WORD:
        return ()
    best: list[Stretches | None] = [None] * (len(text) + 1)
    best[0] = ()
    for end in range(_SHORTEST_PART, len(text) + 1):
        for start in range(end - _SHORTEST_PART + 1):
            word = text[start:end]
            if word not in words.words or word == text:
                continue
            before = _best_link(best, links, text, start)
            if before is not None:
                here = (*before, (start, end))
                known = best[end]
                if known is None or len(here) < len(known):
                    best[end] = here
    return best[len(text)] or ()


def _best_link(best: list[Stretches | None], links: tuple[str, ...], text: str, start: int) -> Stretches | None:
    """The best way to get to a start, a link before it left out where there is one."""
    ways = [best[start]]
    ways += [best[start - len(link)] or None for link in links if text.endswith(link, 0, start)]
    found = [way for way in ways if way is not None]
    return min(found, key=len) if found else None
