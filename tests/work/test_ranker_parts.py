"""The parts of a ranker, each with the document without it; those of blends and feedback by hand."""

from typing import Any

from pale_harbor.core.ranking import Ranker, Reading
from pale_harbor.core.text import ChainsByLanguage, chain_of
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.tuning.ranker_parts import RankerPart, parts_of

CHAIN = chain_of("words")
RANKER = Ranker(readings=(Reading(field="title", chain=CHAIN, query_chain=CHAIN),))
READINGS = [{"field": "title", "chain": "words"}]
KINDS = [
    {"name": "code", "when": {"pattern": "^.$"}, "blend": {"how": "weighted_sum", "meaning": 0.2}},
    {"name": "long", "when": {"at_least_words": 4}, "blend": {"how": "fill_up"}},
]


def parts(**more: Any) -> dict[str, RankerPart]:
    document = ranker_document({"readings": READINGS, **more})
    return {f"{one.kind} {one.name}".strip(): one for one in parts_of(document, RANKER)}


def test_words_and_meaning_are_left_to_the_other_in_every_blend_that_adds_both_up():
    own = parts(spaces=[{"space": "house"}], kinds=KINDS)
    for name, meaning in (("blend words", 1.0), ("blend meaning", 0.0)):
        without = own[name].without
        assert without["blend"]["meaning"] == meaning
        assert without["kinds"][0]["blend"]["meaning"] == meaning
        # Words that meaning only fills up have no share to be left out.
        assert without["kinds"][1]["blend"]["meaning"] == 0.5


def test_without_spaces_or_where_nothing_is_added_up_a_blend_is_no_part():
    assert not any(name.startswith("blend") for name in parts())
    filled = parts(spaces=[{"space": "house"}], blend={"how": "fill_up"})
    assert not any(name.startswith("blend") for name in filled)


def test_how_beginnings_are_taken_is_a_part_where_whole_queries_are_taken_so():
    assert "as typed" not in parts()
    assert "as typed" not in parts(typing={})
    assert parts(typing={"when": "missing"})["as typed"].without["typing"] is None


def test_feedback_is_a_part_where_there_is_any():
    assert "feedback" not in parts()
    assert parts(feedback={})["feedback"].without["feedback"] is None


def test_each_stage_of_a_chain_is_a_part_also_where_chains_go_by_language():
    english, other = chain_of("words > lower"), chain_of("words")
    by_language = ChainsByLanguage("tongue", (("en", english),), other)
    ranker = Ranker(
        readings=(
            Reading(field="title", chain=by_language, query_chain=by_language),
            Reading(field="text", chain=english, query_chain=other),
        )
    )
    chains = {"by": "tongue", "en": "words > lower", "else": "words"}
    document = ranker_document(
        {
            "readings": [
                {"field": "title", "chain": chains},
                {"field": "text", "chain": "words > lower", "query_chain": "words"},
            ]
        }
    )
    stages = {one.name: one.without["readings"] for one in parts_of(document, ranker) if one.kind == "stage"}
    # What is left of one stage alone is no chain; a chain without its tokenizer is found out later.
    assert list(stages) == ["title, en: words", "title, en: lower", "text: words", "text: lower"]
    assert stages["title, en: lower"][0]["chain"] == {**chains, "en": "words"}
    assert stages["text: lower"][1]["chain"] == "words"
    assert stages["text: lower"][0]["chain"] == chains
