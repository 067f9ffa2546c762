"""What hypothesis makes up for the tests: texts, chains, values of records, queries, rankers."""

from hypothesis import strategies as st

from pale_harbor.core.ranking import (
    ANY,
    Combine,
    CombineHow,
    FieldOrder,
    Nearness,
    Need,
    Ranker,
    Reading,
    SlackWhen,
    Spelling,
    Typing,
    TypingWhen,
)
from pale_harbor.core.text import Chain, chain_of
from pale_harbor.core.text.word_lists import Replacements, SynonymRule, Synonyms, WordSet

# Few letters, so that words repeat and stems meet; and every kind of trouble Unicode has.
_TROUBLE = (
    "'’.,:-_ \n\t/ÅåéøłßÆœİıΣσςЙйёе\u0301\u030a\u0308\u200d\u2060ﬁ№½²Ⅳ漢字カナひ한글🇳🇴⚓❤️👩‍🚀١٢\u05d0\u05f4\u093f\x00"
)
_ALPHABET = st.one_of(
    st.sampled_from("aabcdeeinorsty  "), st.sampled_from(_TROUBLE), st.characters(exclude_categories=("Cs",))
)

_WORDS = (
    *(
        "harbor",
        "Harbor",
        "harbors",
        "sailing",
        "sails",
        "Sailed",
        "keeper",
        "keepers",
        "the",
        "of",
        "a",
        "fog",
        "Åsmoe",
    ),
    *("lights", "light", "log", "bell", "bells", "ship", "ships", "wreck", "SMC-1907", "été", "naïve", "No. 5"),
)


def texts(max_size: int = 80) -> st.SearchStrategy[str]:
    """Any text: from plain words to the oddest characters."""
    return st.one_of(
        st.text(_ALPHABET, max_size=max_size), st.lists(st.sampled_from(_WORDS), max_size=16).map(" ".join)
    )


def word_texts() -> st.SearchStrategy[str]:
    """Texts of a small vocabulary, as records and queries share it."""
    return st.lists(st.sampled_from(_WORDS), max_size=14).map(" ".join)


LISTS = {
    "words": WordSet(frozenset(["har", "bor", "bors", "light", "lights", "fog", "the", "s", "SMC"])),
    "pairs": Replacements((("a", "æ"), ("ss", "ß"), ("bells", "bell"), ("fog", "haar"), ("№", "No"))),
    "meanings": Synonyms(
        (
            SynonymRule(("fog",), ("sea mist", "haar")),
            SynonymRule(("ship",), ("vessel of sails",), both_ways=False),
            SynonymRule(("bell of fog", "light log"), ("bells",)),
            SynonymRule(("a",), ("one",), both_ways=False),
        )
    ),
}

_TEXT_STAGES = (
    *("nfc", "nfkc", "markup", "swap(@pairs)", "elide(fr)", "elide(it)"),
    *('replace(/[aeiou]/, "")', 'replace(/(s)(h)/, "\\\\2\\\\1")', 'replace(/^/, "fog ")', 'replace(/$/, " a")'),
)
_TOKENIZERS = (
    *("words", "words", "words", "blanks", "letters", "whole", "find(/[a-z]+/)", "find(/(?:s|^)([a-z]+)/)"),
    *("split_at(/[ ,]/)", "grams(1, 3)", "prefixes(2, 4)", 'hierarchy("/")', 'hierarchy(" ")'),
)
_TOKEN_STAGES = (
    *(
        "lower",
        "lower(tr)",
        "casefold",
        "accents",
        "misread",
        'misread("rn=m f=s c=e")',
        "latin",
        "stopwords(en)",
        "stopwords(@words)",
        "stem(en)",
        "stem(en, light)",
    ),
    *("as_is(@words)", "lemmas(@pairs)", "synonyms(@meanings)", "synonyms(@meanings, beside=no)", "parts"),
    *(
        "parts(whole=yes)",
        'decompound(@words, links="s -")',
        "decompound(@words, whole=yes)",
        "possessive",
        "grams(2, 3)",
    ),
    *(
        "prefixes(1, 4)",
        "word_grams(2, 3)",
        'word_grams(2, 2, join="", single=no)',
        "reverse",
        "length(2, 5)",
        "unique",
    ),
    *("sounds(soundex)", "sounds(metaphone)", "sounds(cologne)", "cjk_pairs", "limit(3)"),
)


@st.composite
def notations(draw: st.DrawFn) -> str:
    """Notation of chains that can be built: every stage, in any order that is allowed."""
    stages = draw(st.lists(st.sampled_from(_TEXT_STAGES), max_size=3))
    stages.append(draw(st.sampled_from(_TOKENIZERS)))
    after = draw(st.lists(st.sampled_from(_TOKEN_STAGES), max_size=5))
    grams = [stage for stage in after if stage.startswith("word_grams")]
    return " > ".join([*stages, *(stage for stage in after if stage not in grams[1:])])


def chains() -> st.SearchStrategy[Chain]:
    return notations().map(lambda notation: chain_of(notation, LISTS))


def values() -> st.SearchStrategy[list[list[str]]]:
    """A field of several records: none, one or two values each."""
    return st.lists(st.lists(word_texts(), max_size=2), min_size=1, max_size=12)


@st.composite
def rankers(draw: st.DrawFn, fields: tuple[str, ...] = ("title", "text")) -> Ranker:
    """Rankers over the given fields: every way to combine, need, slack and nearness, weights of 0 included."""
    readings = draw(
        st.lists(
            st.builds(
                Reading,
                field=st.sampled_from(fields),
                chain=st.sampled_from(_RANKER_CHAINS),
                query_chain=st.sampled_from(_RANKER_CHAINS),
                weight=st.one_of(st.sampled_from([0.0, 1.0, 3.0]), st.floats(0.01, 100)),
                k1=st.floats(0, 3),
                b=st.floats(0, 1),
                share=st.sampled_from([0.0, 0.0, 0.0, 0.5, 1.0]),
                slack=st.booleans(),
                synonyms=st.sampled_from([0.3, 0.6, 1.0]),
                nearness=st.none() | st.builds(Nearness, st.floats(0.1, 9), st.integers(0, 3), st.booleans()),
            ),
            min_size=1,
            max_size=4,
        )
    )
    equals_by = draw(st.sampled_from([(), (FieldOrder("asked", descending=True),)]))
    combine = draw(st.builds(Combine, st.sampled_from(CombineHow), st.sampled_from([0.0, 0.3, 1.0]), st.floats(0, 3)))
    spelling = draw(st.none() | spellings())
    typing = draw(st.none() | typings())
    return Ranker(
        readings=tuple(readings),
        equals_by=equals_by,
        combine=combine,
        need=draw(needs()),
        spelling=spelling,
        typing=typing,
    )


def typings() -> st.SearchStrategy[Typing]:
    """Ways to take the last word for a beginning, of whole queries too."""
    return st.builds(
        Typing,
        when=st.sampled_from(TypingWhen),
        letters=st.integers(1, 3),
        worth=st.sampled_from([0.3, 1.0]),
        most=st.sampled_from([1, 2, 100]),
        slack=st.integers(0, 2),
        slack_from=st.integers(1, 4),
        slack_worth=st.sampled_from([0.5, 1.0]),
    )


def needs() -> st.SearchStrategy[Need]:
    """How many words must match: any, all, a number, a share, by the length of the query."""
    amounts = st.sampled_from([None, 1, 2, 3, 0.5, 0.75])
    return st.one_of(
        st.just(ANY),
        amounts.map(lambda amount: Need(((1, amount),))),
        st.tuples(amounts, amounts).map(lambda pair: Need(((1, pair[0]), (3, pair[1])))),
    )


def spellings() -> st.SearchStrategy[Spelling]:
    return st.builds(
        Spelling,
        edits=st.sampled_from([None, 0, 1, 2]),
        lengths=st.sampled_from([(2, 4), (4, 8)]),
        fixed_start=st.integers(0, 2),
        most=st.sampled_from([1, 2, 20]),
        worth=st.sampled_from([0.5, 0.9]),
        when=st.sampled_from(SlackWhen),
        rare=st.integers(0, 4),
        similar=st.sampled_from([None, 0.3, 0.5]),
    )


@st.composite
def queries(draw: st.DrawFn) -> str:
    """Queries as visitors type them: words, now and then misspelt, and every sign of the query language."""
    pieces = draw(st.lists(st.sampled_from(_WORDS) | st.sampled_from(_SIGNS), max_size=9))
    return draw(st.sampled_from([" ", " ", "  ", ""])).join(pieces)


_SIGNS = (
    *("-", "OR", "AND", "NOT", "(", ")", '"', "title:", "text:", "har*", "*ing", "*", ":", ".."),
    *('"pale fog"', '"the fog of"', '"bell"', "-bell", "title:light", "(light OR bell)", "haror", "lihgt", "keper"),
    *("=bell", '="fog bell"', 'title:="pale fog"', "-title:=light", "=", '="the '),
    *("-(fog bell)", 'text:"fog bell"', "NOT the", "fog OR", "bells AND ship", "—", "harborss", "sialing"),
)

_RANKER_CHAINS = [
    chain_of(notation, LISTS)
    for notation in (
        *("words", "words > lower", "words > lower > accents > stopwords(en) > stem(en)", "whole > lower"),
        *("words > lower > word_grams(2, 3)", "words > lower > grams(2, 3)", "blanks > lower > parts(whole=yes)"),
        *("words > lower > synonyms(@meanings) > stem(en)", "words > synonyms(@meanings, beside=no)"),
        "words > lower > synonyms(@meanings) > grams(2, 3)",
    )
]
