"""Where words begin and end: the default word boundaries of Unicode.

Source: Unicode Standard Annex 29, "Unicode Text Segmentation", section 4 (rules WB1 to WB999).
A segment is a word when it holds a letter, a digit or an emoji.
"""

from functools import cache

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.kernels import inlined, kernel
from pale_harbor.core.text.word_break_ranges import (
    EMOJI_PRESENTATION,
    EXTENDED_PICTOGRAPHIC,
    LETTERS_AND_DIGITS,
    WORD_BREAK,
)

# Classes of the Word_Break property; their order lets kernels compare ranges of them.
OTHER, CR, LF, NEWLINE = 0, 1, 2, 3
EXTEND, ZWJ, FORMAT = 4, 5, 6
REGIONAL_INDICATOR, KATAKANA = 7, 8
HEBREW_LETTER, LETTER = 9, 10
SINGLE_QUOTE, MID_NUM_LET, MID_LETTER, MID_NUM, DOUBLE_QUOTE = 11, 12, 13, 14, 15
NUMERIC, EXTEND_NUM_LET, WHITE_SPACE = 16, 17, 18
NOTHING = 31

CLASS_BITS = 0b00011111
PICTOGRAPH = 0b00100000
LETTER_OR_DIGIT = 0b01000000
EMOJI = 0b10000000
MAKES_A_WORD = LETTER_OR_DIGIT | EMOJI

# It asks for the picture form of the character before it: what holds it is an emoji (UTS 51).
VARIATION_SELECTOR_16 = 0xFE0F
# Miscellaneous Symbols: sun, anchor, hearts, scissors; everything pictographic from here on.
_FIRST_PICTURE = 0x2600

_CLASS_NAMES = {
    "CR": CR,
    "LF": LF,
    "Newline": NEWLINE,
    "Extend": EXTEND,
    "ZWJ": ZWJ,
    "Format": FORMAT,
    "Regional_Indicator": REGIONAL_INDICATOR,
    "Katakana": KATAKANA,
    "Hebrew_Letter": HEBREW_LETTER,
    "ALetter": LETTER,
    "Single_Quote": SINGLE_QUOTE,
    "MidNumLet": MID_NUM_LET,
    "MidLetter": MID_LETTER,
    "MidNum": MID_NUM,
    "Double_Quote": DOUBLE_QUOTE,
    "Numeric": NUMERIC,
    "ExtendNumLet": EXTEND_NUM_LET,
    "WSegSpace": WHITE_SPACE,
}


@cache
def word_break_table() -> NDArray[np.uint8]:
    """For each code point its Word_Break class and the flags PICTOGRAPH, LETTER_OR_DIGIT and EMOJI.

    Shape (0x110000,).
    """
    table = np.zeros(0x110000, np.uint8)
    for name, ranges in WORD_BREAK.items():
        for first, last in _ranges(ranges):
            table[first : last + 1] = _CLASS_NAMES[name]
    for first, last in _ranges(EXTENDED_PICTOGRAPHIC):
        table[first : last + 1] |= PICTOGRAPH
    for first, last in _ranges(LETTERS_AND_DIGITS):
        table[first : last + 1] |= LETTER_OR_DIGIT
    for first, last in _ranges(EMOJI_PRESENTATION):
        table[first : last + 1] |= EMOJI
    # A heart is a picture with and without its selector; what comes earlier (©, ™, arrows) are signs.
    for first, last in _ranges(EXTENDED_PICTOGRAPHIC):
        table[max(first, _FIRST_PICTURE) : last + 1] |= EMOJI
    table[VARIATION_SELECTOR_16] |= EMOJI
    return table


def _ranges(packed: str) -> list[tuple[int, int]]:
    pairs = (piece.split("-") for piece in packed.split())
    return [(int(pair[0], 16), int(pair[-1], 16)) for pair in pairs]


@inlined
def _breaks(
    before_last: int, last: int, last_raw: int, following: int, current: int, is_pictograph: bool, indicators: int
) -> bool:
    """Whether a boundary stands before the current code point (WB3 to WB999).

    last: class before it, WB4 applied; before_last: the one before that; last_raw: the class of
    the code point directly before; following: the class after the current one, WB4 applied;
    indicators: how many regional indicators stand directly before.
    """
    if last_raw == CR and current == LF:
        return False
    if CR <= last_raw <= NEWLINE or CR <= current <= NEWLINE:
        return True
    if last_raw == ZWJ and is_pictograph:
        return False
    if last_raw == WHITE_SPACE and current == WHITE_SPACE:
        return False
    if EXTEND <= current <= FORMAT:
        return False
    letter_now = current in (LETTER, HEBREW_LETTER)
    letter_before = last in (LETTER, HEBREW_LETTER)
    if letter_before and letter_now:
        return False
    mid_letter_now = current in (MID_LETTER, MID_NUM_LET, SINGLE_QUOTE)
    if letter_before and mid_letter_now and following in (LETTER, HEBREW_LETTER):
        return False
    mid_letter_before = last in (MID_LETTER, MID_NUM_LET, SINGLE_QUOTE)
    if letter_now and mid_letter_before and before_last in (LETTER, HEBREW_LETTER):
        return False
    if last == HEBREW_LETTER and current == SINGLE_QUOTE:
        return False
    if last == HEBREW_LETTER and current == DOUBLE_QUOTE and following == HEBREW_LETTER:
        return False
    if last == DOUBLE_QUOTE and current == HEBREW_LETTER and before_last == HEBREW_LETTER:
        return False
    if (last == NUMERIC or letter_before) and current == NUMERIC:
        return False
    if last == NUMERIC and letter_now:
        return False
    mid_number_before = last in (MID_NUM, MID_NUM_LET, SINGLE_QUOTE)
    if mid_number_before and current == NUMERIC and before_last == NUMERIC:
        return False
    mid_number_now = current in (MID_NUM, MID_NUM_LET, SINGLE_QUOTE)
    if last == NUMERIC and mid_number_now and following == NUMERIC:
        return False
    if last == KATAKANA and current == KATAKANA:
        return False
    joinable_before = letter_before or last in (NUMERIC, KATAKANA, EXTEND_NUM_LET)
    if joinable_before and current == EXTEND_NUM_LET:
        return False
    joinable_now = letter_now or current in (NUMERIC, KATAKANA)
    if last == EXTEND_NUM_LET and joinable_now:
        return False
    return not (current == REGIONAL_INDICATOR and last == REGIONAL_INDICATOR and indicators % 2 == 1)


@kernel
def word_stretches(
    codes: IntArray, text_firsts: IntArray, table: IntArray, starts: IntArray, ends: IntArray, text_ids: IntArray
) -> int:
    """Fills in the words of many texts laid end to end; returns how many there are.

    codes: uint32 (code points,); text_firsts: int64 (texts + 1,), where each text begins;
    table: from word_break_table; starts, ends, text_ids: int32 (code points,), filled in.
    """
    count = 0
    for text in range(text_firsts.size - 1):
        first, stop = text_firsts[text], text_firsts[text + 1]
        segment = first
        flags = np.uint8(0)
        before_last, last, last_raw = NOTHING, NOTHING, NOTHING
        indicators = 0
        for i in range(first, stop):
            entry = table[int(codes[i])]
            current = entry & CLASS_BITS
            # The common case by far: a letter after a letter.
            if current == LETTER and last == LETTER and last_raw == LETTER:
                flags |= entry
                before_last = last
                continue
            if i > first:
                following = NOTHING
                if SINGLE_QUOTE <= current <= DOUBLE_QUOTE:
                    for j in range(i + 1, stop):
                        ahead = table[int(codes[j])] & CLASS_BITS
                        if ahead < EXTEND or ahead > FORMAT:
                            following = ahead
                            break
                if _breaks(before_last, last, last_raw, following, current, (entry & PICTOGRAPH) != 0, indicators):
                    if flags & MAKES_A_WORD:
                        starts[count], ends[count], text_ids[count] = segment, i, text
                        count += 1
                    segment = i
                    flags = np.uint8(0)
            flags |= entry
            ignored = EXTEND <= current <= FORMAT and last_raw != NOTHING and not (CR <= last_raw <= NEWLINE)
            if not ignored:
                indicators = indicators + 1 if current == REGIONAL_INDICATOR else 0
                before_last = last
                last = current
            last_raw = current
        if stop > first and flags & MAKES_A_WORD:
            starts[count], ends[count], text_ids[count] = segment, stop, text
            count += 1
    return count
