"""What a search box suggests while something is typed: where suggestions come from and which of them come first."""

from dataclasses import KW_ONLY, dataclass
from enum import Enum
from typing import Annotated, Final

from pale_harbor.core.knobs import Knob, Names
from pale_harbor.core.text.word_lists import WordSet

FIELD_LETTERS: Final = 200


@dataclass(frozen=True, slots=True)
class WithheldWords:
    """Words that no suggestion may hold. name: of the list, as it is written after its @."""

    name: str
    words: WordSet


_WORTH: Final = Knob("worth", "what the popularity of its suggestions is multiplied by", above=0, most=1, step=0.05)


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldValues:
    """Every value of a field is a suggestion."""

    values: Annotated[str, Knob("values of", "a field: its values", longest=FIELD_LETTERS, names=Names.FIELD)]
    by: Annotated[
        str | None,
        Knob(
            "weighted by",
            "a field of numbers: their sum over the records that have the value; the number of these where it is "
            "left out",
            longest=FIELD_LETTERS,
            names=Names.FIELD,
        ),
    ] = None
    worth: Annotated[float, _WORTH] = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldPhrases:
    """What a field says again and again in its records is a suggestion."""

    phrases: Annotated[
        str,
        Knob(
            "phrases of",
            "a field: words in a row that it holds again and again",
            longest=FIELD_LETTERS,
            names=Names.FIELD,
        ),
    ]
    fewest: Annotated[
        int, Knob("fewest words", "so many words in a row at least", least=1, most=5, unit="words", step=1)
    ] = 2
    words: Annotated[
        int, Knob("most words", "so many words in a row at most", least=1, most=5, unit="words", step=1)
    ] = 3
    records: Annotated[
        int,
        Knob("held by at least", "so many records hold it", least=2, most=1_000_000, unit="records", step=1, reach=50),
    ] = 3
    worth: Annotated[float, _WORTH] = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class PastQueries:
    """What visitors have asked is a suggestion, weighted by how often they did."""

    asked: Annotated[
        int,
        Knob(
            "asked at least",
            "past queries that were asked so often",
            least=1,
            most=1_000_000_000,
            unit="times",
            step=1,
            reach=50,
        ),
    ]
    worth: Annotated[float, _WORTH] = 1.0


SuggestionSource = FieldValues | FieldPhrases | PastQueries


class BeginsAt(Enum):
    """Where in a suggestion what was typed has to begin."""

    SUGGESTION = "suggestion"
    WORD = "word"


@dataclass(frozen=True, slots=True, kw_only=True)
class Completions:
    """Whole suggestions for what is being typed."""

    sources: Annotated[
        tuple[SuggestionSource, ...],
        Knob(
            "suggestions from",
            "where suggestions come from; without any: past queries, values of the title, and phrases of up to four "
            "fields of texts that the ranker reads",
            items=(0, 16),
        ),
    ] = ()
    _: KW_ONLY
    begins: Annotated[
        BeginsAt,
        Knob(
            "typed from",
            "what is typed is the beginning of the suggestion, or of any word in it and what follows",
            choices={"suggestion": "its beginning", "word": "any word in it"},
        ),
    ] = BeginsAt.WORD
    popular: Annotated[
        float,
        Knob(
            "popularity",
            "0: what fits what was typed best comes first, the shortest; 1: the most popular",
            least=0,
            most=1,
            step=0.05,
        ),
    ] = 0.5
    later: Annotated[
        float,
        Knob(
            "worth of a later word",
            "how well it fits where the typed letters begin a later word of it",
            above=0,
            most=1,
            step=0.05,
        ),
    ] = 0.6
    slack: Annotated[
        int,
        Knob(
            "edits forgiven",
            "after those that fit, suggestions that are one edit away: 0 or 1",
            least=0,
            most=1,
            step=1,
        ),
    ] = 1
    slack_from: Annotated[
        int, Knob("such edits from", "so many letters may have one", least=1, most=60, unit="letters", step=1, reach=10)
    ] = 4
    fold: Annotated[
        bool,
        Knob(
            "inflections once",
            "of suggestions that the ranker reads alike, by its reading of the first source, one is shown",
        ),
    ] = True
    language: Annotated[
        str | None,
        Knob(
            "language in",
            "a field with the record’s language: its suggestions are of that language",
            longest=FIELD_LETTERS,
            names=Names.FIELD,
        ),
    ] = None
    withhold: Annotated[
        WithheldWords | None, Knob("withheld", "a word list, `@name`: what holds a word of it is never shown")
    ] = None

    def forgives(self, typed: str) -> bool:
        """Whether what was typed may have an edit. What has digits has none: another number is another number.

        >>> [Completions().forgives(typed) for typed in ("hap", "hapr", "1787")]
        [False, True, False]
        """
        return self.slack > 0 and len(typed) >= self.slack_from and not any(one.isdigit() for one in typed)
