"""What a visitor's key may, as a document."""

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.visitor_terms import VisitorTerms, visitor_terms


def test_what_is_kept_of_terms_reads_as_the_same_terms():
    said = {
        "ranker": "first",
        "version": 2,
        "shown": ["name"],
        "searched": ["name", "tags"],
        "filters": [{"field": "place", "one_of": ["Tidewick"]}],
        "origins": ["https://Market.Example", "*"],
        "per_minute": 10,
        "per_minute_each": 5,
        "time_ms": 20,
        "keeps": False,
    }
    terms = visitor_terms(said)
    assert visitor_terms(terms.kept).kept == terms.kept
    assert terms.kept == {**said, "origins": ["https://market.example", "*"]}
    assert VisitorTerms().kept == {}


@pytest.mark.parametrize(
    "origin",
    [
        "market.example",
        "https://market.example/",
        "https://market.example/shop",
        "ftp://market.example",
        "https://",
        "",
    ],
)
def test_an_origin_is_a_scheme_and_a_host_and_nothing_behind(origin: str):
    with pytest.raises(BadInput, match="These terms cannot be used") as told:
        visitor_terms({"origins": [origin]})
    assert told.value.problems[0][0] == "origins.0"
    assert "an origin is a scheme and a host" in told.value.problems[0][1]


@pytest.mark.parametrize("origin", ["https://market.example:8443", "http://localhost:5173", "http://[::1]:80"])
def test_ports_and_addresses_are_origins(origin: str):
    assert visitor_terms({"origins": [origin]}).allows(origin.upper())


def test_who_is_not_named_may_not_ask():
    terms = visitor_terms({"origins": ["https://market.example"]})
    assert not terms.allows("http://market.example")
    assert not terms.allows("https://market.example:8443")
    assert not VisitorTerms().allows("https://market.example")
    assert visitor_terms({"origins": ["*"]}).allows("https://anywhere.example")


@pytest.mark.parametrize(
    ("said", "where"),
    [
        ({"time_ms": 19}, "time_ms"),
        ({"per_minute": 0}, "per_minute"),
        ({"shown": []}, "shown"),
        ({"secret": 1}, "secret"),
        ({"version": 0}, "version"),
    ],
)
def test_what_cannot_be_is_named(said: dict[str, object], where: str):
    with pytest.raises(BadInput) as told:
        visitor_terms(said)
    assert [place for place, _ in told.value.problems] == [where]


def test_a_wrong_filter_is_refused():
    with pytest.raises(BadInput, match="filters cannot be used"):
        visitor_terms({"filters": [{"field": "place"}]})
