"""A chain that leaves words whole: what beginnings and endings of words are looked up in."""

from functools import lru_cache

from pale_harbor.core.text.binding import BoundStage, list_names
from pale_harbor.core.text.chain import Chain, chain_of
from pale_harbor.core.text.chain_choice import ChainChoice, ChainsByLanguage
from pale_harbor.core.text.kinds import StageKind


@lru_cache(maxsize=512)
def unstemmed(choice: ChainChoice) -> ChainChoice:
    """The same without the stages that leave something else of a word: a stem, a sound, grams. Itself where none does.

    >>> unstemmed(chain_of("words > lower > stopwords(en) > stem(en)")).notation
    'words > lower > stopwords(en)'
    """
    if isinstance(choice, Chain):
        return _with_whole_words(choice)
    own = tuple((language, _with_whole_words(chain)) for language, chain in choice.chains)
    return ChainsByLanguage(choice.by, own, _with_whole_words(choice.otherwise))


def _with_whole_words(chain: Chain) -> Chain:
    kept: list[BoundStage] = []
    for bound in chain.stages:
        if not _cuts_words(bound):
            kept.append(bound)
        elif bound.kind is StageKind.TOKENIZER:
            # Something has to cut the text.
            kept += chain_of("words").stages
    calls = tuple(bound.call for bound in kept)
    names = list_names(calls)
    digests = tuple((name, digest) for name, digest in chain.list_digests if name in names)
    return chain if calls == chain.calls else Chain(calls, digests, tuple(kept))


def _cuts_words(bound: BoundStage) -> bool:
    return getattr(type(bound.stage), "cuts_words", False)
