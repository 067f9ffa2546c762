"""The token stage `sounds`."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar, Final

from pale_harbor.core.text.sounding import cologne, metaphone, soundex
from pale_harbor.core.text.tokens import Token


class SoundCode(StrEnum):
    """A way of writing down how a word sounds."""

    SOUNDEX = "soundex"
    METAPHONE = "metaphone"
    COLOGNE = "cologne"


_CODES: Final = {
    SoundCode.SOUNDEX: soundex.code,
    SoundCode.METAPHONE: metaphone.code,
    SoundCode.COLOGNE: cologne.code,
}


@dataclass(frozen=True, slots=True)
class Sounds:
    """Replaces a word by a code of how it sounds, so that names meet in any spelling; cologne is for German."""

    code: SoundCode
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "sounds(soundex): Aldersen and Aldarsson both become A436"

    def __call__(self, token: Token) -> Iterator[Token]:
        # What has no letters, such as a number, has no sound either and stays.
        code = _CODES[self.code](token.text)
        yield token if not code else token.loosen(code)
