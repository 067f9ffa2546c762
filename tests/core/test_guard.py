"""Guard rules: what is written, what holds at, below and above a bound, and which queries are named."""

import pytest

from pale_harbor.core.guard.checking import Checked, check
from pale_harbor.core.guard.rule import Bound, GuardRule, guard_rule, rules_in
from pale_harbor.core.measures import measure
from pale_harbor.core.tuning.rails import rail
from pale_harbor.errors import BadInput

TAGS = {"a": ["code"], "b": ["code", "long one"], "c": []}
BEFORE = {"a": 0.5, "b": 0.5, "c": 0.8}


def checked(text: str, after: dict[str, float], before: dict[str, float] | None = BEFORE, **more: float) -> Checked:
    return check(guard_rule(text), after, before, TAGS, more or None)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("ndcg@10 may not drop more than 0.01", ("ndcg@10", Bound.DROP, 0.01, None, False)),
        ("NDCG@10  May Not Drop", ("ndcg@10", Bound.DROP, 0.0, None, False)),
        ("tag:code rr >= 0.95", ("rr", Bound.AT_LEAST, 0.95, "code", False)),
        ('tag:"long one" rr>.5', ("rr", Bound.ABOVE, 0.5, "long one", False)),
        ("each query ap <= 1", ("ap", Bound.AT_MOST, 1.0, None, True)),
        ("each query tag:code success@3 < 2", ("success@3", Bound.BELOW, 2.0, "code", True)),
    ],
)
def test_a_rule_is_read_as_it_is_written(text: str, expected: tuple[str, Bound, float, str | None, bool]):
    name, *rest = expected
    rule = guard_rule(text)
    assert rule.measure == measure(name)
    assert [rule.bound, rule.limit, rule.tag, rule.each] == rest
    assert rule.text == text
    assert rule.needs_before is (rule.bound is Bound.DROP)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("letters may not rise more than 0.2", (Bound.RISE, 0.2, None, False, 10)),
        ("Letters@3 may not rise", (Bound.RISE, 0.0, None, False, 3)),
        ("each query tag:code letters@100 <= 4", (Bound.AT_MOST, 4.0, "code", True, 100)),
    ],
)
def test_a_rule_about_letters_is_read(text: str, expected: tuple[Bound, float, str | None, bool, int]):
    rule = guard_rule(text)
    assert (rule.bound, rule.limit, rule.tag, rule.each, rule.letters) == expected
    assert rule.measure is None
    assert rule.needs_before is (rule.bound is Bound.RISE)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("letters may not drop", "fewer letters are better"),
        ("ndcg@10 may not rise", "more of ndcg@10 is better"),
        ("letters@0 <= 3", "among the first 1 to 100"),
        ("letters@101 <= 3", "among the first 1 to 100"),
    ],
)
def test_letters_may_rise_and_measures_drop_not_the_other_way_round(text: str, said: str):
    with pytest.raises(BadInput, match=said):
        guard_rule(text)


def test_letters_are_no_rail():
    with pytest.raises(BadInput, match="no rail"):
        rail("letters may not rise")


@pytest.mark.parametrize(("after", "holds"), [(3.19, True), (3.2, True), (3.21, False), (1.0, True)])
def test_letters_may_rise_up_to_the_limit(after: float, holds: bool):
    own = checked("letters may not rise more than 0.2", {"a": after}, {"a": 3.0})
    assert own.holds is holds
    assert [one.query_id for one in own.queries] == ([] if holds else ["a"])


def test_of_letters_that_rose_the_worst_stand_first():
    own = checked("letters may not rise", {"a": 4.0, "b": 9.0, "c": 1.0}, {"a": 3.0, "b": 3.0, "c": 3.0})
    assert [one.query_id for one in own.queries] == ["b", "a"]
    each = checked("each query letters may not rise more than 1", {"a": 4.0, "b": 9.0}, {"a": 3.0, "b": 3.0})
    assert [one.query_id for one in each.queries] == ["b"]


def test_that_expectations_hold_is_a_rule_without_a_measure():
    assert guard_rule("Expectations  hold") == GuardRule("Expectations  hold", None)
    assert not guard_rule("expectations hold").needs_before


@pytest.mark.parametrize(
    "text", ["", "ndcg@10", "ndcg@10 may drop", "rr >= much", "tag: rr > 1", "nothing > 1", "rr = 1"]
)
def test_what_is_no_rule_is_refused(text: str):
    with pytest.raises(BadInput):
        guard_rule(text)


def test_a_file_of_rules_may_hold_comments_and_tells_each_wrong_line():
    assert [rule.text for rule in rules_in("\n# all\nrr > 0.5 # at night\n  tag:a#b rr > 0\n")] == [
        "rr > 0.5",
        "tag:a#b rr > 0",
    ]
    with pytest.raises(BadInput) as raised:
        rules_in("rr > 0.5\nrr\nap\n")
    assert [where for where, _ in raised.value.problems] == ["line 2", "line 3"]


@pytest.mark.parametrize(
    ("text", "holds"),
    [
        # The mean goes from 0.6 to 0.5.
        ("rr may not drop more than 0.11", True),
        ("rr may not drop more than 0.1", True),
        ("rr may not drop more than 0.099999", False),
        ("rr may not drop", False),
        ("rr >= 0.5", True),
        ("rr > 0.5", False),
        ("rr <= 0.5", True),
        ("rr < 0.5", False),
        ("rr >= 0.500001", False),
        ("rr < 0.500001", True),
    ],
)
def test_a_bound_holds_up_to_its_limit(text: str, holds: bool):
    found = checked(text, {"a": 0.1, "b": 0.6, "c": 0.8})
    assert found.holds is holds
    assert found.said == "0.6000 to 0.5000"
    assert bool(found.queries) is not holds


def test_a_broken_rule_names_what_pulls_it_down_the_worst_first():
    after = {"a": 0.2, "b": 0.4, "c": 0.9}
    assert [one.query_id for one in checked("rr may not drop", after).queries] == ["a", "b"]
    assert [one.query_id for one in checked("rr >= 0.6", after).queries] == ["a", "b"]
    assert [one.query_id for one in checked("rr < 0.4", after).queries] == ["c", "b"]
    worst = checked("rr may not drop", after).queries[0]
    assert (worst.before, worst.after) == (0.5, 0.2)


def test_each_query_is_held_to_a_rule_by_itself():
    after = {"a": 0.2, "b": 0.45, "c": 1.0}
    found = checked("each query rr may not drop more than 0.1", after)
    assert (found.holds, found.said, [one.query_id for one in found.queries]) == (False, "1 of 3 queries", ["a"])
    assert checked("each query rr may not drop more than 0.3", after).said == "every query"
    assert [one.query_id for one in checked("each query tag:code rr >= 0.5", after).queries] == ["a", "b"]


def test_a_tag_counts_its_queries_alone_and_weights_count():
    after = {"a": 1.0, "b": 0.0, "c": 0.0}
    assert checked("tag:code rr >= 0.5", after).holds
    assert checked('tag:"long one" rr <= 0', after).holds
    assert checked("rr >= 0.75", after, a=3.0, b=1.0, c=0.0).holds
    assert not checked("rr >= 0.76", after, a=3.0, b=1.0, c=0.0).holds


def test_what_cannot_be_checked_is_refused():
    with pytest.raises(BadInput, match="--against"):
        checked("rr may not drop", {"a": 1.0}, None)
    with pytest.raises(BadInput, match=r'the tag "codes".*code, long one'):
        checked("tag:codes rr > 0", {"a": 1.0})
    assert checked("rr > 0", {"a": 1.0}, None).said == "1.0000"
