"""A verdict in words: each sentence says what its figures are, and of how many tries."""

from datetime import UTC, datetime

import pytest

from pale_harbor.core.comparing import Outcome, Tried, Verdict, tried, verdict
from pale_harbor.store.measuring.diary import DiaryEntry
from pale_harbor.work.measuring.verdicts import headline, last_opening, opened_for, reasons, share_text, tries_until

NAMES = ("first:1", "blended:1")
TODAY = datetime(2026, 11, 28, 9, 30, tzinfo=UTC)


def said(p_value: float = 0.01, gain: float = 0.1, tries: int = 1, queries: int = 50) -> Tried:
    return tried(queries=queries, first=0.5, second=0.5 + gain, p_value=p_value, tries=tries)


@pytest.mark.parametrize(
    ("opened", "locked", "sentence"),
    [
        (said(), None, "blended:1 is better than first:1, more than luck would give."),
        (said(gain=-0.1), None, "blended:1 is worse than first:1, more than luck would give."),
        (said(0.05), None, "The difference is within luck."),
        (said(), said(gain=-0.1), "The open and the locked queries contradict each other: it cannot be told."),
        (said(queries=0), None, "No query is judged in both."),
    ],
)
def test_the_verdict_is_one_sentence(opened: Tried, locked: Tried | None, sentence: str):
    assert headline(verdict(opened, locked), NAMES) == sentence


@pytest.mark.parametrize(
    ("one", "sentence"),
    [
        (said(0.0412), "50 open queries: 0.500 → 0.600, p = 0.041 by randomisation."),
        (said(0.0009999, queries=1), "1 open query: 0.500 → 0.600, p < 0.001 by randomisation."),
        (said(0.001), "50 open queries: 0.500 → 0.600, p = 0.001 by randomisation."),
        (
            said(0.01, tries=2),
            "50 open queries: 0.500 → 0.600, p = 0.010 by randomisation; 2 rankers were tried on them, and luck alone "
            "shows this in one of so many in 2.0 % of cases.",
        ),
    ],
)
def test_what_the_open_queries_say_stands_with_their_tries(one: Tried, sentence: str):
    assert reasons(verdict(one, None), None, 0, "open", False) == [sentence]


def test_what_the_locked_queries_say_stands_with_the_day_they_were_opened_on():
    both = verdict(said(), said(0.04, queries=1, tries=3))
    assert reasons(both, TODAY, 1, "open", True)[1] == (
        "1 locked query, opened 2026-11-28: 0.500 → 0.600, p = 0.040 by randomisation; 3 openings there were, and luck "
        "alone shows this in one of so many in 12 % of cases."
    )
    # Opened just now: the day is today.
    assert reasons(both, None, 1, "open", True)[1].startswith("1 locked query: ")


@pytest.mark.parametrize(
    ("locked", "part", "otherwise", "sentences"),
    [
        (0, "open", False, []),
        (1, "open", False, ["1 locked query was not opened for these two."]),
        (2, "open", False, ["2 locked queries were not opened for these two."]),
        (2, "open", True, ["2 locked queries were opened for these two by another measure or other rules."]),
        # Of all queries together the locked ones are some.
        (2, "judged", False, []),
    ],
)
def test_locked_queries_are_called_unopened_only_where_they_are(
    locked: int, part: str, otherwise: bool, sentences: list[str]
):
    # Where no open query is judged, nothing is said of them.
    nothing = Verdict(outcome=Outcome.NOTHING, open=said(queries=0), locked=None)
    assert reasons(nothing, None, locked, part, otherwise) == sentences


@pytest.mark.parametrize(
    ("share", "text"),
    [(0.0009, "less than 0.1 %"), (0.001, "0.1 %"), (0.0999, "10.0 %"), (0.1, "10 %"), (1.0, "100 %")],
)
def test_a_share_has_the_digits_that_it_is_worth(share: float, text: str):
    assert share_text(share) == text


def opening(number: int, **details: object) -> DiaryEntry:
    return DiaryEntry(id=number, written_at=TODAY, kind="locked look", title="Opened.", body="", details=dict(details))


SUBJECT = {"fingerprints": ["a", "b"], "measure": "ndcg@10", "rules": {"ties": "by_key"}}
FIGURES = {"first": 0.4, "second": 0.5, "p": 0.03, "queries": 25}


def test_each_pair_counts_once_and_what_is_not_told_apart_each_time():
    entries = [opening(1), opening(2), opening(3, fingerprints=["a", "b"]), opening(4, fingerprints=["b", "a"])]
    assert tries_until([], SUBJECT) == 1
    assert tries_until(entries[:2], SUBJECT) == 3
    assert tries_until(entries[:3], SUBJECT) == 3
    assert tries_until(entries, SUBJECT) == 4


def test_the_newest_opening_of_the_same_two_by_the_same_measure_and_rules_is_the_one():
    other = {**SUBJECT, "measure": "rr@10"}
    entries = [
        opening(1, **SUBJECT, figures=FIGURES),
        opening(2, **other, figures=FIGURES),
        opening(3, **SUBJECT, figures=FIGURES | {"second": 0.6}),
        # Without figures nothing was said that could be told again.
        opening(4, **SUBJECT),
        opening(5, **{**SUBJECT, "rules": {"ties": "against_us"}}, figures=FIGURES),
    ]
    found = last_opening(entries, SUBJECT)
    assert found is not None
    assert (found.said.second, found.said.queries, found.said.p_value, found.opened_at) == (0.6, 25, 0.03, TODAY)
    assert last_opening(entries, {**SUBJECT, "fingerprints": ["b", "a"]}) is None


@pytest.mark.parametrize(
    ("details", "is_of_these"),
    [
        ({"fingerprints": ["a", "b"], "rankers": ["x", "y"]}, True),
        ({"fingerprints": ["b", "a"], "rankers": list(NAMES)}, False),
        ({"rankers": list(NAMES)}, True),
        ({"rankers": list(reversed(NAMES))}, False),
    ],
)
def test_rankers_are_known_by_what_they_are_and_by_name_only_where_that_was_not_kept(
    details: dict[str, object], is_of_these: bool
):
    assert opened_for([opening(1, **details)], SUBJECT, NAMES) is is_of_these
