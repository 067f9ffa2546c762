"""Checks of how the text is cut, and of what is left in it."""

from statistics import median
from typing import Final

import regex

from pale_harbor.core.consequences.examined import (
    Examined,
    Finding,
    Instead,
    Put,
    cut_words,
    examples_in_words,
    gram_stage,
    stage_call,
)
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import Word, format_notation
from pale_harbor.core.text.stages.blanks import Blanks
from pale_harbor.core.text.stages.cjk_pairs import CjkPairs
from pale_harbor.core.text.stages.elide import ElidingLanguage
from pale_harbor.core.text.stages.find import Find
from pale_harbor.core.text.stages.letters import Letters
from pale_harbor.core.text.stages.markup import Markup
from pale_harbor.core.text.stages.whole import Whole
from pale_harbor.core.text.stages.words import Words

# Values of more words than this, by their median, are prose: nobody types them whole.
_WORDS_OF_PROSE: Final = 4
# So many words with punctuation on them, and this share of all that stand there, are no exceptions.
_FEWEST_WITH_SIGNS: Final = 3
_SHARE_WITH_SIGNS: Final = 0.01
# Codes are what the field holds where this share of its values has one.
_SHARE_OF_CODES: Final = 0.1
# Of the letters, in scripts that set no blanks.
_SHARE_WITHOUT_BLANKS: Final = 0.1
_FEWEST_TAGS: Final = 2
_FEWEST_ELIDED: Final = 5
_SHARE_ELIDED: Final = 0.005
# A tokenizer that finds nothing in more than this share of values misses most of them.
_SHARE_NOT_FOUND: Final = 0.5

_CODE: Final = regex.compile(r"(?<![^\s(,;])(?=[^\s]*\p{L})(?=[^\s]*\p{N})[\p{L}\p{N}./_-]+")
_PAIRED: Final = regex.compile(r"[\p{Han}\p{Hiragana}\p{Katakana}]")
_UNSPACED: Final = regex.compile(r"[\p{Thai}\p{Lao}\p{Khmer}\p{Myanmar}]")
_LETTER: Final = regex.compile(r"\p{L}")
_TAG: Final = regex.compile(r"</?[A-Za-z][A-Za-z0-9]*(?:\s[^<>]{0,200})?/?>|&(?:[A-Za-z]{2,8}|#[0-9]{1,6});")
_SIGNS: Final = '.,;:!?()[]{}"“”„«»…'


def whole_on_prose(examined: Examined) -> list[Finding]:
    """A text kept in one piece that nobody would type as a whole."""
    bound = examined.record_chain.bound(StageKind.TOKENIZER)[0]
    filled = [text for text in examined.texts if text.strip()]
    if not isinstance(bound.stage, Whole) or not filled:
        return []
    words = median(len(text.split()) for text in filled)
    if words <= _WORDS_OF_PROSE:
        return []
    longest = max(filled, key=len)
    return [
        Finding(
            "whole prose",
            f"{bound.call} keeps each value in one piece: it is found only by a query that says all of it.",
            (f"A value has {words:g} words by its median, such as “{longest[:80]}”.",),
            examined.mend("Cut it into words", Instead(bound.call, stage_call("words"))),
        )
    ]


def punctuation_on_words(examined: Examined) -> list[Finding]:
    """Words that punctuation keeps from meeting the same words without it."""
    bound = examined.record_chain.bound(StageKind.TOKENIZER)[0]
    if not isinstance(bound.stage, Blanks):
        return []
    counts = examined.gathered.surfaces
    kept = [
        word
        for word in examined.words
        if (bare := word.strip(_SIGNS))
        and bare != word
        and set(examined.record_chain.terms(word)).isdisjoint(examined.record_chain.terms(bare))
    ]
    times, total = (sum(counts[word] for word in words) for words in (kept, examined.words))
    if len(kept) < _FEWEST_WITH_SIGNS or times < _SHARE_WITH_SIGNS * total:
        return []
    kept.sort(key=lambda word: (-counts[word], word))
    examples = [f"{word} ×{counts[word]:,}" for word in kept]
    return [
        Finding(
            "punctuation",
            f"{bound.call} leaves punctuation on words, and so they are other words.",
            (f"{examples_in_words(examples)} in the records looked at.",),
            examined.mend("Cut at the boundaries of words", Instead(bound.call, stage_call("words"))),
        )
    ]


def digits_left_out(examined: Examined) -> list[Finding]:
    """Codes of which only the letters are kept."""
    bound = examined.record_chain.bound(StageKind.TOKENIZER)[0]
    if not isinstance(bound.stage, Letters):
        return []
    coded = [(found[0], text) for text in examined.texts if (found := _CODE.search(text))]
    if not coded or len(coded) < _SHARE_OF_CODES * len(examined.texts):
        return []
    shown = list(dict.fromkeys(code for code, _ in coded))
    kept = ", ".join(examined.record_chain.terms(shown[0])) or "nothing"
    return [
        Finding(
            "digits left out",
            f"{bound.call} leaves the digits of codes out: those that differ in them alone become one.",
            (f"{examples_in_words(shown, 4)}; of “{shown[0]}” is left {kept}.",),
            examined.mend("Cut at the boundaries of words", Instead(bound.call, stage_call("words"))),
        )
    ]


def scripts_without_blanks(examined: Examined) -> list[Finding]:
    """Writing that sets no blanks, cut by rules that need them."""
    chain = examined.record_chain
    bound = chain.bound(StageKind.TOKENIZER)[0]
    if not isinstance(bound.stage, Words | Letters | Blanks) or gram_stage(chain) is not None:
        return []
    letters = sum(len(_LETTER.findall(text)) for text in examined.texts)
    paired = [text for text in examined.texts if _PAIRED.search(text)]
    unspaced = [text for text in examined.texts if _UNSPACED.search(text)]
    findings: list[Finding] = []
    many = sum(len(_PAIRED.findall(text)) for text in paired)
    has_pairs = any(isinstance(one.stage, CjkPairs) for one in chain.stages)
    if paired and many >= _SHARE_WITHOUT_BLANKS * letters and not has_pairs:
        findings.append(
            Finding(
                "pairs of characters",
                f"Chinese and Japanese set no blanks, and {bound.call} knows no words of theirs: it cuts sign by sign, "
                "or not at all.",
                (_cut_as(examined, paired[0]),),
                examined.mend("Read them as pairs: cjk_pairs", Put(stage_call("cjk_pairs"))),
            )
        )
    many = sum(len(_UNSPACED.findall(text)) for text in unspaced)
    if unspaced and many >= _SHARE_WITHOUT_BLANKS * letters:
        pieces = stage_call("grams", 2, 3)
        findings.append(
            Finding(
                "no blanks",
                f"Thai, Lao, Khmer and Burmese set no blanks, and {bound.call} knows no words of theirs: what it cuts "
                "are no words.",
                (_cut_as(examined, unspaced[0]),),
                examined.mend(f"Cut all into pieces instead: {pieces}", Instead(bound.call, pieces)),
            )
        )
    return findings


def _cut_as(examined: Examined, text: str) -> str:
    part = text[:40]
    cut = examined.record_chain.terms(part)
    return f"“{part}” becomes {examples_in_words(cut, 8) or 'nothing'}."


def finding_nothing(examined: Examined) -> list[Finding]:
    """A pattern of a tokenizer that most values have nothing of."""
    figures = examined.gathered.consequences
    bound = examined.record_chain.bound(StageKind.TOKENIZER)[0]
    if not isinstance(bound.stage, Find) or not examined.texts:
        return []
    empty = [text for text in examined.texts if text.strip() and not cut_words(examined.record_chain, text)]
    if len(empty) <= _SHARE_NOT_FOUND * len(examined.texts):
        return []
    if len(empty) == len(examined.texts) and figures.vocabulary == 0:
        said = f"{bound.call} finds nothing in any value looked at: nothing can be found by this reading."
    else:
        said = f"{bound.call} finds nothing in {len(empty):,} of {len(examined.texts):,} values looked at."
    return [Finding("finding nothing", said, (f"{examples_in_words([text[:60] for text in empty], 3)}.",))]


def markup_left_in(examined: Examined) -> list[Finding]:
    """Tags and entities that would be words."""
    if any(isinstance(bound.stage, Markup) for bound in examined.record_chain.stages):
        return []
    tags = [found[0] for text in examined.texts for found in _TAG.finditer(text)]
    marked = sum(1 for text in examined.texts if _TAG.search(text))
    if marked < _FEWEST_TAGS:
        return []
    shown = list(dict.fromkeys(tag[:40] for tag in tags))
    markup = stage_call("markup")
    return [
        Finding(
            "markup",
            f"There is markup in {marked:,} values, and no stage takes it off: names of tags are words like any other.",
            (f"{examples_in_words(shown, 5)}.",),
            examined.mend("Take it off first: markup", lambda chain: format_notation((markup, *chain.calls))),
        )
    ]


def elided_words(examined: Examined) -> list[Finding]:
    """Small words that an apostrophe joins to the next, so that this one is not found by itself."""
    chain = examined.record_chain
    if any(call.name == "elide" for call in chain.calls):
        return []
    counts = examined.gathered.surfaces
    total = sum(counts[word] for word in examined.words)
    told: list[tuple[int, ElidingLanguage, list[str]]] = []
    for language in (ElidingLanguage.FRENCH, ElidingLanguage.ITALIAN):
        joined = [
            word
            for word in examined.words
            if (bare := language.without(word)) != word and set(chain.terms(bare)).isdisjoint(chain.terms(word))
        ]
        times = sum(counts[word] for word in joined)
        told.append((times, language, joined))
    times, language, joined = max(told, key=lambda one: one[0])
    if times < max(_FEWEST_ELIDED, _SHARE_ELIDED * total):
        return []
    joined.sort(key=lambda word: (-counts[word], word))
    call = stage_call("elide", Word(language.value))
    return [
        Finding(
            "elision",
            "Small words are joined to the next by an apostrophe, and the two are one word here.",
            (f"{examples_in_words([f'{word} ×{counts[word]:,}' for word in joined])}: {times:,} times in all.",),
            examined.mend(f"Part them: {call}", lambda one: format_notation((call, *one.calls))),
        )
    ]
