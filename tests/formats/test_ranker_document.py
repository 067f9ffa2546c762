"""The ranker as a document: defaults stated, mistakes named, nothing guessed."""

from typing import Any

import pytest

from pale_harbor.core.text import Chain, chain_of
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker_document import ranker_document
from pale_harbor.formats.ranker_from_document import ranker_of

TITLE = {"field": "title", "chain": "words > lower"}


def no_saved_chain(text: str) -> Chain:
    if text.startswith("@"):
        raise NotFound(text)
    return chain_of(text)


def test_what_is_left_out_has_its_stated_default():
    ranker = ranker_of(ranker_document({"readings": [TITLE]}), no_saved_chain)
    (reading,) = ranker.readings
    assert (reading.weight, reading.k1, reading.b) == (1.0, 1.2, 0.75)
    assert reading.query_chain == reading.chain == chain_of("words > lower")
    assert ranker.equals_by == ()


def test_a_whole_document_is_read():
    document = ranker_document(
        {
            "readings": [{**TITLE, "chain": "@plain", "query_chain": "words", "weight": 4, "k1": 0.9, "b": 0}],
            "combine": {"how": "sum"},
            "need": "any",
            "equals_by": ["-visitor_requests", "year"],
        }
    )
    ranker = ranker_of(document, lambda text: chain_of("spaces > lower" if text.startswith("@") else text))
    assert ranker.readings[0].chain.notation == "spaces > lower"
    assert ranker.readings[0].query_chain.notation == "words"
    assert [(by.field, by.descending) for by in ranker.equals_by] == [("visitor_requests", True), ("year", False)]


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (
            {"readings": [{**TITLE, "wieght": 3}]},
            'This ranker document cannot be used.\nreadings[0]: unknown key "wieght". Did you mean "weight"?',
        ),
        (
            {"reading": []},
            'This ranker document cannot be used.\nunknown key "reading". Did you mean "readings"?',
        ),
        (
            {"readings": [{**TITLE, "weight": -1}]},
            "This ranker document cannot be used.\n"
            "readings[0].weight: input should be greater than or equal to 0 (here: -1).",
        ),
        (
            {"readings": [{**TITLE, "weight": "3"}]},
            "This ranker document cannot be used.\nreadings[0].weight: input should be a valid number (here: '3').",
        ),
        (
            {"readings": [{**TITLE, "field": "a\x00b"}]},
            "This ranker document cannot be used.\n"
            "readings[0].field: this text holds a NUL character (U+0000) at character 2.",
        ),
        (
            {"readings": []},
            "This ranker document cannot be used.\nreadings: list should have at least 1 item after validation, not 0.",
        ),
    ],
)
def test_a_mistake_is_named_with_its_path(data: Any, message: str):
    with pytest.raises(BadInput) as caught:
        ranker_document(data)
    assert str(caught.value) == message


@pytest.mark.parametrize(
    "data", [None, 3, "x", [], {}, {"readings": None}, {"readings": [None]}, {"readings": [TITLE] * 65}]
)
def test_anything_else_is_refused_in_words(data: Any):
    with pytest.raises(BadInput):
        ranker_document(data)


def test_a_wrong_chain_is_named_with_its_path_and_place():
    document = ranker_document({"readings": [TITLE, {"field": "text", "chain": "words > stm(en)"}]})
    with pytest.raises(BadInput) as caught:
        ranker_of(document, no_saved_chain)
    assert caught.value.problems == [
        ("readings[1].chain", 'line 1, column 9: there is no stage "stm". Did you mean "stem"?')
    ]
