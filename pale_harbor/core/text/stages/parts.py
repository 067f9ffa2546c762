"""The token stage `parts`."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Final

import regex

from pale_harbor.core.text.alternatives import taken_apart
from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.tokens import Token

# Runs of digits, of capitals (the last one belongs to the small letters after it), of other letters.
_PART: Final = regex.compile(
    r"\p{N}++|\p{Lu}\p{M}*+(?:\p{Lu}\p{M}*+)*(?!\p{M}*+[\p{Ll}])|\p{Lu}?\p{M}*+(?:[\p{L}--\p{Lu}]\p{M}*+)++|\p{Lu}\p{M}*+",
    regex.V1,
)


@dataclass(frozen=True, slots=True)
class Parts:
    """Takes codes and compounds apart where their writing changes; whole=yes keeps the whole beside its parts."""

    whole: bool = False
    example: ClassVar[str] = "SKR2070b gives SKR, 2070 and b; camelCase gives camel and Case"

    def concerns(self, token: Token) -> bool:
        return len(self._stretches(token)) > 1

    def __call__(self, tokens: Sequence[Token]) -> list[Made]:
        return taken_apart(tokens, self._stretches, keep=self.whole)

    def _stretches(self, token: Token) -> list[tuple[int, int]]:
        return [] if token.kept else [found.span() for found in _PART.finditer(token.text)]
