"""The stages a chain can be made of. To add one: one file here, one line in the table below."""

from typing import Final

from pale_harbor.core.text.kinds import Kind, TextStage, Tokenizer, TokenStage
from pale_harbor.core.text.stages.accents import Accents
from pale_harbor.core.text.stages.lower import Lower
from pale_harbor.core.text.stages.nfkc import Nfkc
from pale_harbor.core.text.stages.spaces import Spaces
from pale_harbor.core.text.stages.stem import Stem
from pale_harbor.core.text.stages.stopwords import StopWords
from pale_harbor.core.text.stages.whole import Whole
from pale_harbor.core.text.stages.words import Words

Stage = TextStage | Tokenizer | TokenStage

TEXT_STAGES: Final[dict[str, type[TextStage]]] = {"nfkc": Nfkc}
TOKENIZERS: Final[dict[str, type[Tokenizer]]] = {"words": Words, "spaces": Spaces, "whole": Whole}
TOKEN_STAGES: Final[dict[str, type[TokenStage]]] = {
    "lower": Lower,
    "accents": Accents,
    "stopwords": StopWords,
    "stem": Stem,
}
STAGES: Final[dict[str, type[Stage]]] = TEXT_STAGES | TOKENIZERS | TOKEN_STAGES


def kind_of(name: str) -> Kind:
    """The kind of a stage by its name; KeyError where there is none."""
    if name in TEXT_STAGES:
        return Kind.TEXT
    if name in TOKENIZERS:
        return Kind.TOKENIZER
    if name in TOKEN_STAGES:
        return Kind.TOKEN
    raise KeyError(name)
