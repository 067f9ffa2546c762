"""What a source's fields seem to be: a guess that loses no letter, and forgives a little where somebody looks at it."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.formats.records import FieldPlan, ImportPlan, RawRow
from pale_harbor.formats.records.conversion import Unfit, date_of, number_of, record_of
from pale_harbor.formats.records.guessing import TOLERANCE, guessed_plan

DELIMITED = ImportPlan(format="delimited")


def guessed(values: list[Any], plan: ImportPlan = DELIMITED, tolerance: float = 0.0) -> FieldPlan:
    """The guess for a field with these values, beside a key."""
    rows = [{"id": f"k{number}", "field": value} for number, value in enumerate(values)]
    found = guessed_plan(plan, rows, tolerance).field("field")
    assert found is not None
    return found


@pytest.mark.parametrize(
    ("values", "kind"),
    [
        (["1846", "-3", "2.5", "1e3"], "number"),
        (["1846", "007"], "exact"),
        (["+49", "+50"], "exact"),
        (["1,846", "2"], "exact"),
        (["1846-05-03", "1900-01"], "date"),
        (["3.5.1846"], "date"),
        (["1846-02-30"], "exact"),
        (["yes", "No", "TRUE"], "flag"),
        (["yes", "perhaps"], "exact"),
        (["SMC-1907-41", "L.77/2"], "exact"),
        (["Fog bell", "Toggle-head harpoon"], "text"),
        (["nan", "inf"], "exact"),
        (["١٢٣"], "exact"),
        (["\u0661"], "exact"),
    ],
)
def test_the_kind_of_a_delimited_column(values: list[str], kind: str):
    assert guessed(values).kind == kind


@pytest.mark.parametrize(
    ("values", "kind"),
    [
        # Codes: blanks in a tenth of them at most, and 40 letters on average at most.
        (["SMC-1907-41"] * 9 + ["L 77"], "exact"),
        (["SMC-1907-41"] * 8 + ["L 77"], "text"),
        (["x" * 40, "y" * 40], "exact"),
        (["x" * 40, "y" * 41], "text"),
    ],
)
def test_what_looks_like_codes_is_exact(values: list[str], kind: str):
    assert guessed(values).kind == kind


@pytest.mark.parametrize(
    ("values", "kind", "several"),
    [
        ([1, 2.5], "number", False),
        (["1", "2"], "exact", False),
        ([True, False], "flag", False),
        ([["ash", "iron"], ["tin"]], "exact", True),
        ([[1], [2, 3]], "number", True),
        ([1, "one"], "exact", False),
        (["1846-05-03"], "date", False),
        (["3.5.1846"], "exact", False),
        ([None, None], "text", False),
    ],
)
def test_typed_values_are_what_they_are(values: list[Any], kind: str, several: bool):
    found = guessed(values, ImportPlan(format="json_lines"))
    assert (found.kind, found.several, found.split) == (kind, several, None)


def test_values_that_stand_together_in_a_cell_are_parted():
    assert guessed(["brass|ash", "tin", "iron|oak|tin"]).split == "|"
    assert guessed(["a; b", "c; d"]).split == ";"
    assert guessed(["one semicolon; in a hundred", *["none"] * 99]).split is None
    assert guessed(["a long text; with semicolons " * 20] * 3).split is None


def test_a_few_wrong_values_are_forgiven_only_where_somebody_looks():
    years = [str(year) for year in range(1700, 1799)]
    assert guessed([*years, "about 1800"]).kind == "exact"
    assert guessed([*years, "about 1800"], tolerance=TOLERANCE).kind == "number"
    assert guessed(["1", "2", "x"], tolerance=TOLERANCE).kind == "exact"


@pytest.mark.parametrize(
    ("rows", "roles"),
    [
        ([{"ID": "1", "Name": "Fog bell"}, {"ID": "2", "Name": "Old lamp"}], {"ID": "key", "Name": "title"}),
        (
            [{"title": "Fog bell", "code": "a-1"}, {"title": "Old lamp", "code": "a-2"}],
            {"code": "key", "title": "title"},
        ),
        ([{"lang": "en", "t": "Fog bell"}, {"lang": "de", "t": "Alte Lampe"}], {"lang": "language", "t": "title"}),
        ([{"t": "Fog bell", "year": "1846"}, {"t": "Old lamp", "year": "1850"}], {"t": "title"}),
        (
            [{"year": str(n), "code": f"b{max(1, n)}"} for n in range(61)],
            {"code": "key"},
        ),
        ([{"n": "1", "x": "de"}, {"n": "2", "x": "de"}], {"n": "key", "x": "language"}),
        ([{"n": "1", "foto": "a.svg"}, {"n": "2", "foto": "b.png"}], {"n": "key", "foto": "picture"}),
        ([{"a": "same text", "b": "same text"}] * 2, {"a": "title"}),
    ],
)
def test_roles_are_told_by_name_and_content(rows: list[dict[str, Any]], roles: dict[str, str]):
    plan = guessed_plan(DELIMITED, rows)
    assert {one.name: one.role for one in plan.fields or [] if one.role} == roles
    assert plan.key == next((name for name, role in roles.items() if role == "key"), None)


numbers = st.one_of(st.integers(-(10**30), 10**30), st.floats(allow_nan=False, allow_infinity=False))


@given(number=numbers)
def test_a_number_is_read_from_its_text(number: float):
    assert number_of(str(number)) == number


@given(text=st.text(max_size=12))
def test_what_is_read_as_a_number_or_a_date_is_one(text: str):
    number = number_of(text)
    assert number is None or abs(number) < float("inf")
    day = date_of(text)
    assert day is None or date_of(day) == day


@given(cells=st.lists(st.text(max_size=8), min_size=1, max_size=30))
def test_a_guess_from_all_rows_rejects_none(cells: list[str]):
    rows = [{"id": f"k{number}", "field": cell} for number, cell in enumerate(cells) if "\x00" not in cell]
    plan = guessed_plan(DELIMITED, rows)
    for number, values in enumerate(rows, start=1):
        filled = {name: value for name, value in values.items() if value}
        try:
            record_of(RawRow(number, filled), number, plan)
        except Unfit as unfit:
            # Half of a surrogate pair cannot be kept as anything.
            assert "surrogate" in str(unfit)


def test_a_field_can_be_left_out_and_rows_numbered():
    plan = ImportPlan(fields=[FieldPlan(name="secret", keep=False), FieldPlan(name="tags", several=True, split=";")])
    record = record_of(RawRow(7, {"title": "Fog", "secret": "x", "tags": "a; b ;"}), 7, plan)
    assert (record.key, record.values) == ("00000007", {"title": "Fog", "tags": ["a", "b"]})


def test_several_values_where_one_is_planned_are_told():
    plan = ImportPlan(key="id", fields=[FieldPlan(name="tags", kind="exact")])
    with pytest.raises(Unfit, match='the field "tags" holds 2 values, but one only by the plan'):
        record_of(RawRow(1, {"id": "a", "tags": ["x", "y"]}), 1, plan)
    assert record_of(RawRow(1, {"id": "a", "tags": ["x"]}), 1, plan).values == {"id": "a", "tags": "x"}
