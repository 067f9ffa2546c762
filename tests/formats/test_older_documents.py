"""What was kept in older words does the same in today's."""

import pytest

from pale_harbor.core.text import chain_of
from pale_harbor.formats.older_documents import present_notation, present_ranker, present_space
from pale_harbor.formats.ranker.document import ranker_document


@pytest.mark.parametrize(
    ("then", "now"),
    [
        ("words > keep(@names) > stem(en)", "words > as_is(@names) > stem(en)"),
        ("spaces # by blanks\n  > lower", "blanks # by blanks\n  > lower"),
        ("words > synonyms(@sea, keep=no)", "words > synonyms(@sea, beside=no)"),
        ("words > parts( keep = yes ) > unique", "words > parts( whole = yes ) > unique"),
        ('words > decompound(@parts, keep=yes, links="s")', 'words > decompound(@parts, whole=yes, links="s")'),
        ("words > word_grams(2, 2, keep=no)", "words > word_grams(2, 2, single=no)"),
        ("find(/spaces > keep/) > stopwords(@spaces)", "find(/spaces > keep/) > stopwords(@spaces)"),
        ("words > lower", "words > lower"),
        ("words > (", "words > ("),
        ("@english:2", "@english:2"),
    ],
)
def test_a_chain_is_rewritten_where_a_word_changed_and_nowhere_else(then: str, now: str):
    assert present_notation(then) == now


def test_what_followed_a_separator_is_still_not_matched():
    chain = chain_of(present_notation('spaces > payload("|") > lower'))
    assert [token.text for token in chain.run("Whaler|0.8 a|b|c bare |whole")] == ["whaler", "a|b", "bare", "|whole"]
    assert [token.text for token in chain_of(present_notation('spaces > payload("/")')).run("fog/bell x")] == [
        "fog",
        "x",
    ]


def test_a_ranker_is_rewritten_in_every_part():
    title = {"field": "title", "chain": "spaces", "nearness": {"gap": 1, "in_order": False}}
    choice = {"by": "keep", "en": "spaces", "de": "blanks", "else": "english"}
    then = {
        "readings": [title, {"field": "text", "chain": choice, "query_chain": "words > keep(@names)"}],
        "spelling": {"edits": 1},
        "signals": [{"field": "asked", "shape": "log", "missing": 0.5}],
        "blend": {"how": "weighted_sum", "normalise": "standard"},
        "kinds": [{"name": "code", "when": {"quoted": True}, "blend": {"normalise": "least_greatest"}}],
        "equals_by": ["-asked"],
    }
    now = present_ranker(then)
    assert now == {
        "readings": [
            {"field": "title", "chain": "blanks", "nearness": {"gap": 1, "same_order": False}},
            {
                "field": "text",
                "chain": {"by": "keep", "en": "blanks", "de": "@blanks", "else": "english"},
                "query_chain": "words > as_is(@names)",
            },
        ],
        "spelling": {"edits": 1, "lengths": [4, 8]},
        "signals": [{"field": "asked", "shape": "log", "without": 0.5}],
        "blend": {"how": "weighted_sum", "normalise": "z_score"},
        "kinds": [{"name": "code", "when": {"quoted": True}, "blend": {"normalise": "min_max"}}],
        "equals_by": ["-asked"],
    }
    ranker_document(now)


def test_slack_keeps_the_lengths_that_it_had():
    reading = {"field": "title", "chain": "words"}
    assert present_ranker({"readings": [reading], "spelling": {"lengths": [3, 6]}})["spelling"] == {"lengths": [3, 6]}
    assert present_ranker({"readings": [reading], "spelling": None}) == {"readings": [reading], "spelling": None}
    assert ranker_document({"readings": [reading], "spelling": {}}).whole["spelling"]["lengths"] == [5, 8]


def test_a_space_learns_through_the_chain_that_it_learned_through():
    learned = {"source": {"kind": "learned", "chain": "spaces > lower"}, "fields": ["title"]}
    assert present_space(learned)["source"]["chain"] == "blanks > lower"
    assert present_space({"source": {"kind": "packaged"}}) == {"source": {"kind": "packaged"}}
