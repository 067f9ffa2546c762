"""One judgment of two rankers: what many looks and a second set of queries make of a difference."""

import pytest

from pale_harbor.core.comparing import Outcome, Tried, chance_of_one, tried, verdict


def said(p_value: float, gain: float = 0.1, tries: int = 1, queries: int = 50) -> Tried:
    return tried(queries=queries, first=0.5, second=0.5 + gain, p_value=p_value, tries=tries)


@pytest.mark.parametrize(
    ("p_value", "tries", "outcome"),
    [
        (0.0499, 1, Outcome.BETTER),
        (0.05, 1, Outcome.LUCK),
        # One of two: 1 - (1 - p)^2.
        (0.0253, 2, Outcome.BETTER),
        (0.0254, 2, Outcome.LUCK),
        # One of forty, which alone would have been far beyond luck.
        (0.0012, 40, Outcome.BETTER),
        (0.0013, 40, Outcome.LUCK),
    ],
)
def test_more_than_luck_is_said_only_where_luck_would_seldom_show_it_in_any_of_the_tries(
    p_value: float, tries: int, outcome: Outcome
):
    found = said(p_value, tries=tries)
    assert found.outcome is outcome
    assert found.by_luck == chance_of_one(p_value, tries)
    assert said(p_value, -0.1, tries).outcome is (Outcome.LUCK if outcome is Outcome.LUCK else Outcome.WORSE)


def test_where_nothing_is_judged_nothing_is_said():
    assert said(1.0, queries=0).outcome is Outcome.NOTHING
    assert verdict(None, None).outcome is Outcome.NOTHING
    assert verdict(said(1.0, queries=0), None).outcome is Outcome.NOTHING
    assert verdict(said(1.0, queries=0), said(0.4)).outcome is Outcome.LUCK


BETTER, WORSE, LUCK = said(0.01), said(0.01, -0.1), said(0.4)


@pytest.mark.parametrize(
    ("opened", "locked", "outcome"),
    [
        (BETTER, None, Outcome.BETTER),
        (LUCK, None, Outcome.LUCK),
        (BETTER, BETTER, Outcome.BETTER),
        (WORSE, WORSE, Outcome.WORSE),
        (LUCK, LUCK, Outcome.LUCK),
        # Where one part is too small to tell, the other one's word stands.
        (BETTER, LUCK, Outcome.BETTER),
        (LUCK, WORSE, Outcome.WORSE),
        # Where they contradict each other, nobody's does.
        (BETTER, WORSE, Outcome.DISAGREE),
        (WORSE, BETTER, Outcome.DISAGREE),
    ],
)
def test_what_the_open_and_the_locked_queries_say_is_one_verdict(opened: Tried, locked: Tried | None, outcome: Outcome):
    assert verdict(opened, locked).outcome is outcome
