"""Formulas: what they come to, what they refuse and where, and that every step can be reckoned again."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.blend import FormulaError, formula_of, shown_name

KNOWN = {"words": 4.0, "space.meaning": 0.5, "rank.words": 2.0, "rank.meaning": math.inf, "signal.asked": 7.0}


def value(text: str) -> float:
    formula = formula_of(text, list(KNOWN))
    return float(formula.values({name: np.array([one]) for name, one in KNOWN.items()}, 1)[0])


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("words + 2 * space.meaning", 5.0),
        ("(words + 2) * space.meaning", 3.0),
        ("words - 1 - 1", 2.0),
        ("12 / 2 / 3", 2.0),
        ("-words * 2", -8.0),
        ("2 * -words", -8.0),
        ("--words", 4.0),
        ("min(words, 3, 9) + max(1, 2)", 5.0),
        ("ln(1) + sqrt(words) + abs(-3)", 5.0),
        ("above(words, 3) + above(3, words)", 1.0),
        ("1 / (60 + rank.words)", 1 / 62),
        # A rank in a list that does not hold the record is infinite: it adds nothing.
        ("1 / (60 + rank.meaning)", 0.0),
        ("words / 0", 0.0),
        ("ln(0) + ln(-1) + sqrt(-4)", 0.0),
        ("rank.meaning - rank.meaning", 0.0),
        ("1e300 * 1e300", 0.0),
        ("1.5e1", 15.0),
    ],
)
def test_what_a_formula_comes_to(text: str, expected: float):
    assert value(text) == pytest.approx(expected)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("words +", "line 1, column 8: expected a number, a name or a parenthesis, but the formula ends."),
        ("words words", 'line 1, column 7: expected an operator or the end, not "words".'),
        ("(words", 'line 1, column 7: expected ")", but the formula ends.'),
        ("max(words)", 'line 1, column 1: "max" takes 2 to 10 of them, here are 1.'),
        ("maxx(1, 2)", 'line 1, column 1: there is no function "maxx". Did you mean "max"?'),
        ("1 +\nspace.meanin", 'line 2, column 1: there is no "space.meanin". Did you mean "space.meaning"?'),
        ("words; 1", 'line 1, column 6: ";" cannot stand in a formula.'),
        ("__import__", "there is no"),
        ("words.__class__", "there is no"),
        ("words ** 2", "expected a number"),
        ("(" * 60 + "1" + ")" * 60, "nests 50 deep at most"),
        ("1+" * 1500 + "1", "2,000 characters at most"),
    ],
)
def test_what_cannot_be_read_is_said_with_its_place(text: str, said: str):
    with pytest.raises(FormulaError) as caught:
        formula_of(text, list(KNOWN))
    assert said in str(caught.value)


names = st.sampled_from(list(KNOWN))
formulas = st.recursive(
    names | st.integers(0, 9).map(str),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda three: f"({three[0]} {three[1]} {three[2]})"),
        inner.map(lambda one: f"-{one}"),
        st.tuples(st.sampled_from(["min", "max"]), inner, inner).map(
            lambda three: f"{three[0]}({three[1]}, {three[2]})"
        ),
        st.tuples(st.sampled_from(["ln", "sqrt", "abs"]), inner).map(lambda two: f"{two[0]}({two[1]})"),
    ),
    max_leaves=12,
)


@given(text=formulas)
def test_the_last_step_is_the_value_and_columns_do_as_single_records(text: str):
    formula = formula_of(text, list(KNOWN))
    steps = formula.steps(KNOWN)
    alone = value(text)
    if steps and math.isfinite(steps[-1].value):
        assert steps[-1].value == alone
    columns: dict[str, Any] = {name: np.array([1.0, one, 0.0]) for name, one in KNOWN.items()}
    assert formula.values(columns, 3)[1] == alone
    assert np.isfinite(formula.values(columns, 3)).all()


@given(text=st.text(max_size=40))
def test_any_text_is_read_or_refused_in_words(text: str):
    try:
        formula_of(text, list(KNOWN))
    except FormulaError as error:
        assert str(error).startswith("line ")


def test_a_field_of_an_odd_name_is_quoted():
    assert shown_name("reading", "old name") == 'reading."old name"'
    formula = formula_of('2 * reading."old name"', [shown_name("reading", "old name")])
    assert formula.names == ('reading."old name"',)
