"""What visitors say by what they do: promises that hold for every list, and examples by hand."""

from math import isclose, log
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.traffic.anytime import sureness
from pale_harbor.core.traffic.clicks import Appeal, Counts, Visit, appeals, expected, suggested_grade
from pale_harbor.core.traffic.interleaving import Interleaved, preferred, team_draft
from pale_harbor.core.traffic.rewriting import Asked, Rewritten, rewritings
from pale_harbor.core.traffic.taste import USUAL_TASTE, Taste, clicks_on

RANKINGS = st.permutations(range(12)).flatmap(
    lambda all_of: st.tuples(st.just(list(all_of)[:8]), st.permutations(range(12)).map(lambda other: list(other)[:8]))
)


@given(RANKINGS, st.integers(1, 14), st.integers(0, 1_000))
def test_both_teams_choose_the_best_that_is_left_and_as_often(
    rankings: tuple[list[int], list[int]], depth: int, seed: int
):
    live, candidate = rankings
    random = Random(seed)
    made = team_draft(live, candidate, depth, lambda: random.random() < 0.5)
    assert len(set(made.keys)) == len(made.keys) == min(depth, len({*live, *candidate}))
    for place, (key, team) in enumerate(zip(made.keys, made.teams, strict=True)):
        before = set(made.keys[:place])
        if team is not None:
            own = live if team == "live" else candidate
            assert key == next(one for one in own if one not in before)
        chosen = made.teams[: place + 1]
        assert abs(chosen.count("live") - chosen.count("candidate")) <= 1
    # What neither chose stands at the end.
    assert None not in made.teams[: len([team for team in made.teams if team])]


def test_the_papers_rounds_by_hand():
    heads = iter([False, True, False])
    made = team_draft("abcd", "bedc", 9, lambda: next(heads))
    # Tails: the candidate takes b, then the live one a. Heads: the live one takes c, then the candidate e. Tails: the
    # candidate takes d; then the live one has nothing left.
    assert "".join(made.keys) == "baced"
    assert made.teams == ["candidate", "live", "live", "candidate", "candidate"]
    # What only one of them has follows without a team: there was nothing to choose it against.
    assert team_draft("a", "abc", 3, lambda: True) == Interleaved(["a", "b", "c"], ["live", None, None])
    assert team_draft("", "ab", 1, lambda: True) == Interleaved(["a"], [None])


def test_the_paper_credits_by_rows_clicked():
    made = Interleaved(["a", "b", "c", "d"], ["live", "candidate", "candidate", None])
    assert preferred(made, {"b", "c", "a"}) == "candidate"
    assert preferred(made, {"a", "c"}) == "tie"
    assert preferred(made, {"a"}) == "live"
    assert preferred(made, {"d"}) == preferred(made, set()) == "tie"


def test_evidence_by_hand():
    # One win and no loss: the mixture says one half, as does the share of one half.
    assert isclose(sureness(1, 0).evidence, 1.0)
    # Ten wins: B(20, 10) / B(10, 10) of the mixture against 2^-10.
    told = sureness(10, 0)
    by_hand = 1.0
    for win in range(10):
        by_hand *= (10 + win) / (20 + win) / 0.5
    assert isclose(told.evidence, by_hand)
    assert told.high == 1.0
    # Four and a half times as likely is not enough; from fifteen wins on it is.
    assert told.low < 0.5
    assert sureness(14, 0).low < 0.5 < sureness(15, 0).low
    assert sureness(14, 0).evidence < 20 < sureness(15, 0).evidence


def test_nothing_is_claimed_between_equals_however_often_one_looks():
    random = Random(11)
    claimed = 0
    for _ in range(200):
        wins = losses = 0
        for _ in range(400):
            if random.random() < 0.5:
                wins += 1
            else:
                losses += 1
            if sureness(wins, losses).evidence >= 20:
                claimed += 1
                break
    assert claimed <= 10


def test_intervals_are_the_same_seen_from_the_other_side():
    one, other = sureness(30, 12), sureness(12, 30)
    assert isclose(one.low, 1 - other.high, abs_tol=1e-12)
    assert isclose(one.evidence, other.evidence)
    assert one.evidence > 1
    # It decides just when one half is left out.
    for wins in range(40, 90):
        told = sureness(wins, 40)
        assert (told.low > 0.5) == (log(told.evidence) > log(20))


@pytest.mark.parametrize(("wins", "losses", "sure"), [(-1, 0, 0.9), (0, -1, 0.9), (0, 0, 0.0), (0, 0, 1.0)])
def test_what_is_no_count_is_refused(wins: int, losses: int, sure: float):
    with pytest.raises(ValueError, match="counts"):
        sureness(wins, losses, sure)


def visit(shown: str, clicked: str = "", succeeded: str = "") -> Visit[str]:
    return Visit(tuple(shown), frozenset(clicked), frozenset(succeeded))


def test_one_list_by_hand():
    # Before anything is known every share is one half, and the patience 0.9. Nothing is clicked from c on, once it is
    # read, with 0.5; so from b on with 0.5 (0.1 + 0.9 0.5) = 0.275. After the click on a: satisfied 0.5, stopped
    # 0.5 0.1 = 0.05, read on 0.5 0.9 0.275 = 0.12375; so b was read with 0.12375 / 0.67375, and c, once b was read
    # and not clicked, with 0.45 / 0.55 of that.
    reads, satisfied = expected([Counts()] * 3, 0, 0.9)
    assert isclose(satisfied, 0.5 / 0.67375)
    assert reads == pytest.approx([1, 0.12375 / 0.67375, 0.12375 / 0.67375 * 0.45 / 0.55])
    # Without a click the first row was read, and the next ones perhaps.
    reads, satisfied = expected([Counts()] * 2, None, 0.9)
    assert (reads, satisfied) == (pytest.approx([1, 0.45 / 0.55]), 0)
    # Below the last row nobody can read on.
    assert expected([Counts()], 0, 0.9) == ([1.0], 0.5)


def test_whoever_says_so_is_believed():
    [said, silent] = (appeals([visit("ab", "ab", own)] * 30)["a"] for own in ("a", ""))
    assert said.satisfying > 0.9
    # Somebody read on after it.
    assert silent.satisfying < 0.1
    assert (said.clicked, round(said.read)) == (30, 30)


def test_no_visit_says_nothing():
    assert appeals([]) == {}
    told = appeals([visit("")])
    assert told == {}


@given(st.lists(st.tuples(st.permutations("abcd"), st.sets(st.sampled_from("abcd"))), min_size=1, max_size=8))
def test_shares_are_shares_and_more_is_surer(seen: list[tuple[list[str], set[str]]]):
    visits = [Visit(tuple(shown), frozenset(clicked)) for shown, clicked in seen]
    once, often = appeals(visits), appeals(visits * 50)
    for told in (*once.values(), *often.values()):
        assert 0 < told.good < min(told.attractive, told.satisfying) < 1
        assert told.read >= told.clicked - 1e-9
    for key, own in once.items():
        assert own.clicked * 50 == often[key].clicked
        if own.clicked:
            assert often[key].deviation < own.deviation


@pytest.mark.parametrize("patience", [0.8, 0.95])
def test_clicks_of_a_known_taste_are_read_as_what_they_are(patience: float):
    random, taste = Random(5), Taste(attract=(0.1, 0.6), satisfy=(0.1, 0.7), patience=patience)
    visits: list[Visit[str]] = []
    for _ in range(4_000):
        # The good one stands lower than it should, most of the time.
        order = "abcde" if random.random() < 0.8 else "".join(random.sample("abcde", 5))
        clicks = clicks_on([int(key == "d") for key in order], taste, random)
        visits.append(visit(order, "".join(order[place] for place in clicks.places)))
    told = appeals(visits)
    assert max(told, key=lambda key: told[key].good) == "d"
    assert abs(told["d"].attractive - 0.6) < 0.06
    assert abs(told["d"].satisfying - 0.7) < 0.1
    assert all(abs(told[key].attractive - 0.1) < 0.05 for key in "abce")
    # Clicked less often than the first one is, which is no better than the others.
    assert told["d"].good > 5 * max(told[key].good for key in "abce")


def test_a_grade_from_its_bound_on():
    at = Appeal(0.5, 0.5, 0.25, 0.1, 3, 2)
    assert suggested_grade(at, {1: 0.1, 2: 0.25, 3: 0.2501}) == 2
    assert suggested_grade(at, {1: 0.2501}) == 0


def session(*asked: tuple[str, float, bool]) -> list[Asked]:
    return [Asked(*one) for one in asked]


@pytest.mark.parametrize(
    ("first", "then", "kind", "words"),
    [
        ("harpon", "harpoon", Rewritten.SLIP, ("harpon", "harpoon")),
        ("fogbell", "fog bell", Rewritten.SLIP, ("fogbell", "fog bell")),
        # Two of six letters are a third; of five they are more.
        ("sextan", "sxtant", Rewritten.SLIP, ("sextan", "sxtant")),
        ("boat", "bots", Rewritten.WORD, ("boat", "bots")),
        ("boat lamp", "ship lamp", Rewritten.WORD, ("boat", "ship")),
        ("lamp", "brass lamp", Rewritten.MORE, ("", "")),
        ("old brass lamp", "lamp", Rewritten.FEWER, ("", "")),
        ("old lamp", "brass lantern", Rewritten.OTHER, ("", "")),
    ],
)
def test_what_became_of_the_words(first: str, then: str, kind: Rewritten, words: tuple[str, str]):
    [found] = rewritings([session((first, 0, False), (then, 10, True))])
    assert (found.kind, (found.before, found.after), found.sessions) == (kind, words, 1)


def test_a_rewriting_is_from_bad_to_well_within_a_while_and_once_a_session():
    again = session(("harpon", 0, False), ("Harpoon ", 300, True), ("harpon", 310, False), ("harpoon", 320, True))
    assert [(one.first, one.then, one.sessions) for one in rewritings([again, again])] == [("harpon", "harpoon", 2)]
    assert rewritings([session(("harpon", 0, False), ("harpoon", 300.1, True))]) == []
    assert rewritings([session(("harpon", 0, True), ("harpoon", 3, True))]) == []
    assert rewritings([session(("harpon", 0, False), ("harpoon", 3, False))]) == []
    assert rewritings([session(("Fog  bell", 0, False), ("fog bell", 3, True))]) == []


def test_who_runs_out_of_patience_reads_no_further():
    assert clicks_on([3, 3, 3], Taste((0, 0, 0, 1), (0, 0, 0, 0), patience=0.0), Random(1)).places == [0]
    assert clicks_on([0] * 50, Taste((1.0,), (0.0,), patience=1.0), Random(1)).places == list(range(50))
    assert USUAL_TASTE.attract[3] > USUAL_TASTE.attract[0]
