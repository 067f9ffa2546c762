"""Moorings: equal terms meet, and those left over say why in a plain sentence."""

import pytest

from pale_harbor.core.text import chain_of, moorings

FORM = "the form of its characters, which nfkc makes one"


def met(record: str, query: str, notation: str = "words") -> list[tuple[tuple[int, ...], str | None]]:
    chain = chain_of(notation)
    return [(m.record_tokens, m.reason) for m in moorings(chain.run(record), chain.run(query))]


def test_a_query_term_meets_every_record_term_like_it():
    assert met("bell and bell", "bell fog")[0] == ((0, 2), None)


def test_a_query_term_meets_without_the_punctuation_around_it_what_it_does_not_meet_with_it():
    chain = chain_of("blanks")
    found = moorings(chain.run("a fog, bell"), chain.run("bell, fog, (a) , b."))
    assert [(m.record_tokens, m.bare) for m in found] == [
        ((2,), "bell"),
        ((1,), None),
        ((0,), "a"),
        ((), None),
        ((), None),
    ]
    assert found[0].reason is None
    assert found[3].reason is not None
    # A record's punctuation stays: it is read as it is.
    assert moorings(chain.run("bell,"), chain.run("bell"))[0].record_tokens == ()


@pytest.mark.parametrize(
    ("record", "query", "reason"),
    [
        ("Bell", "bell", "“Bell” in the record differs only in capitals."),
        (
            "e\u0301te\u0301",
            "été",
            f"“e\u0301te\u0301” in the record differs only in {FORM}.",
        ),
        ("петров", "petrov", "“петров” in the record differs only in its script, which latin makes one."),
        ("Åsmoe", "asmoe", "“Åsmoe” in the record differs only in accents or capitals."),
        ("B112", "B.112", "“B112” in the record differs only in punctuation."),
        (
            "lighthouse",
            "light",
            "The record has “lighthouse”, which begins alike; no stage brings the two together.",
        ),
        (
            "lighthousekeeper lights lighthouse",
            "light",
            "The record has “lights”, which begins alike; no stage brings the two together.",
        ),
        (
            "light lighthouse",
            "lighthousekeeper",
            "The record has “lighthouse”, which begins alike; no stage brings the two together.",
        ),
        ("harpoon", "harpon", "The nearest term of the record is “harpoon”."),
        ("oyster", "sextant", "No term of the record comes near it."),
        ("", "sextant", "The record's text gives no terms at all."),
    ],
)
def test_a_term_that_met_nobody_says_why(record: str, query: str, reason: str):
    assert met(record, query, "blanks") == [((), reason)]
