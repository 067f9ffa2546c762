"""The token stage `cjk_pairs`."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import ClassVar, Final

import regex

from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.tokens import Token

# Kana spell words, and are none by themselves.
_WORD: Final = regex.compile(r"[\p{Han}\p{Hangul}]")
_CJK: Final = regex.compile(r"[\p{Han}\p{Hiragana}\p{Katakana}\p{Hangul}ー々〆]++")


@dataclass(frozen=True, slots=True)
class CjkPairs:
    """Chinese, Japanese and Korean writing as overlapping pairs of characters, beside those that may be words."""

    example: ClassVar[str] = "港の霧 gives 港, 港の, の霧 and 霧"

    def concerns(self, token: Token) -> bool:
        return not token.kept and _CJK.fullmatch(token.text) is not None

    def __call__(self, tokens: Sequence[Token]) -> list[Made]:
        made: list[Made] = []
        run: list[int] = []
        for number, token in enumerate(tokens):
            if run and not (self.concerns(token) and _follows(tokens[run[-1]], token)):
                made += _pairs(tokens, run)
                run = []
            if self.concerns(token):
                run.append(number)
            else:
                made.append((token, number))
        return made + _pairs(tokens, run)


def _follows(before: Token, token: Token) -> bool:
    """Whether nothing stood between the two, in the text and among the tokens."""
    return token.start == before.end and token.position == before.position + before.span


def _pairs(tokens: Sequence[Token], run: Sequence[int]) -> list[Made]:
    letters = [(number, at) for number in run for at in range(len(tokens[number].text))]
    if len(letters) < 2:
        return [(tokens[number], number) for number in run]
    made: list[Made] = []
    for (first, at), (second, after) in pairwise(letters):
        one, other = tokens[first].part(at, at + 1), tokens[second].part(after, after + 1)
        if _WORD.match(one.text):
            made.append((one, first))
        span = tokens[second].position + tokens[second].span - tokens[first].position
        exact = one.exact and other.exact and one.end == other.start
        made.append((one._replace(text=one.text + other.text, end=other.end, span=span, exact=exact), first))
    number, at = letters[-1]
    last = tokens[number].part(at, at + 1)
    return [*made, (last, number)] if _WORD.match(last.text) else made
