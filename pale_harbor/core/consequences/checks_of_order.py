"""Checks of stages that stand in the wrong order, or for nothing."""

from collections.abc import Iterable
from typing import Final, cast

from pale_harbor.core.consequences.examined import (
    READING_LISTS,
    After,
    Before,
    Examined,
    Finding,
    Mend,
    WithoutNumber,
    cut_words,
    examples_in_words,
    token_stages,
)
from pale_harbor.core.text import Chain, Token
from pale_harbor.core.text.binding import BoundStage
from pale_harbor.core.text.errors import ChainError
from pale_harbor.core.text.kinds import Language, SequenceStage, StageKind, TokenStage, is_sequence
from pale_harbor.core.text.notation import StageCall
from pale_harbor.core.text.parameters import parameters_of
from pale_harbor.core.text.stages.accents import Accents, bare
from pale_harbor.core.text.stages.as_is import AsIs
from pale_harbor.core.text.stages.casefold import Casefold
from pale_harbor.core.text.stages.decompound import Decompound
from pale_harbor.core.text.stages.lemmas import Lemmas
from pale_harbor.core.text.stages.length import Length
from pale_harbor.core.text.stages.limit import Limit
from pale_harbor.core.text.stages.lower import Lower
from pale_harbor.core.text.stages.replace import Replace
from pale_harbor.core.text.stages.stem import Stem
from pale_harbor.core.text.stages.stopwords import STOP_WORDS, StopWords
from pale_harbor.core.text.stages.synonyms import SynonymStage
from pale_harbor.core.text.stages.unique import Unique
from pale_harbor.core.text.steps import made_by
from pale_harbor.core.text.word_lists import Replacements, Synonyms, WordSet, entries_of

_SEEING_CASE: Final = (StopWords, Stem, AsIs, Lemmas, SynonymStage, Decompound)
# Of these the parts of words are looked for, and not the words.
_LOOKING_FOR_WHOLE_WORDS: Final = (StopWords, AsIs, Lemmas, SynonymStage)
# What these do depends on how much there is, which no probe can tell.
_OF_AMOUNTS: Final = (Limit, Length, Unique)
_MOST_TRIED: Final = 20_000


def case_before_folding(examined: Examined) -> list[Finding]:
    """A stage that knows small letters only, with capitals still in its way."""
    findings: list[Finding] = []
    for chain in (examined.record_chain,) if examined.same else (examined.record_chain, examined.query_chain):
        found = _case_before_folding(chain, examined)
        if found is not None and found not in findings:
            findings.append(found)
    return findings


def _case_before_folding(chain: Chain, examined: Examined) -> Finding | None:
    stages = token_stages(chain)
    fold = next((i for i, bound in enumerate(stages) if isinstance(bound.stage, Lower | Casefold)), None)
    capitals = [word for word in examined.gathered.surfaces if word != word.lower()][:_MOST_TRIED]
    for number, bound in enumerate(stages[: len(stages) if fold is None else fold]):
        if not isinstance(bound.stage, _SEEING_CASE):
            continue
        missed = [word for word in capitals if _does(bound, word.lower()) and not _does(bound, word)]
        if not missed:
            continue
        counts = examined.gathered.surfaces
        missed.sort(key=lambda word: (-counts[word], word))
        times = sum(counts[word] for word in missed)
        examples = [f"{word} ×{counts[word]:,}" for word in missed]
        lower = stages[fold].call if fold is not None else StageCall("lower", (), bound.call.place)
        return Finding(
            "case",
            f"{bound.call} knows small letters only, and {lower.name if fold is not None else 'nothing'} "
            f"{'comes after it' if fold is not None else 'has made them small'}.",
            (f"It passes by {examples_in_words(examples)}: {times:,} times in all.",),
            examined.mend(
                f"Put {lower} before {stages[number].call}" if fold is None else f"Move {lower} before {bound.call}",
                Before(lower, bound.call),
            ),
        )
    return None


def lists_after_altering(examined: Examined) -> list[Finding]:
    """A word list whose entries no longer stand in the text by the time it is looked up."""
    findings: list[Finding] = []
    stages = token_stages(examined.record_chain)
    for number, bound in enumerate(stages):
        entries = _entries(bound)
        if not entries or number == 0:
            continue
        for earlier in stages[:number]:
            altered = [(entry, now) for entry in entries if (now := _after(earlier, entry)) is not None]
            if not altered or isinstance(earlier.stage, StopWords | SynonymStage | AsIs):
                continue
            examples = [f"{entry} is {now} by then" for entry, now in altered[:4]]
            # Moved before the folding of case it would miss capitals instead.
            folding = isinstance(earlier.stage, Lower | Casefold)
            findings.append(
                Finding(
                    "list after altering",
                    f"{bound.call} looks for words as its list writes them; {earlier.call} has altered them before.",
                    (f"{len(altered):,} of {len(entries):,} entries can never match: {'; '.join(examples)}.",),
                    None
                    if folding
                    else examined.mend(f"Move {bound.call} before {earlier.call}", Before(bound.call, earlier.call)),
                )
            )
            break
    return findings


def entries_cut_apart(examined: Examined) -> list[Finding]:
    """Entries of a word list that the tokenizer never leaves as the list writes them."""
    findings: list[Finding] = []
    for chain in examined.chains:
        cutting = chain.bound(StageKind.TOKENIZER)[0]
        for bound in token_stages(chain):
            if not isinstance(bound.stage, _LOOKING_FOR_WHOLE_WORDS):
                continue
            entries = _entries(bound)
            apart = [(one, now) for one in entries if (now := cut_words(chain, one)) != one.split()]
            if not apart or any(finding.sentence.startswith(str(bound.call)) for finding in findings):
                continue
            examples = [f"{one} is {' | '.join(now) or 'nothing'}" for one, now in apart[:4]]
            findings.append(
                Finding(
                    "entries cut apart",
                    f"{bound.call} has entries that {cutting.call} cuts otherwise than the list writes them.",
                    (f"{len(apart):,} of {len(entries):,} entries can never match: {'; '.join(examples)}.",),
                )
            )
    return findings


def accents_too_early(examined: Examined) -> list[Finding]:
    """Accents taken off before a stemmer or stop words that know words with them."""
    chain = examined.record_chain
    stages = token_stages(chain)
    at = next((i for i, bound in enumerate(stages) if isinstance(bound.stage, Accents)), None)
    if at is None:
        return []
    counts = examined.gathered.surfaces
    accented = [word for word in examined.words if bare(word) != word]
    findings: list[Finding] = []
    for bound in stages[at + 1 :]:
        if not isinstance(bound.stage, Stem | StopWords):
            continue
        missed = [word for word in accented if _folded(bound, word.lower()) != _made(bound, bare(word.lower()))]
        if not missed:
            continue
        first = missed[0].lower()
        right, wrong = _folded(bound, first) or "nothing", _made(bound, bare(first)) or "nothing"
        examples = [f"{word} ×{counts[word]:,}" for word in missed]
        findings.append(
            Finding(
                "accents too early",
                f"{bound.call} knows words with their accents; {stages[at].call} has taken them off before.",
                (f"{examples_in_words(examples)}: of “{first}” is left {wrong}, and with its accents {right}.",),
                examined.mend(f"Move {stages[at].call} after {bound.call}", After(stages[at].call, bound.call)),
            )
        )
    # Behind the last of them it stands behind all.
    return findings[-1:]


def limit_before_dropping(examined: Examined) -> list[Finding]:
    """Tokens counted that are dropped later, so that fewer are left than were allowed."""
    findings: list[Finding] = []
    for chain in examined.chains:
        stages = token_stages(chain)
        for number, bound in enumerate(stages):
            later = [one for one in stages[number + 1 :] if isinstance(one.stage, StopWords | Length)]
            if not isinstance(bound.stage, Limit) or not later:
                continue
            room = bound.stage.tokens
            short = [
                text for text in examined.texts if len(cut_words(chain, text)) > room and len(chain.terms(text)) < room
            ]
            if not short:
                continue
            left = [text for text in short if not chain.terms(text)]
            evidence = f"{len(short):,} values are left with fewer, {len(left):,} of them with none"
            findings.append(
                Finding(
                    "limit before dropping",
                    f"{bound.call} counts words that {later[-1].call} drops after it.",
                    (f"{evidence}: {examples_in_words([text[:60] for text in left or short], 3)}.",),
                    examined.mend(f"Move {bound.call} after {later[-1].call}", After(bound.call, later[-1].call)),
                )
            )
            break
    return findings[:1]


def changing_nothing(examined: Examined) -> list[Finding]:
    """A stage that what stands before it leaves nothing to do for, in the collection or anywhere else."""
    findings: list[Finding] = []
    for chain, effects in zip(examined.chains, (examined.gathered.consequences.stages, None), strict=False):
        probes = _probes(chain, examined)
        try:
            reads = list(chain.read_by_stage(probes))
        except ChainError:
            # A pattern that takes long on a probe is no fault in what it is for.
            continue
        for number, read in enumerate(reads):
            bound = chain.stages[number]
            idle = read.changed == 0 and (effects is None or effects[number].changed == 0)
            if not idle or bound.kind is StageKind.TOKENIZER or isinstance(bound.stage, (*_OF_AMOUNTS, Replace)):
                continue
            without = WithoutNumber(number)(chain)
            mend = (
                Mend(f"Take {bound.call} out", record_chain=without)
                if chain is examined.record_chain
                else Mend(f"Take {bound.call} out of the query chain", query_chain=without)
            )
            findings.append(
                Finding(
                    "changes nothing",
                    f"{bound.call} has nothing to do where it stands.",
                    ("The stages before it leave nothing that it would change, in this collection or any other.",),
                    mend,
                )
            )
    return findings


def _probes(chain: Chain, examined: Examined) -> list[str]:
    """Texts in which every kind of stage finds something to do, unless others have done it."""
    words = [word for bound in token_stages(chain) for word in _entries(bound)[:2_000]]
    small = [
        word
        for bound in chain.stages
        if isinstance(bound.stage, StopWords) and isinstance(bound.stage.words, Language)
        for word in sorted(STOP_WORDS[bound.stage.words])
    ]
    return [*_PROBES, *words, *small, *examined.words, *examined.texts]


# What is here to be changed: case, accents, width and ligatures, elision, possessives, codes, markup, other scripts.
_PROBES: Final = (
    "Sailing HARPOONS' keeper's Käptn ÉCOLE o’brien O'Brien ﬁsh № 2² ＡＢＣ e\u0301 cafe\u0301 Straße IŞIK",
    "l’amarre d’un canot, c'est l'acqua dell'isola",
    "SKR-2070b camelCase a/b/c 12 500 <b>fog</b> &amp; bell",
    "港の霧 ภาษาไทย Петров وردة नमस्ते",
)


def _does(bound: BoundStage, word: str) -> bool:
    """Whether a stage does anything about a word."""
    token = Token(word, 0, len(word), 0)
    if is_sequence(type(bound.stage)):
        return cast(SequenceStage, bound.stage).concerns(token)
    return list(cast(TokenStage, bound.stage)(token)) != [token]


def _made(bound: BoundStage, word: str) -> str:
    """What a stage makes of a word."""
    return " ".join(token.text for token in cast(TokenStage, bound.stage)(Token(word, 0, len(word), 0)))


def _folded(bound: BoundStage, word: str) -> str:
    """What a stage makes of a word, without accents."""
    return bare(_made(bound, word))


def _entries(bound: BoundStage) -> list[str]:
    if not isinstance(bound.stage, READING_LISTS):
        return []
    arguments: Iterable[object] = (getattr(bound.stage, name) for name in parameters_of(type(bound.stage)))
    lists = (one for one in arguments if isinstance(one, WordSet | Replacements | Synonyms))
    return next((entries_of(one) for one in lists), [])[:_MOST_TRIED]


def _after(earlier: BoundStage, entry: str) -> str | None:
    """What an entry's words are after a stage; None where they are as they were."""
    words = entry.split()
    tokens = [Token(word, 0, len(word), position) for position, word in enumerate(words)]
    now = [token.text for token, _ in made_by(earlier, tokens)]
    # What stands beside a word does not alter it.
    return None if all(word in now for word in words) else " ".join(now) or "nothing"
