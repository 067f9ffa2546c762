"""The token stage `accents`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar
from unicodedata import normalize

from pale_harbor.core.text.tokens import Token

# Letters that are no base letter with a mark, though their readers write them without one abroad; and one apostrophe
# for all that are typed, since O’Brien and O'Brien are one name.
_LETTERS = str.maketrans(
    {
        "ø": "o", "Ø": "O", "ł": "l", "Ł": "L", "đ": "d", "Đ": "D", "ð": "d", "Ð": "D",
        "ħ": "h", "Ħ": "H", "ŧ": "t", "Ŧ": "T", "ı": "i", "ĸ": "k", "ŋ": "n", "Ŋ": "N",
        "ß": "ss", "ẞ": "SS", "æ": "ae", "Æ": "AE", "œ": "oe", "Œ": "OE", "þ": "th", "Þ": "TH",
        "ŀ": "l", "Ŀ": "L", "ŉ": "n", "ſ": "s", "ƀ": "b", "ɓ": "b", "ɖ": "d", "ɗ": "d", "ƒ": "f",
        "ɣ": "g", "ɨ": "i", "ƙ": "k", "ɲ": "n", "ƥ": "p", "ʉ": "u", "ƶ": "z", "ɔ": "o", "ɛ": "e",
        "ɵ": "o", "ȼ": "c", "Ȼ": "C", "ɇ": "e", "Ɇ": "E", "ɉ": "j", "Ɉ": "J", "ɍ": "r", "Ɍ": "R", "ɏ": "y", "Ɏ": "Y",
        "’": "'", "ʼ": "'", "‛": "'", "＇": "'",
        "ⱥ": "a", "Ⱥ": "A", "ⱦ": "t", "Ⱦ": "T", "Ƀ": "B", "Ɨ": "I", "Ɛ": "E", "Ɔ": "O", "Ɖ": "D", "Ɗ": "D",
    }
)  # fmt: skip

# Marks that stand over, under or through a letter and are left out in plain spelling. Vowel signs
# of Indic scripts and the voicing marks of kana are marks too, but without them it is another word.
_MARKS = frozenset(
    chr(code)
    for first, last in (
        (0x0300, 0x036F), (0x0483, 0x0487), (0x0591, 0x05BD), (0x05BF, 0x05BF), (0x05C1, 0x05C2),
        (0x05C4, 0x05C5), (0x05C7, 0x05C7), (0x0610, 0x061A), (0x064B, 0x0655), (0x0657, 0x065F),
        (0x0670, 0x0670), (0x06D6, 0x06DC), (0x06DF, 0x06E4), (0x06E7, 0x06E8), (0x06EA, 0x06ED),
        (0x1AB0, 0x1ACE), (0x1DC0, 0x1DFF), (0x20D0, 0x20F0), (0xFE20, 0xFE2F),
        # Whether a picture is drawn or written, and its skin tone (UTS 51).
        (0xFE00, 0xFE0F), (0x1F3FB, 0x1F3FF),
    )
    for code in range(first, last + 1)
)  # fmt: skip

# й is a letter of its own in every language that writes it, not и with a mark.
_SHORT_I = {"и\u0306": "й", "И\u0306": "Й"}


@dataclass(frozen=True, slots=True)
class Accents:
    """Takes accents and other marks off letters and pictures: é to e, ø to o, ß to ss; O’Brien is O'Brien."""

    example: ClassVar[str] = "Skærgård, Łódź and Größe become Skaergard, Lodz and Grosse"

    def __call__(self, token: Token) -> Iterator[Token]:
        # A token of marks alone keeps its text: a stage that folds never drops.
        folded = bare(token.text)
        yield token.with_text(folded if folded.strip() else token.text)


def bare(text: str) -> str:
    """A text without its accents.

    >>> bare("Skærgård")
    'Skaergard'
    """
    if text.isascii():
        return text
    apart = normalize("NFD", text)
    for pair, letter in _SHORT_I.items():
        apart = apart.replace(pair, letter)
    unmarked = "".join(character for character in apart if character not in _MARKS)
    return normalize("NFC", unmarked.translate(_LETTERS))
