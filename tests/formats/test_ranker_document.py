"""The ranker as a document: defaults stated, mistakes named, nothing guessed."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Any

import pytest

from pale_harbor.core.blend import BlendHow, Queries, SecondStage, SpaceUse
from pale_harbor.core.fields import Has, OneOf, Within, day_of
from pale_harbor.core.knobs import Knob, declared_knobs, is_part
from pale_harbor.core.ranking import (
    Combine,
    CombineHow,
    Nearness,
    Need,
    Ranker,
    Shape,
    Signal,
    SignalHow,
    SlackWhen,
    Spelling,
)
from pale_harbor.core.text import Chain, chain_of
from pale_harbor.core.text.word_lists import WordSet
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.differences import Reads, differences
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.formats.ranker.models import model_of
from pale_harbor.formats.ranker.naming import chain_texts, named_fields, named_spaces
from pale_harbor.formats.ranker.reading import ranker_of
from pale_harbor.formats.ranker.tables import markdown_of
from tools.write_knobs import DOCS, PAGE, docs_text, page_text

TITLE = {"field": "title", "chain": "words > lower"}


def said(before: RankerDocument, after: RankerDocument) -> list[str]:
    return [one.words for one in differences(before, after)]


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
    ranker = ranker_of(document, lambda text: chain_of("blanks > lower" if text.startswith("@") else text))
    assert ranker.readings[0].chain.notation == "blanks > lower"
    assert ranker.readings[0].query_chain.notation == "words"
    assert [(by.field, by.descending) for by in ranker.equals_by] == [("visitor_requests", True), ("year", False)]


WHOLE: Any = {
    "readings": [{**TITLE, "share": 0.6, "slack": False, "nearness": {"weight": 2, "gap": 3, "same_order": False}}],
    "combine": {"how": "strongest", "share": 0.3},
    "need": {"1": "all", "3": 2, "5": "75%"},
    "spelling": {"edits": 2, "fixed_start": 0, "when": "always", "worth": 0.4, "most": 9, "similar": 0.5},
    "signals": [
        {"field": "asked", "shape": "log", "scale": 10, "weight": 0.5},
        {"field": "acquired", "shape": "half_life", "scale": 365, "now": "1990-01-01", "how": "multiply"},
    ],
    "rules": [
        {"when": {"query": "bell"}, "do": {"pin": ["a", "b"]}, "reason": "the exhibition", "until": "2030-05-01"},
        {"when": {"list": "@places"}, "do": {"filter": "place"}},
        {"when": {"pattern": "[0-9]{4}"}, "do": {"filter": "year", "spread": 5}, "on": False},
        {"do": {"weigh": "title", "by": 2}},
    ],
    "filters": [
        {"field": "kind", "one_of": ["bell"]},
        {"field": "year", "low": "1890"},
        {"field": "maker", "has": True},
    ],
    "one_per": "series",
}


def test_every_part_of_a_document_comes_into_the_ranker():
    ranker = ranker_of(ranker_document(WHOLE), no_saved_chain, {"places": WordSet(frozenset(["Saltmere"]))})
    (reading,) = ranker.readings
    assert (reading.share, reading.slack, reading.nearness) == (0.6, False, Nearness(2.0, 3, False))
    assert ranker.combine == Combine(CombineHow.STRONGEST, 0.3)
    assert ranker.need == Need(((1, None), (3, 2), (5, 0.75)))
    assert ranker.spelling == Spelling(
        edits=2, lengths=(5, 8), fixed_start=0, most=9, worth=0.4, when=SlackWhen.ALWAYS, rare=5, similar=0.5
    )
    assert ranker.signals == (
        Signal(field="asked", shape=Shape.LOG, weight=0.5, scale=10.0),
        Signal(
            field="acquired",
            shape=Shape.HALF_LIFE,
            scale=365.0,
            now=day_of("1990-01-01", last=False),
            how=SignalHow.MULTIPLY,
        ),
    )
    assert [type(rule.do).__name__ for rule in ranker.rules] == ["Pin", "FilterBy", "FilterBy", "Weigh"]
    assert ranker.rules[0].until == day_of("2030-05-01", last=False)
    assert [rule.on for rule in ranker.rules] == [True, True, False, True]
    assert ranker.filters == (OneOf("kind", ("bell",)), Within("year", "1890", None), Has("maker", True))
    assert ranker.one_per == "series"


def test_a_month_from_which_age_counts_is_its_first_day():
    signal = {"field": "acquired", "shape": "half_life", "scale": 365, "now": "1990-02"}
    ranker = ranker_of(ranker_document({"readings": [TITLE], "signals": [signal]}), no_saved_chain)
    assert ranker.signals[0].now == day_of("1990-02-01", last=False)


def test_a_document_comes_back_as_it_went():
    document = ranker_document(WHOLE)
    assert ranker_document(document.whole) == document
    assert ranker_document(document.written) == document
    assert ranker_document(document.brief) == document


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
        (
            {"readings": [TITLE], "need": "most"},
            "This ranker document cannot be used.\n"
            'need: this is "any", "all", a number of words such as 2, or a share of them such as "75%".',
        ),
        (
            {"readings": [TITLE], "rules": [{"do": {"pin": ["a"], "hide": ["b"]}}]},
            "This ranker document cannot be used.\n"
            "rules[0].do: a rule does one thing: pin, lift, hide, filter, look_in, weigh.",
        ),
        (
            {"readings": [TITLE], "rules": [{"do": {"lift": ["a"]}}]},
            "This ranker document cannot be used.\n"
            'rules[0].do: "by" says what is multiplied with: it belongs to "lift" and "weigh", and they need it.',
        ),
        (
            {"readings": [TITLE], "rules": [{"do": {"pin": ["a"]}, "until": "soon"}]},
            'This ranker document cannot be used.\nrules[0].until: "soon" is no day: write it as 2030-05-31.',
        ),
        (
            {"readings": [TITLE], "filters": [{"field": "kind"}]},
            "This ranker document cannot be used.\n"
            'filters[0]: a filter has "one_of", or "low" and "high" (one of them may be missing), or "has".',
        ),
        (
            {"readings": [TITLE], "signals": [{"field": "a", "shape": "linear", "now": "soon"}]},
            "This ranker document cannot be used.\n"
            'signals[0].now: "soon" is no date: write it as 2024-05-31, or as a number for a field of numbers.',
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


def test_a_rule_that_cannot_be_read_is_named_with_its_path():
    for when, problem in (
        ({"pattern": "(a"}, ("rules[0].when.pattern", "line 1, column 1: this pattern cannot be read")),
        ({"list": "@nobody"}, ("rules[0].when.list", 'there is no list of words "@nobody".')),
    ):
        document = ranker_document({"readings": [TITLE], "rules": [{"when": when, "do": {"pin": ["a"]}}]})
        with pytest.raises(BadInput) as caught:
            ranker_of(document, no_saved_chain)
        ((where, what),) = caught.value.problems
        assert where == problem[0]
        assert what.startswith(problem[1])


def test_fields_are_named_with_their_places():
    named = dict(named_fields(ranker_document(WHOLE)))
    assert named["rules[1].do.filter"] == "place"
    assert named["signals[1].field"] == "acquired"
    assert named["filters[1].field"] == "year"
    assert named["one_per"] == "series"


CHANGES: list[tuple[Any, list[str]]] = [
    ({}, []),
    ({"need": "all"}, ["words needed: any to all"]),
    ({"need": {"1": "all", "3": "75%"}}, ["words needed: any to all, 75% from 3 words on"]),
    ({"spelling": {}}, ["spelling slack off to by length"]),
    (
        {"spelling": {"edits": 1, "when": "always", "similar": 0.5}},
        ["spelling slack off to 1, always, similar from 0.5"],
    ),
    (
        {"combine": {"how": "strongest", "share": 0.3}},
        ["readings combined: sum to strongest", "share of the rest 0 to 0.3"],
    ),
    ({"readings": [{**TITLE, "weight": 4.5, "b": 0.3}]}, ["title weight 1 to 4.5", "title b 0.75 to 0.3"]),
    ({"readings": [{**TITLE, "chain": "blanks"}]}, ["title read through blanks instead of words > lower"]),
    ({"readings": [TITLE, {"field": "maker", "chain": "words"}]}, ["new reading maker, weight 1: words"]),
    (
        {"readings": [{"field": "maker", "chain": "words"}]},
        ["new reading maker, weight 1: words", "reading title taken out: words > lower"],
    ),
    ({"readings": [{**TITLE, "nearness": {}}]}, ["title nearness weight 1, gap 0, in order"]),
    ({"signals": [{"field": "asked", "shape": "log", "scale": 10}]}, ["new signal: asked log at 10, 1 added"]),
    ({"rules": [{"when": {"query": "bell"}, "do": {"pin": ["a"]}}]}, ["new rule: bell: pin a"]),
    ({"filters": [{"field": "kind", "one_of": ["bell"]}]}, ["new filter: kind is bell"]),
    ({"one_per": "series"}, ["one per off to series"]),
    ({"equals_by": ["-asked"]}, ["equals by key to -asked"]),
]


@pytest.mark.parametrize(("changes", "words"), CHANGES, ids=[" ".join(words) or "none" for _, words in CHANGES])
def test_what_is_different_is_said_in_words(changes: Any, words: list[str]):
    before = ranker_document({"readings": [TITLE]})
    after = ranker_document({"readings": [TITLE], **changes})
    assert said(before, after) == words
    assert len(differences(after, before)) == len(words)


def test_parts_of_a_part_are_told_apart():
    one = ranker_document(WHOLE)
    changed = {
        **WHOLE,
        "spelling": {**WHOLE["spelling"], "worth": 0.6},
        "rules": [*WHOLE["rules"][:3], {"do": {"weigh": "title", "by": 3}}],
    }
    assert said(one, ranker_document(changed)) == [
        "spelling slack, worth: 0.4 to 0.6",
        "rule 4: every query: weigh title, by 2 to every query: weigh title, by 3",
    ]


def test_a_wrong_chain_is_named_with_its_path_and_place():
    document = ranker_document({"readings": [TITLE, {"field": "text", "chain": "words > stm(en)"}]})
    with pytest.raises(BadInput) as caught:
        ranker_of(document, no_saved_chain)
    assert caught.value.problems == [
        ("readings[1].chain", 'line 1, column 9: there is no stage "stm". Did you mean "stem"?')
    ]


BLENDED: Any = {
    "readings": [TITLE, {"field": "old name", "chain": "words"}],
    "signals": [{"field": "asked", "shape": "log"}],
    "spaces": [{"space": "meaning", "weight": 2, "fetch": 50, "at_least": 0.2}, {"space": "house"}],
    "blend": {"how": "formula", "formula": 'words + space.meaning * reading."old name" + rank.house + signal.asked'},
    "second_stage": {"space": "house", "first": 10, "weight": 0.7},
    "kinds": [
        {"name": "code", "when": {"pattern": "[0-9]+"}, "blend": {"meaning": 0}},
        {"name": "question", "when": {"at_least_words": 4, "quoted": False}, "blend": {"how": "weighted_sum"}},
    ],
}


def test_spaces_and_blends_are_read():
    ranker = ranker_of(ranker_document(BLENDED), no_saved_chain)
    assert ranker.spaces == (SpaceUse("meaning", 2.0, 50, 0.2), SpaceUse("house"))
    assert ranker.blend.how is BlendHow.FORMULA
    assert ranker.blend.formula is not None
    assert ranker.blend.formula.names == ("words", "space.meaning", 'reading."old name"', "rank.house", "signal.asked")
    assert ranker.second_stage == SecondStage("house", 10, 0.7)
    code, question = ranker.kinds
    assert (code.name, code.blend.meaning, code.when.at_least_words) == ("code", 0.0, None)
    assert (question.when, question.blend.how) == (Queries(at_least_words=4, quoted=False), BlendHow.WEIGHTED_SUM)


@pytest.mark.parametrize(
    ("part", "said"),
    [
        ({"blend": {"how": "formula"}}, 'blend: a blend by formula needs "formula".'),
        ({"blend": {"how": "formula", "formula": "wrds"}}, 'blend.formula: line 1, column 1: there is no "wrds".'),
        ({"blend": {"meaning": 1.5}}, "blend.meaning: input should be less than or equal to 1 (here: 1.5)."),
        ({"spaces": [{"space": "My Space"}]}, "spaces[0].space"),
        ({"spaces": [{"space": "a"}, {"space": "a"}]}, 'the space "a" stands there twice'),
        ({"kinds": [{"name": "x", "when": {}, "blend": {}}]}, "kinds[0].when: a kind of queries needs"),
        ({"kinds": [{"name": "x", "when": {"pattern": "("}, "blend": {}}]}, "kinds[0].when.pattern: line 1, column 1"),
        ({"second_stage": {"space": "a", "first": 500}}, "second_stage.first"),
    ],
)
def test_what_is_wrong_with_a_blend_is_named_with_its_place(part: dict[str, Any], said: str):
    with pytest.raises(BadInput) as caught:
        ranker_of(ranker_document({"readings": [TITLE], **part}), no_saved_chain)
    assert said in str(caught.value)


def test_differences_of_spaces_and_blends_in_words():
    before = ranker_document({"readings": [TITLE], "spaces": [{"space": "meaning"}, {"space": "old"}]})
    after = ranker_document(
        {
            "readings": [TITLE],
            "spaces": [{"space": "meaning", "weight": 2, "at_least": 0.3}, {"space": "house"}],
            "blend": {"how": "weighted_sum", "meaning": 0.7},
            "second_stage": {"space": "house"},
            "kinds": [{"name": "code", "when": {"pattern": "x"}, "blend": {"meaning": 0}}],
        }
    )
    assert said(before, after) == [
        "new space house, weight 1",
        "space old taken out",
        "space meaning weight 1 to 2",
        "space meaning at least off to 0.3",
        "blend, how: reciprocal rank to weighted sum",
        "blend, meaning: 0.5 to 0.7",
        "second stage by house, first 20",
        "new kind of queries: code (blend, meaning: 0.5 to 0)",
    ]
    assert differences(after, after) == []


def test_a_formula_that_is_not_used_may_name_what_is_gone():
    document = ranker_document({"readings": [TITLE], "blend": {"how": "weighted_sum", "formula": "space.gone"}})
    assert ranker_of(document, no_saved_chain).blend.formula is None


def test_a_knob_that_is_declared_is_known_everywhere_without_a_further_word():
    @dataclass(frozen=True, slots=True)
    class Tide:
        """A part that nobody has written a line for."""

        height: Annotated[float, Knob("height", "how high", least=0, most=9, unit="m", step=0.5)] = 3.0
        ebbs: Annotated[bool, Knob("ebbs", "whether it falls")] = True

    assert model_of(Tide).model_validate({}).model_dump() == {"height": 3.0, "ebbs": True}
    with pytest.raises(ValueError, match="less than or equal to 9"):
        model_of(Tide).model_validate({"height": 9.5})
    with pytest.raises(ValueError, match=r'unknown key "hight"\. Did you mean "height"\?'):
        model_of(Tide).model_validate({"hight": 1})
    schema = model_of(Tide).model_json_schema()["properties"]["height"]
    assert (schema["default"], schema["minimum"], schema["maximum"], schema["unit"]) == (3.0, 0, 9, "m")
    assert markdown_of(Tide).splitlines()[2:] == [
        "| `height` | how high (0 to 9 m) | 3 |",
        "| `ebbs` | whether it falls | yes |",
    ]


def test_every_knob_that_differs_is_told():
    """Each knob of a ranker turned by itself: none goes without a word."""
    reading = {**TITLE, "nearness": {}}
    whole = {
        "readings": [reading],
        "spelling": {},
        "signals": [{"field": "asked", "shape": "log"}],
        "rules": [{"do": {"pin": ["a"]}}],
        "spaces": [{"space": "meaning"}],
        "second_stage": {"space": "meaning"},
        "kinds": [{"name": "code", "when": {"quoted": True}, "blend": {}}],
    }
    before = ranker_document(whole)
    for path, other in turned_knobs(Ranker, before.whole):
        after = ranker_document(with_value(before.whole, path, other))
        assert differences(before, after), path


def turned_knobs(part: type, written: Any, way: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], Any]]:
    """Every knob of a part that is there, with another value than it has."""
    for name, one in declared_knobs(part).items():
        said, here, kind = written[name], (*way, name), one.kinds[0]
        if is_part(kind) and said is not None and len(one.kinds) == 1:
            for number, each in enumerate(said if one.many else [said]):
                yield from turned_knobs(kind, each, (*here, number) if one.many else here)
        elif kind is bool and said is not None:
            yield here, not said
        elif kind in (int, float) and one.knob.names is None and one.knob.none is None:
            yield here, one.knob.most if said != one.knob.most else one.knob.least
        elif one.knob.choices is not None:
            yield here, next(choice for choice in one.knob.choices if choice not in (said, "formula"))


def with_value(written: Any, path: tuple[Any, ...], value: Any) -> Any:
    """The same with another value at a path."""
    if not path:
        return value
    changed = with_value(written[path[0]], path[1:], value)
    if isinstance(written, list):
        return [*written[: path[0]], changed, *written[path[0] + 1 :]]
    return {**written, path[0]: changed}


def test_what_follows_from_the_knobs_is_committed_as_it_follows():
    assert PAGE.read_text("utf-8") == page_text(), "run: PYTHONPATH=. python tools/write_knobs.py"
    for page in DOCS:
        text = page.read_text("utf-8")
        assert text == docs_text(text), "run: PYTHONPATH=. python tools/write_knobs.py"


def test_bounds_hold_at_their_very_ends():
    shortest = {**TITLE, "field": "y"}
    assert ranker_document({"readings": [shortest], "spelling": {"edits": 2}}).whole["spelling"]["edits"] == 2
    for wrong, said in (
        ({"readings": [{**TITLE, "field": ""}]}, "readings[0].field: string should have at least 1 character"),
        ({"readings": [TITLE], "spelling": {"edits": 3}}, "spelling.edits: input should be 'by_length', 0, 1 or 2"),
        ({"readings": [{**TITLE, "nearness": {"weight": 0}}]}, "readings[0].nearness.weight: input should be greater"),
        ({"readings": [{**TITLE, "nearness": {"gap": 51}}]}, "readings[0].nearness.gap: input should be less"),
    ):
        with pytest.raises(BadInput) as caught:
            ranker_document(wrong)
        assert said in str(caught.value)


def test_only_what_names_a_field_is_told_as_one():
    document = ranker_document(
        {
            "readings": [{**TITLE, "chain": {"by": "language", "en": "words", "else": "plain"}}],
            "rules": [{"when": {"query": "bell"}, "do": {"weigh": "title", "by": 2}, "reason": "loud"}],
            "spaces": [{"space": "meaning"}],
            "equals_by": ["-asked"],
        }
    )
    assert named_fields(document) == [
        ("readings[0].field", "title"),
        ("readings[0].chain.by", "language"),
        ("rules[0].do.weigh", "title"),
        ("equals_by[0]", "asked"),
    ]
    assert named_spaces(document) == [("spaces[0].space", "meaning")]


def test_chains_are_told_with_the_fields_they_read():
    by_language = {"by": "language", "en": "english", "else": "words > lower"}
    document = ranker_document(
        {"readings": [{**TITLE, "chain": by_language, "query_chain": " @plain "}, {"field": "text", "chain": "words"}]}
    )
    assert chain_texts(document) == [
        ("title", "@english"),
        ("title", "words > lower"),
        ("title", "@plain"),
        ("text", "words"),
    ]


def test_readings_of_one_field_are_the_same_where_their_chains_are():
    words, whole = {"field": "title", "chain": "words"}, {"field": "title", "chain": "whole"}
    before = ranker_document({"readings": [words, whole]})
    after = ranker_document({"readings": [{**whole, "weight": 2}, {**words, "query_chain": "blanks"}]})
    assert said(before, after) == [
        "title (1) weight 1 to 2",
        "title (2) queries read through blanks",
    ]
    assert said(after, before) == [
        "title (1) queries read through the record chain",
        "title (2) weight 2 to 1",
    ]


def test_a_difference_tells_what_it_was_and_what_it_is():
    before = ranker_document({"readings": [TITLE], "signals": [{"field": "asked", "shape": "log"}]})
    changed = {**TITLE, "weight": 3, "chain": "blanks", "slack": False}
    after = ranker_document({"readings": [changed, {"field": "maker", "chain": "words"}], "spelling": {}})
    assert [(one.what, one.before, one.after) for one in differences(before, after)] == [
        ("title chain", "words > lower", "blanks"),
        ("title weight", "1", "3"),
        ("title spelling slack", "yes", "no"),
        ("reading maker", "", "weight 1: words"),
        ("spelling slack", "off", "by length"),
        ("signal", "asked log, 1 added", ""),
    ]
    assert [(one.before, one.after) for one in differences(after, after)] == []


def test_saved_chains_and_lists_that_are_read_in_other_versions_are_told():
    one = ranker_document({"readings": [TITLE]})
    before, after = Reads({"english": 1, "old": 1}, {"sea": 4}), Reads({"english": 3, "new": 1}, {"sea": 5, "more": 1})
    assert [each.words for each in differences(one, one, before, after)] == [
        "chain @english version 1 to 3",
        "word list @sea version 4 to 5",
    ]
    assert differences(one, one, before, before) == []
    # Of a ranker whose versions nobody knows nothing is claimed.
    assert differences(one, one, None, after) == []
