"""From stages as written to stages that work: every stage can be asked for, and says what it is."""

from dataclasses import fields
from pathlib import Path
from typing import get_type_hints

import pytest
from hypothesis import given

from pale_harbor.core.consequences import Gatherer
from pale_harbor.core.index import build_index
from pale_harbor.core.text import Chain, ChainsByLanguage, chain_of, forgetful, steps
from pale_harbor.core.text.errors import UnknownList, WrongArgument, hint, nearest_name
from pale_harbor.core.text.kinds import Language, SequenceStage, StageKind, TextStage, Tokenizer, TokenStage
from pale_harbor.core.text.parameters import parameters_of
from pale_harbor.core.text.stages import STAGE_NAMES, STAGES, kinds_named, stage_class
from pale_harbor.core.text.steps import EachToken
from pale_harbor.core.text.word_lists import ListKind, Replacements
from tests.strategies import LISTS, chains

# A chain with every stage; a new stage is added here, or this file says so.
CHAINS = {
    StageKind.TEXT: [
        *("nfc > words", "nfkc > words", "markup > words", 'replace(/a/, "b") > words', "swap(@pairs) > words"),
        "elide(fr) > words",
    ],
    StageKind.TOKENIZER: [
        *("words", "blanks", "letters", "whole", "find(/a/)", "split_at(/a/)", "grams", "prefixes(1, 3)", "hierarchy"),
    ],
    StageKind.TOKEN: [
        f"words > {stage}"
        for stage in (
            *(
                "lower",
                "casefold",
                "accents",
                "misread",
                "latin",
                "stopwords(en)",
                "stem(en)",
                "as_is(@words)",
                "lemmas(@pairs)",
            ),
            *("synonyms(@meanings)", "parts", "decompound(@words)", "possessive", "grams", "prefixes", "word_grams"),
            *("reverse", "length(2, 3)", "unique", "sounds(soundex)", "cjk_pairs", "limit(3)"),
        )
    ],
}


@pytest.mark.parametrize("kind", StageKind)
def test_every_stage_can_be_asked_for_and_is_of_the_kind_whose_table_it_stands_in(kind: StageKind):
    protocols = {
        StageKind.TEXT: (TextStage,),
        StageKind.TOKENIZER: (Tokenizer,),
        StageKind.TOKEN: (TokenStage, SequenceStage),
    }
    asked: set[str] = set()
    for notation in CHAINS[kind]:
        chain = chain_of(notation, LISTS)
        (bound,) = [one for one in chain.bound(kind) if kind is not StageKind.TOKENIZER or one]
        assert isinstance(bound.stage, protocols[kind])
        assert isinstance(bound.stage, stage_class(bound.call.name, kind))
        asked.add(bound.call.name)
    assert asked == set(STAGES[kind])


@pytest.mark.parametrize("kind", StageKind)
def test_a_stage_explains_itself_in_one_line_with_an_example(kind: StageKind):
    for stage in STAGES[kind].values():
        summary = (stage.__doc__ or "").splitlines()[0]
        assert summary.endswith(".")
        assert summary[0].isupper()
        assert len(summary) <= 120
        assert stage.example
        assert all(parameter in get_type_hints(stage) for parameter in parameters_of(stage))


def test_a_name_stands_for_two_stages_only_where_one_cuts_the_text_and_one_cuts_tokens():
    twice = [name for name in STAGE_NAMES if len(kinds_named(name)) > 1]
    assert twice == ["grams", "prefixes"]
    assert kinds_named("nothing") == []
    text_grams, token_grams = chain_of("grams(2, 2)"), chain_of("words > grams(2, 2)")
    assert text_grams.terms("a bc") == ["a ", " b", "bc"]
    assert token_grams.terms("a bc") == ["bc"]


def test_a_language_may_be_named_or_placed():
    named, placed = (chain_of(f"words > stem({way})").stages[-1].stage for way in ("language=en", "en"))
    assert named == placed
    assert list(parameters_of(stage_class("stem", StageKind.TOKEN))) == ["language", "strength"]
    assert Language("en") is Language.ENGLISH


@pytest.mark.parametrize("kind", StageKind)
def test_every_argument_says_what_it_wants(kind: StageKind):
    for stage in STAGES[kind].values():
        for name, parameter in parameters_of(stage).items():
            assert parameter.wanted, name
            assert int not in parameter.types or parameter.bounds is not None, f"{name} of {stage} has no bounds"
        assert list(parameters_of(stage)) == [field.name for field in fields(stage)]  # pyright: ignore[reportArgumentType]


def test_a_list_of_another_kind_is_refused_by_name():
    with pytest.raises(UnknownList) as caught:
        chain_of("words > synonyms(@words)", LISTS)
    assert str(caught.value) == ('line 1, column 18: "@words" is a list of words; a list of synonyms is wanted here.')
    with pytest.raises(UnknownList) as caught:
        chain_of("words > as_is(@word)", LISTS)
    assert caught.value.nearest == "@words"
    assert parameters_of(stage_class("as_is", StageKind.TOKEN))["words"].list_kind is ListKind.WORDS


def test_a_replacing_text_names_groups_that_are_there():
    with pytest.raises(WrongArgument) as caught:
        chain_of(r'replace(/(a)b/, "\\2") > words')
    assert str(caught.value) == 'line 1, column 1: "replace": the text names group 2, and the pattern has 1.'


def test_a_chain_is_named_by_what_its_lists_say_too():
    one = chain_of("words > as_is(@words)", LISTS)
    other = chain_of("words > as_is(@words)", {"words": LISTS["meanings"], **LISTS})
    assert one == other
    changed = chain_of("words > lemmas(@pairs)", {"pairs": Replacements((("a", "b"),))})
    assert changed != chain_of("words > lemmas(@pairs)", LISTS)
    assert changed.notation == chain_of("words > lemmas(@pairs)", LISTS).notation
    assert changed.identity != chain_of("words > lemmas(@pairs)", LISTS).identity


def test_a_stage_switched_off_is_left_out_and_what_is_left_is_checked():
    assert chain_of("nfkc > words > lower", without={0, 2}).notation == "words"
    with pytest.raises(Exception, match="a chain needs a tokenizer"):
        chain_of("nfkc > words", without={1})


@given(chain=chains())
def test_a_chain_has_all_its_stages_in_their_places(chain: Chain):
    assert [one.call for one in chain.stages] == list(chain.calls)
    assert isinstance(chain.tokenizer, Tokenizer)


@pytest.mark.parametrize(
    ("name", "nearest"),
    [("lowr", "lower"), ("LOWER", "lower"), ("stemm", "stem"), ("accent", "accents"), ("zzz", None)],
)
def test_the_nearest_name_is_one_that_a_slip_of_the_finger_meant(name: str, nearest: str | None):
    assert nearest_name(name, STAGE_NAMES) == nearest


def test_a_hint_names_the_nearest_or_all():
    assert hint("stem", ["stem", "lower"]) == 'Did you mean "stem"?'
    assert hint(None, ["stem", "lower"]) == "Known: stem, lower."


def remembered_by(chain: Chain) -> int:
    """How many tokens a chain remembers what it made of."""
    return sum(len(vars(step)["_remembered"]) for step in vars(chain).get("_steps", ()) if isinstance(step, EachToken))


def test_a_chain_remembers_no_more_than_it_should(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(steps, "_MOST_REMEMBERED", 3)
    chain = chain_of("words > lower > stem(en)")
    texts = ["Fog bells", "lamps lit", "ropes and Ropes", "fog"]
    for _ in range(3):
        table = chain.read(texts)
        assert [table.tokens_of(i) for i in range(4)] == [chain.run(text) for text in texts]
        assert 0 < remembered_by(chain) <= 3


def test_a_chain_that_lasts_remembers_few_words_of_queries(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(steps, "MOST_OF_QUERIES", 3)
    chain = chain_of("words > lower")
    # Three have room; a fourth one has all of them forgotten first, and what is known already takes none.
    for words, remembered in (("Fog bell lamp", 3), ("Fog lamp", 3), ("rope", 1), ("Fog rope", 2)):
        assert chain.terms(words) == words.lower().split()
        assert remembered_by(chain) == remembered


def test_what_is_read_for_an_index_is_not_remembered_afterwards():
    english, plain = chain_of("words > lower > stem(en)"), chain_of("words > lower")
    by_language = ChainsByLanguage("language", (("en", english),), plain)
    texts = [["Fog bells"], ["lamps lit"], []]
    for choice in (english, by_language):
        built = build_index(texts, choice, ["en", None, "en"])
        assert built.record_count == 3
    gatherer = Gatherer(english)
    gatherer.add([("sm1", ["Fog bells"])])
    assert gatherer.finished(1).consequences.vocabulary == 2
    assert remembered_by(english) == remembered_by(plain) == 0
    # What the chains of the index made is what they make.
    assert forgetful(by_language) == by_language
    assert forgetful(english) is not english


def test_the_docs_explain_every_stage_in_its_own_words():
    documented = (Path(__file__).parents[2] / "docs/chains.md").read_text("utf-8")
    for named in STAGES.values():
        for name, stage in named.items():
            summary = (stage.__doc__ or "").splitlines()[0]
            assert f"`{name}" in documented
            assert summary in documented
