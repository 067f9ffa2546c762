"""How the last word of a query is taken while it is being typed: as a word, and as the beginning of one.

Beginnings are found in the vocabulary of what the field is read through, without what leaves a stem of a word: no
reading of prefixes is needed. A record that holds the word itself counts for that; one that only holds a longer word
counts `worth` of what it would. The longer words count as one word together: as often as all of them, and as rare as
all of them are.
"""

from dataclasses import KW_ONLY, dataclass
from enum import Enum
from typing import Annotated
from unicodedata import name

from pale_harbor.core.knobs import Knob


class TypingWhen(Enum):
    """When the last word of a query is taken for a beginning."""

    TYPED = "typed"
    MISSING = "missing"
    ALWAYS = "always"


@dataclass(frozen=True, slots=True)
class Typing:
    """The last word is a beginning while it is being typed."""

    _: KW_ONLY
    when: Annotated[
        TypingWhen,
        Knob(
            "a beginning",
            "when the last word is one: only while it is being typed, of a whole query too where no record has the "
            "word, or of every query",
            choices={"typed": "while it is typed", "missing": "and where no record has it", "always": "always"},
        ),
    ] = TypingWhen.TYPED
    letters: Annotated[
        int,
        Knob(
            "beginnings from",
            "so many letters are taken for a beginning; fewer only where words are written without blanks",
            least=1,
            most=20,
            unit="letters",
            step=1,
            reach=6,
        ),
    ] = 1
    worth: Annotated[
        float,
        Knob(
            "worth of beginnings",
            "what a longer word counts against the word as it is typed",
            above=0,
            most=1,
            step=0.05,
        ),
    ] = 0.7
    most: Annotated[
        int,
        Knob(
            "most words of a beginning",
            "of all words that begin so, those in the most records, so many, count",
            least=1,
            most=10_000,
            unit="words",
            step=1,
            reach=200,
        ),
    ] = 100
    slack: Annotated[
        int,
        Knob(
            "edits in a beginning",
            "where no word begins so, how many letters of it may be left out, put in, exchanged or have changed places",
            least=0,
            most=2,
            step=1,
        ),
    ] = 1
    slack_from: Annotated[
        int,
        Knob(
            "such edits from",
            "so many letters may have an edit; twice as many two",
            least=1,
            most=60,
            unit="letters",
            step=1,
            reach=10,
        ),
    ] = 4
    slack_worth: Annotated[
        float,
        Knob(
            "worth of an edit",
            "what a beginning one edit away is worth; two away, its square",
            above=0,
            most=1,
            step=0.05,
        ),
    ] = 0.5

    def is_beginning(self, typed: str) -> bool:
        """Whether so few letters are taken for a beginning.

        >>> [Typing(letters=2).is_beginning(typed) for typed in ("h", "ha", "鯨")]
        [False, True, True]
        """
        return len(typed) >= self.letters or any(_says_enough(letter) for letter in typed)

    def edits_for(self, typed: str) -> int:
        """How many edits a beginning is allowed. One with digits has none: another year is another year.

        >>> [Typing(slack=2).edits_for(typed) for typed in ("har", "harp", "harpoon", "harpoone", "1787")]
        [0, 1, 1, 2, 0]
        """
        if any(letter.isdigit() for letter in typed):
            return 0
        return min(self.slack, len(typed) // self.slack_from)


# Where words follow each other without blanks, and of Hangul, whose signs are syllables, one sign says a good deal.
_WITHOUT_BLANKS = ("CJK ", "HIRAGANA ", "KATAKANA ", "THAI ", "LAO ", "KHMER ", "MYANMAR ", "HANGUL ")


def _says_enough(letter: str) -> bool:
    return name(letter, "").startswith(_WITHOUT_BLANKS)
