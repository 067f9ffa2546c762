"""From stages as written to stages that work: every stage can be asked for, and says what it is."""

from typing import get_type_hints

import pytest
from hypothesis import given

from pale_harbor.core.text import Chain, chain_of
from pale_harbor.core.text.binding import bind, parameters_of
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.core.text.kinds import Kind, Language, TextStage, Tokenizer, TokenStage
from pale_harbor.core.text.notation import parse
from pale_harbor.core.text.stages import STAGES, TEXT_STAGES, TOKEN_STAGES, TOKENIZERS, kind_of
from tests.strategies import chains

# A call of every stage; a new stage is added here, or this file says so.
CALLS = {
    "nfkc": "nfkc",
    "words": "words",
    "spaces": "spaces",
    "whole": "whole",
    "lower": "lower",
    "accents": "accents",
    "stopwords": "stopwords(en)",
    "stem": "stem(en)",
}


def test_every_stage_is_tried_here():
    assert set(CALLS) == set(STAGES)


@pytest.mark.parametrize("name", STAGES)
def test_a_stage_is_of_the_kind_whose_table_it_stands_in(name: str):
    (call,) = parse(CALLS[name])
    stage = bind(call)
    protocol = {Kind.TEXT: TextStage, Kind.TOKENIZER: Tokenizer, Kind.TOKEN: TokenStage}[kind_of(name)]
    assert isinstance(stage, protocol)
    assert isinstance(stage, STAGES[name])


@pytest.mark.parametrize("name", STAGES)
def test_a_stage_explains_itself_in_one_line_with_an_example(name: str):
    stage = STAGES[name]
    summary = (stage.__doc__ or "").splitlines()[0]
    assert summary.endswith(".")
    assert summary[0].isupper()
    assert len(summary) <= 110
    assert stage.example
    assert all(parameter in get_type_hints(stage) for parameter in parameters_of(stage))


def test_no_name_stands_for_two_stages():
    assert len(STAGES) == len(TEXT_STAGES) + len(TOKENIZERS) + len(TOKEN_STAGES)
    with pytest.raises(KeyError):
        kind_of("nothing")


def test_a_language_may_be_named_or_placed():
    assert bind(parse("stem(en)")[0]) == bind(parse("stem(language=en)")[0])
    assert list(parameters_of(STAGES["stem"])) == ["language"]
    assert Language("en") is Language.ENGLISH


@given(chain=chains())
def test_a_chain_has_all_its_stages_in_their_places(chain: Chain):
    assert len(chain.text_stages) + 1 + len(chain.token_stages) == len(chain.calls)
    assert isinstance(chain.tokenizer, Tokenizer)


@pytest.mark.parametrize(
    ("name", "nearest"),
    [("lowr", "lower"), ("LOWER", "lower"), ("stemm", "stem"), ("accent", "accents"), ("zzz", None)],
)
def test_the_nearest_name_is_one_that_a_slip_of_the_finger_meant(name: str, nearest: str | None):
    assert nearest_name(name, list(STAGES)) == nearest


def test_a_hint_names_the_nearest_or_all():
    assert hint("stem", ["stem", "lower"]) == 'Did you mean "stem"?'
    assert hint(None, ["stem", "lower"]) == "Known: stem, lower."


def test_a_chain_remembers_no_more_than_it_should(monkeypatch: pytest.MonkeyPatch):
    from pale_harbor.core.text import chain as chain_module

    monkeypatch.setattr(chain_module, "_MOST_REMEMBERED", 3)
    chain = chain_of("words > lower > stem(en)")
    texts = ["Fog bells", "lamps lit", "ropes and Ropes", "fog"]
    for _ in range(3):
        table = chain.read(texts)
        assert [table.tokens_of(i) for i in range(4)] == [chain.run(text) for text in texts]
