"""The token stage `synonyms`."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from pale_harbor.core.text.alternatives import Beside, with_alternatives
from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.word_lists import Synonyms


@dataclass(frozen=True, slots=True)
class SynonymStage:
    """Puts words of the same meaning beside a word, of one word or several; beside=no puts them in its place."""

    synonyms: Synonyms
    beside: bool = True
    example: ClassVar[str] = "synonyms(@seafaring), where foghorn and fog horn mean the same: foghorn gives both"

    def concerns(self, token: Token) -> bool:
        return not token.kept and token.text in self.synonyms.longest

    def __call__(self, tokens: Sequence[Token]) -> list[Made]:
        at_position: dict[int, list[int]] = {}
        for number, token in enumerate(tokens):
            at_position.setdefault(token.position, []).append(number)
        found: list[Beside] = []
        reached = -1
        for number, token in enumerate(tokens):
            if token.position < reached or not self.concerns(token):
                continue
            path = self._longest(tokens, at_position, (number,))
            if path is not None:
                found.append(self._beside(tokens, path))
                reached = tokens[path[-1]].position + tokens[path[-1]].span
        return with_alternatives(tokens, found)

    def _longest(
        self, tokens: Sequence[Token], at_position: dict[int, list[int]], path: tuple[int, ...]
    ) -> tuple[int, ...] | None:
        """The longest way on from a path that is an entry of the list."""
        best = path if tuple(tokens[step].text for step in path) in self.synonyms.meanings else None
        if len(path) < self.synonyms.longest[tokens[path[0]].text]:
            last = tokens[path[-1]]
            for following in at_position.get(last.position + last.span, ()):
                if tokens[following].kept:
                    continue
                longer = self._longest(tokens, at_position, (*path, following))
                if longer is not None and (best is None or len(longer) > len(best)):
                    best = longer
        return best

    def _beside(self, tokens: Sequence[Token], path: tuple[int, ...]) -> Beside:
        first, last = tokens[path[0]], tokens[path[-1]]
        pattern = first._replace(end=max(tokens[step].end for step in path), exact=False)
        if len(path) == 1:
            pattern = pattern._replace(end=last.end)
        meanings = self.synonyms.meanings[tuple(tokens[step].text for step in path)]
        ways = tuple(tuple(pattern._replace(text=word) for word in words) for words in meanings)
        return Beside(path, ways, dropped=not self.beside)
