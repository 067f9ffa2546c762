"""Which language a text is in: by its script, and by the small words that every sentence needs.

No certainty is claimed: a text that says too little is of no language.
"""

import re
from typing import Final

import regex

LETTERS_LOOKED_AT: Final = 2_000

# The commonest small words, as lower-case letters; one that two languages share counts for both.
_SMALL_WORDS: Final[dict[str, frozenset[str]]] = {
    language: frozenset(words.split())
    for language, words in {
        "en": "the of and to in is was that it for on with as his her by at from this which had not are were they",
        "de": "der die das und ist in den von zu mit sich des auf für nicht ein eine als auch es dem war wird im noch",
        "fr": "le la les de des du et est un une dans que qui pour sur avec au aux pas ce par il elle ne se son sa ses",
        "es": "el la los las de del y en que un una es por con para se su al lo como fue no más era sus",
        "no": "og i er det en et på som til av for med den har ikke var de ble han fra hun seg om etter ved",
        "sv": "och i är det en ett på som till av för med den har inte var de blev han från hon sig om efter vid",
        "da": "og i er det en et på som til af for med den har ikke var de blev han fra hun sig om efter ved",
        "nl": "de het een en van in is dat op te zijn met voor niet aan er was om ook door bij uit naar",
        "it": "il lo la gli le di del della e è un una che per con non si da in nel sono era dei alla",
        "pt": "o a os as de do da e em um uma que não para com por se no na dos das foi ao mais",
        "pl": "i w na z do się nie że jest to od za po przez jak był dla ale oraz o",
        "fi": "ja on ei se että oli hän ovat mutta kun joka ole myös niin kuin hänen tai",
    }.items()
}
_LANGUAGES_OF: Final = {
    word: [language for language, small in _SMALL_WORDS.items() if word in small]
    for word in set[str]().union(*_SMALL_WORDS.values())
}

# A script that one language (or one written language above all) uses; Han alone is read as Chinese.
_SCRIPTS: Final = (
    ("ja", regex.compile(r"[\p{Hiragana}\p{Katakana}]")),
    ("ko", regex.compile(r"\p{Hangul}")),
    ("zh", regex.compile(r"\p{Han}")),
    ("el", regex.compile(r"\p{Greek}")),
    ("uk", regex.compile(r"[ЄєІіЇїҐґ]")),
    ("ru", regex.compile(r"\p{Cyrillic}")),
    ("ar", regex.compile(r"\p{Arabic}")),
    ("he", regex.compile(r"\p{Hebrew}")),
    ("hi", regex.compile(r"\p{Devanagari}")),
    ("th", regex.compile(r"\p{Thai}")),
)
_WORD: Final = re.compile(r"[^\W\d_]+")
_LATIN: Final = regex.compile(r"\p{Latin}")
_ENOUGH: Final = 2


def language_of(text: str) -> str | None:
    """The language of a text as an ISO 639-1 code; None where it cannot be told.

    Looks at the first 2,000 characters.

    >>> language_of("The bell was taken from the wreck"), language_of("Die Glocke ist aus dem Wrack")
    ('en', 'de')
    """
    text = text[:LETTERS_LOOKED_AT]
    letters = 0 if text.isascii() else sum(map(str.isalpha, text))
    if letters and len(_LATIN.findall(text)) < 0.5 * letters:
        return next((language for language, script in _SCRIPTS if script.search(text)), None)
    counts = dict.fromkeys(_SMALL_WORDS, 0)
    for word in _WORD.findall(text.lower()):
        for language in _LANGUAGES_OF.get(word, ()):
            counts[language] += 1
    best, second = sorted(counts, key=lambda language: -counts[language])[:2]
    return best if counts[best] >= _ENOUGH and counts[best] > counts[second] else None
