"""The stages a chain can be made of. To add one: one file here, one line in the table below."""

from typing import Final

from pale_harbor.core.text.kinds import SequenceStage, StageKind, TextStage, Tokenizer, TokenStage
from pale_harbor.core.text.stages.accents import Accents
from pale_harbor.core.text.stages.as_is import AsIs
from pale_harbor.core.text.stages.blanks import Blanks
from pale_harbor.core.text.stages.casefold import Casefold
from pale_harbor.core.text.stages.cjk_pairs import CjkPairs
from pale_harbor.core.text.stages.decompound import Decompound
from pale_harbor.core.text.stages.elide import Elide
from pale_harbor.core.text.stages.find import Find
from pale_harbor.core.text.stages.grams import Grams, TextGrams
from pale_harbor.core.text.stages.hierarchy import Hierarchy
from pale_harbor.core.text.stages.latin import Latin
from pale_harbor.core.text.stages.lemmas import Lemmas
from pale_harbor.core.text.stages.length import Length
from pale_harbor.core.text.stages.letters import Letters
from pale_harbor.core.text.stages.limit import Limit
from pale_harbor.core.text.stages.lower import Lower
from pale_harbor.core.text.stages.markup import Markup
from pale_harbor.core.text.stages.misread import Misread
from pale_harbor.core.text.stages.nfc import Nfc
from pale_harbor.core.text.stages.nfkc import Nfkc
from pale_harbor.core.text.stages.parts import Parts
from pale_harbor.core.text.stages.possessive import Possessive
from pale_harbor.core.text.stages.prefixes import Prefixes, TextPrefixes
from pale_harbor.core.text.stages.replace import Replace
from pale_harbor.core.text.stages.reverse import Reverse
from pale_harbor.core.text.stages.sounds import Sounds
from pale_harbor.core.text.stages.split_at import SplitAt
from pale_harbor.core.text.stages.stem import Stem
from pale_harbor.core.text.stages.stopwords import StopWords
from pale_harbor.core.text.stages.swap import Swap
from pale_harbor.core.text.stages.synonyms import SynonymStage
from pale_harbor.core.text.stages.unique import Unique
from pale_harbor.core.text.stages.whole import Whole
from pale_harbor.core.text.stages.word_grams import WordGrams
from pale_harbor.core.text.stages.words import Words

Stage = TextStage | Tokenizer | TokenStage | SequenceStage

TEXT_STAGES: Final[dict[str, type[TextStage]]] = {
    "nfc": Nfc,
    "nfkc": Nfkc,
    "markup": Markup,
    "replace": Replace,
    "swap": Swap,
    "elide": Elide,
}
TOKENIZERS: Final[dict[str, type[Tokenizer]]] = {
    "words": Words,
    "blanks": Blanks,
    "letters": Letters,
    "whole": Whole,
    "find": Find,
    "split_at": SplitAt,
    "grams": TextGrams,
    "prefixes": TextPrefixes,
    "hierarchy": Hierarchy,
}
TOKEN_STAGES: Final[dict[str, type[TokenStage | SequenceStage]]] = {
    "lower": Lower,
    "casefold": Casefold,
    "accents": Accents,
    "misread": Misread,
    "latin": Latin,
    "stopwords": StopWords,
    "stem": Stem,
    "as_is": AsIs,
    "lemmas": Lemmas,
    "synonyms": SynonymStage,
    "parts": Parts,
    "decompound": Decompound,
    "possessive": Possessive,
    "grams": Grams,
    "prefixes": Prefixes,
    "word_grams": WordGrams,
    "reverse": Reverse,
    "length": Length,
    "unique": Unique,
    "sounds": Sounds,
    "cjk_pairs": CjkPairs,
    "limit": Limit,
}
STAGES: Final[dict[StageKind, dict[str, type[Stage]]]] = {
    StageKind.TEXT: {**TEXT_STAGES},
    StageKind.TOKENIZER: {**TOKENIZERS},
    StageKind.TOKEN: {**TOKEN_STAGES},
}
STAGE_NAMES: Final = list(dict.fromkeys(name for stages in STAGES.values() for name in stages))


def kinds_named(name: str) -> list[StageKind]:
    """The kinds of stage that bear a name; grams and prefixes cut texts as well as tokens."""
    return [kind for kind, stages in STAGES.items() if name in stages]


def stage_class(name: str, kind: StageKind) -> type[Stage]:
    """The stage of a name and kind; KeyError where there is none."""
    return STAGES[kind][name]
