"""Our own CSV files in a spreadsheet: nothing in them is a formula, and all of it reads back."""

import csv
from io import StringIO

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text.word_lists import Replacements, SynonymRule, Synonyms, WordSet
from pale_harbor.formats.judged_files import (
    FileJudgment,
    JudgedQuery,
    judgments_in,
    queries_in,
    written_judgments,
    written_queries,
)
from pale_harbor.formats.spreadsheet_cells import guarded_cell, unguarded_cell
from pale_harbor.formats.word_lists import csv_of, word_list_of

STARTS = ["=1+1", "+fog", "-fog", "@sum", "\tfog", "\rfog"]


@pytest.mark.parametrize("text", STARTS)
def test_what_would_be_a_formula_gets_an_apostrophe(text: str):
    assert guarded_cell(text) == f"'{text}"
    assert guarded_cell(f"'{text}") == f"''{text}"


@pytest.mark.parametrize("text", ["", "fog", "'fog", "f=1", " =1", "''"])
def test_what_is_none_stays_as_it_is(text: str):
    assert guarded_cell(text) == text
    assert unguarded_cell(text) == text


@given(st.text("'=-a", max_size=8))
def test_every_cell_reads_back(text: str):
    assert unguarded_cell(guarded_cell(text)) == text
    assert not guarded_cell(text).startswith(("=", "-"))


def cells(text: str) -> list[str]:
    return [cell for row in csv.reader(StringIO(text, newline="")) for cell in row]


@pytest.mark.parametrize("text", ["=HYPERLINK(1)", "-fog", "'=x"])
def test_queries_judgments_and_word_lists_hold_no_formula_and_read_back(text: str):
    query = JudgedQuery(query_id=f"q{text}", query=text, need=text, tags=(text,))
    written = written_queries([query], "csv")
    assert [(one.query, one.need, one.tags) for one in queries_in(written, "queries")] == [(text, text, (text,))]
    judgment = FileJudgment(query_id="q", record="a", grade=1, judge=text, note=text)
    told = written_judgments([judgment], "csv")
    assert [(one.judge, one.note) for one in judgments_in(told, "judgments")] == [(text, text)]
    lists = [
        WordSet(frozenset({text, "fog"})),
        Replacements(((text, "fog"), ("bell", text))),
        Synonyms((SynonymRule((text,), ("fog", text), False),)),
    ]
    files = [csv_of(one) for one in lists]
    assert [word_list_of(one) for one in files] == lists
    for file in (written, told, *files):
        assert not [cell for cell in cells(file) if cell.startswith(("=", "-", "@", "+"))]
