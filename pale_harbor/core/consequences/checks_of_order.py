"""Checks of stages that stand in the wrong order, or for nothing."""

from collections.abc import Iterable
from typing import Final, cast

from pale_harbor.core.consequences.examined import Before, Examined, Finding, Without, examples_in_words, token_stages
from pale_harbor.core.text import Chain, Token
from pale_harbor.core.text.binding import BoundStage
from pale_harbor.core.text.kinds import SequenceStage, StageKind, TokenStage, is_sequence
from pale_harbor.core.text.notation import StageCall
from pale_harbor.core.text.parameters import parameters_of
from pale_harbor.core.text.stages.as_is import AsIs
from pale_harbor.core.text.stages.casefold import Casefold
from pale_harbor.core.text.stages.decompound import Decompound
from pale_harbor.core.text.stages.lemmas import Lemmas
from pale_harbor.core.text.stages.lower import Lower
from pale_harbor.core.text.stages.stem import Stem
from pale_harbor.core.text.stages.stopwords import StopWords
from pale_harbor.core.text.stages.synonyms import SynonymStage
from pale_harbor.core.text.steps import made_by
from pale_harbor.core.text.word_lists import Replacements, Synonyms, WordSet, entries_of

_SEEING_CASE: Final = (StopWords, Stem, AsIs, Lemmas, SynonymStage, Decompound)
_READING_LISTS: Final = (StopWords, AsIs, Lemmas, SynonymStage, Decompound)
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


def changing_nothing(examined: Examined) -> list[Finding]:
    """A stage that is there for nothing."""
    figures = examined.gathered.consequences
    if figures.values == 0:
        return []
    where = (
        f"any of the {figures.values:,} values looked at" if figures.is_sample else "any value of the whole collection"
    )
    return [
        Finding(
            "changes nothing",
            f"{bound.call} changes nothing in {where}.",
            ("It costs time at every record and query; queries, or records to come, may need it all the same.",),
            examined.mend(f"Take {bound.call} out", Without(bound.call)),
        )
        for bound, effect in zip(examined.record_chain.stages, figures.stages, strict=True)
        if effect.changed == 0 and bound.kind is not StageKind.TOKENIZER
    ]


def _does(bound: BoundStage, word: str) -> bool:
    """Whether a stage does anything about a word."""
    token = Token(word, 0, len(word), 0)
    if is_sequence(type(bound.stage)):
        return cast(SequenceStage, bound.stage).concerns(token)
    return list(cast(TokenStage, bound.stage)(token)) != [token]


def _entries(bound: BoundStage) -> list[str]:
    if not isinstance(bound.stage, _READING_LISTS):
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
