"""Chain notation: what is written is what is read, and what is wrong is shown exactly where."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text import ChainError, NotationError, Place, UnknownStage, WrongArgument, WrongOrder, chain_of
from pale_harbor.core.text.errors import UnknownList
from pale_harbor.core.text.notation import (
    Argument,
    ListName,
    Pattern,
    StageCall,
    Word,
    format_notation,
    parse,
)
from pale_harbor.core.text.stages import TOKENIZERS
from tests.strategies import LISTS, notations

NOWHERE = Place(1, 1, 1)

_names = st.from_regex(r"[a-z][a-z0-9_]{0,8}", fullmatch=True)
_patterns = st.from_regex(r"([a-z0-9+*.\[\]()| /]|\\[a-z/\\]){1,12}", fullmatch=True).filter(lambda s: s.strip())
_values = st.one_of(
    st.integers(-(10**9), 10**9),
    st.floats(allow_nan=False, allow_infinity=False, min_value=-1e12, max_value=1e12).filter(lambda x: abs(x) > 1e-9),
    st.text(st.characters(exclude_categories=("Cs", "Cc"))),
    _names.map(Word),
    # A slash stands as itself in a pattern; only its notation escapes it.
    _patterns.map(lambda source: Pattern(re.sub(r"\\(/)|(\\.)", r"\1\2", source))),
    _names.map(ListName),
)
_calls = st.builds(
    StageCall,
    _names,
    st.lists(st.builds(Argument, st.none() | _names, _values, st.just(NOWHERE)), max_size=3).map(tuple),
    st.just(NOWHERE),
)


@given(calls=st.lists(_calls, min_size=1, max_size=6).map(tuple))
def test_what_is_printed_is_read_as_the_same(calls: tuple[StageCall, ...]):
    assert parse(format_notation(calls)) == calls


@given(notation=notations())
def test_a_chain_prints_as_it_was_written(notation: str):
    assert chain_of(notation, LISTS).notation == notation


def test_layout_and_comments_do_not_matter():
    written = """
        nfkc        # one form for all
        > words >
        stem( language = en )   # endings off
    """
    assert chain_of(written).notation == "nfkc > words > stem(language=en)"


def test_every_kind_of_value_can_be_written():
    (call,) = parse(r'stage(2, -1.5, word, "a \"text\"\n", /a\/b+/, @sea-faring, key=3)')
    assert [(argument.name, argument.value) for argument in call.arguments] == [
        (None, 2),
        (None, -1.5),
        (None, Word("word")),
        (None, 'a "text"\n'),
        (None, Pattern("a/b+")),
        (None, ListName("sea-faring")),
        ("key", 3),
    ]


@pytest.mark.parametrize(
    ("notation", "kind", "place", "message"),
    [
        ("", NotationError, Place(1, 1, 1), "line 1, column 1: expected the name of a stage, found the end."),
        ("words >", NotationError, Place(1, 8, 1), "line 1, column 8: expected the name of a stage, found the end."),
        ("words > > x", NotationError, Place(1, 9, 1), 'line 1, column 9: expected the name of a stage, found ">".'),
        (
            "words lower",
            NotationError,
            Place(1, 7, 5),
            'line 1, column 7: expected ">" and another stage, or the end, found "lower".',
        ),
        ("words > stem(en", NotationError, Place(1, 16, 1), 'line 1, column 16: expected "," or ")", found the end.'),
        (
            'words > stem("en)',
            NotationError,
            Place(1, 14, 4),
            'line 1, column 14: this text is not closed: a " is missing.',
        ),
        ("words ; lower", NotationError, Place(1, 7, 1), 'line 1, column 7: ";" has no meaning in chain notation.'),
        ("wor\x00ds", NotationError, Place(1, 4, 1), 'line 1, column 4: "U+0000" has no meaning in chain notation.'),
        (
            "words >\n  lowr > stem(en)",
            UnknownStage,
            Place(2, 3, 4),
            'line 2, column 3: there is no stage "lowr". Did you mean "lower"?',
        ),
        (
            "words > stem(xx)",
            WrongArgument,
            Place(1, 14, 2),
            'line 1, column 14: "stem" wants a language here, and xx is none that it knows. '
            "Known: en, de, fr, es, it, pt, nl, sv, no, da, fi, ru, ro, hu.",
        ),
        (
            "words > stem",
            WrongArgument,
            Place(1, 9, 4),
            'line 1, column 9: "stem" needs its language, as in stem(en).',
        ),
        (
            "words > accents(3)",
            WrongArgument,
            Place(1, 17, 1),
            'line 1, column 17: too many arguments for "accents": it takes none.',
        ),
        (
            "words > stem(langage=en)",
            WrongArgument,
            Place(1, 14, 10),
            'line 1, column 14: "stem" has no argument "langage". Did you mean "language"?',
        ),
        (
            "words > stem(en, language=en)",
            WrongArgument,
            Place(1, 18, 11),
            'line 1, column 18: "stem" is given "language" twice.',
        ),
        (
            "lower > words",
            WrongOrder,
            Place(1, 1, 5),
            'line 1, column 1: "lower" works on tokens, and nothing has cut the text yet: '
            f"put a tokenizer ({', '.join(TOKENIZERS)}) before it.",
        ),
        (
            "words > nfkc",
            WrongOrder,
            Place(1, 9, 4),
            'line 1, column 9: "nfkc" works on the whole text: move it before the tokenizer "words".',
        ),
        (
            "words > grams(5, 3)",
            WrongArgument,
            Place(1, 9, 5),
            'line 1, column 9: "grams": min is 5 and max is 3: nothing is that long.',
        ),
        (
            "words > prefixes(0, 3)",
            WrongArgument,
            Place(1, 18, 1),
            'line 1, column 18: "min" of "prefixes" goes from 1 to 40; 0 is outside.',
        ),
        (
            "find(/(a/)",
            WrongArgument,
            Place(1, 6, 4),
            "line 1, column 6: this pattern cannot be read at its character 3: missing ).",
        ),
        (
            "words > stem(de, light)",
            WrongArgument,
            Place(1, 9, 4),
            'line 1, column 9: "stem": there is a light stemmer for en only.',
        ),
        (
            "words > as_is(@names)",
            UnknownList,
            Place(1, 15, 6),
            'line 1, column 15: there is no word list "@names". There are no word lists here.',
        ),
        (
            "words > word_grams > word_grams(3, 3)",
            WrongOrder,
            Place(1, 22, 10),
            'line 1, column 22: a chain has "word_grams" once: grams of grams grow beyond measure.',
        ),
        (
            "words > blanks",
            WrongOrder,
            Place(1, 9, 6),
            'line 1, column 9: a chain has one tokenizer, and "words" is it already: "blanks" cannot follow.',
        ),
        (
            "nfkc",
            WrongOrder,
            Place(1, 5, 1),
            f"line 1, column 5: a chain needs a tokenizer: {', '.join(TOKENIZERS)}.",
        ),
    ],
)
def test_an_error_says_exactly_where_and_what(notation: str, kind: type[ChainError], place: Place, message: str):
    with pytest.raises(kind) as caught:
        chain_of(notation)
    assert str(caught.value) == message
    assert caught.value.place == place


def test_an_unknown_stage_names_the_nearest_and_all_that_there_are():
    with pytest.raises(UnknownStage) as caught:
        chain_of("words > acents")
    assert caught.value.nearest == "accents"
    assert {"words", "accents", "stem"} <= set(caught.value.expected)


@given(text=st.text(max_size=60))
def test_any_text_is_read_or_refused_with_a_place_inside_it(text: str):
    try:
        chain_of(text)
    except ChainError as error:
        lines = text.split("\n")
        assert 1 <= error.place.line <= len(lines)
        assert 1 <= error.place.column <= len(lines[error.place.line - 1]) + 1


@pytest.mark.parametrize(
    "notation", ["words > " * 70 + "lower", "words" + " " * 20_000, "words > stem(" + "9" * 60 + ")"]
)
def test_notation_has_limits(notation: str):
    with pytest.raises(NotationError):
        chain_of(notation)


@pytest.mark.parametrize(("asked", "nearest"), [("ar", None), ("r", None), ("rus", "ru"), ("dee", "de")])
def test_a_name_of_two_letters_is_no_misspelling_of_another(asked: str, nearest: str | None):
    with pytest.raises(WrongArgument) as raised:
        chain_of(f"words > stopwords({asked})")
    assert raised.value.nearest == nearest
    assert ("Did you mean" in str(raised.value)) is (nearest is not None)
