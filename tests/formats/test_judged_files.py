"""Judged sets in files: three shapes read alike, what is written reads back, and every wrong line is named."""

import typing
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.cli.output import write_text
from pale_harbor.core.judging import expectation
from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import (
    MOST_ASKED,
    FileJudgment,
    JudgedFormat,
    JudgedQuery,
    grade_scale,
    judgments_in,
    listed_queries,
    queries_in,
    written_judgments,
    written_queries,
)
from pale_harbor.formats.text_files import text_of

# Whatever a database can keep: no lone surrogates, no zero.
texts = st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\x00"), max_size=20)
ids = st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\x00"), min_size=1, max_size=8)
expectations = st.one_of(
    st.builds(expectation, st.just("among_first"), ids, st.integers(1, 50), texts),
    st.builds(expectation, st.just("never"), ids, note=texts),
    st.builds(expectation, st.just("more_than"), number=st.integers(0, 50), note=texts),
    st.builds(expectation, st.just("nothing"), note=texts),
)
queries_strategy = st.lists(
    st.builds(
        JudgedQuery,
        query_id=ids,
        query=ids,
        need=texts,
        tags=st.lists(st.text("abc,;é", min_size=1).filter(lambda tag: tag.strip() == tag), max_size=3).map(tuple),
        filters=st.sampled_from([(), ({"field": "kind", "one_of": ["lamp", "a;b"]},)]),
        language=st.sampled_from([None, "de"]),
        asked=st.none() | st.integers(0, 10**9),
        nothing_to_find=st.booleans(),
        locked=st.booleans(),
        expectations=st.none() | st.lists(expectations, max_size=3).map(tuple),
    ),
    max_size=5,
    unique_by=lambda query: query.query_id,
)
forms = st.sampled_from(typing.get_args(JudgedFormat)[1:])
said = st.builds(
    FileJudgment,
    query_id=ids,
    record=ids,
    grade=st.none() | st.integers(0, 3),
    judge=st.sampled_from(["", "Ada", "Bo, the second"]),
    note=texts,
    judged_at=st.datetimes(datetime(1900, 1, 1), datetime(9000, 1, 1), timezones=st.just(UTC)),  # noqa: DTZ001 - a bound
)
judgments_strategy = st.lists(
    said | said.filter(lambda one: one.grade is not None).map(lambda one: replace(one, judge="", settled=True)),
    max_size=6,
    unique_by=lambda one: (one.query_id, one.record, one.judge, one.settled),
)


def through_a_file(text: str, folders: pytest.TempPathFactory) -> str:
    path = folders.mktemp("judged") / "file"
    write_text(path, text)
    return text_of(path)


@given(queries=queries_strategy, form=forms)
def test_queries_that_are_written_read_back_as_they_were(
    queries: list[JudgedQuery], form: JudgedFormat, tmp_path_factory: pytest.TempPathFactory
):
    assert queries_in(through_a_file(written_queries(queries, form), tmp_path_factory), "file") == queries


@given(judgments=judgments_strategy, form=forms)
def test_judgments_that_are_written_read_back_as_they_were(
    judgments: list[FileJudgment], form: JudgedFormat, tmp_path_factory: pytest.TempPathFactory
):
    assert judgments_in(through_a_file(written_judgments(judgments, form), tmp_path_factory), "file") == judgments


@given(
    grades=st.dictionaries(
        st.tuples(st.text("abcé1", min_size=1), st.text("xyz-9", min_size=1)), st.integers(0, 3), max_size=6
    )
)
def test_settled_grades_go_out_as_columns_and_come_in_again(grades: dict[tuple[str, str], int]):
    judgments = [FileJudgment(query_id=query, record=record, grade=grade) for (query, record), grade in grades.items()]
    again = judgments_in(written_judgments(judgments, "columns"), "file")
    assert {(one.query_id, one.record): one.grade for one in again} == grades


def test_queries_come_in_three_shapes():
    plain = queries_in("q1\tfog bell\nq2\tÅsmoe\n", "file")
    assert [(query.query_id, query.query) for query in plain] == [("q1", "fog bell"), ("q2", "Åsmoe")]
    lines = '{"query_id": "q1", "query": "fog bell", "need": "n", "tags": ["a", "b"], "asked": 12}\n'
    table = 'query_id,query,need,tags,asked\nq1,fog bell,n,"a; b",12\n'
    assert queries_in(lines, "file") == queries_in(table, "file")
    assert queries_in(lines, "file")[0].tags == ("a", "b")


def test_judgments_come_in_three_shapes():
    expected = [FileJudgment(query_id="q1", record="a", grade=3), FileJudgment(query_id="q1", record="b", grade=0)]
    for content in (
        "q1 0 a 3\nq1 0 b 0\n",
        '{"query_id": "q1", "record": "a", "grade": 3}\n{"query_id": "q1", "record": "b", "grade": 0}\n',
        "query_id,record,grade\nq1,a,3\nq1,b,0\n",
    ):
        assert judgments_in(content, "file") == expected


def test_a_time_without_a_zone_is_universal_time():
    told = judgments_in("query_id,record,grade,judge,judged_at\nq1,a,,Ada,2031-05-17T09:30:00\n", "file")
    assert told == [
        FileJudgment(
            query_id="q1",
            record="a",
            grade=None,
            judge="Ada",
            note="",
            judged_at=datetime(2031, 5, 17, 9, 30, tzinfo=UTC),
        )
    ]


def test_grades_of_another_scale_are_refused_with_a_scale_to_take_and_mapped_with_it():
    content = "q1 0 a 4\nq1 0 b 2\nq1 0 c -1\nq1 0 d 0\n"
    with pytest.raises(BadInput) as caught:
        judgments_in(content, "grades.txt")
    assert str(caught.value).splitlines() == [
        "grades.txt cannot be used.",
        "its grades are -1, 0, 2, 4. Say what they are here with a scale, such as -1=0,0=0,2=2,4=3.",
        "query q1, record a: the grade 4 is not one of 0, 1, 2 and 3.",
        "query q1, record c: the grade -1 is not one of 0, 1, 2 and 3.",
    ]
    mapped = judgments_in(content, "grades.txt", grade_scale("-1=0,0=0,2=2,4=3"))
    assert [one.grade for one in mapped] == [3, 2, 0, 0]
    with pytest.raises(BadInput, match="the scale does not say what the grade 4 is here"):
        judgments_in(content, "grades.txt", grade_scale("-1=0,0=0,2=2"))


@pytest.mark.parametrize("written", ["", "4", "4=5", "a=1", "1=1,2"])
def test_a_scale_that_says_nothing_is_refused(written: str):
    with pytest.raises(BadInput, match="says no grade"):
        grade_scale(written)


@pytest.mark.parametrize(
    ("content", "problem"),
    [
        ('{"query_id": "q1", "record": "a", "grade": true}\n', "line 1: the grade 'True' is not a whole number."),
        ("query_id,record,grade\nq1,,3\n", "line 2: a judgment needs query_id, record and grade."),
        ("query_id,record,grade\nq1,a,3\nq1,a,2\n", "line 3: a was graded otherwise for query q1 before."),
        ("query_id,record,grade,judged_at\nq1,a,3,soon\n", "line 2: 'soon' is no time"),
        (
            "query_id,record,grade,judged_at\nq1,a,3,9999-12-31T23:59:59-12:00\n",
            "line 2: '9999-12-31T23:59:59-12:00' is not between the years 1900 and 9000.",
        ),
    ],
)
def test_a_wrong_judgment_is_named_with_its_line(content: str, problem: str):
    with pytest.raises(BadInput) as caught:
        judgments_in(content, "file")
    assert problem in str(caught.value)


def test_how_often_a_query_was_asked_is_a_whole_number_that_every_file_can_hold():
    def asked(times: int) -> int | None:
        return queries_in(f'{{"query_id": "q", "query": "a", "asked": {times}}}\n', "file")[0].asked

    assert MOST_ASKED == 2**53
    assert [asked(0), asked(MOST_ASKED)] == [0, MOST_ASKED]
    with pytest.raises(BadInput, match="is not how often a query was asked"):
        asked(MOST_ASKED + 1)


@pytest.mark.parametrize(
    ("content", "problem"),
    [
        ("no tab here\n", "line 1: a query needs query_id and query."),
        ("q1\ta\nq1\tb\n", "line 2: the query q1 stands here twice."),
        ('{"query_id": "q", "query": "a\\u0000"}\n', "line 1: this row holds"),
        ('{"query_id": "q", "query": "a", "asked": -1}\n', "'-1' is not how often a query was asked"),
        ('{"query_id": "q", "query": "a", "locked": "perhaps"}\n', "locked is yes or no, not 'perhaps'."),
        ('{"query_id": "q", "query": "a", "filters": [{"one_of": ["x"]}]}\n', "its filters cannot be used"),
        (
            '{"query_id": "q", "query": "a", "expectations": [{"kind": "always"}]}\n',
            "its expectations cannot be used: 0.kind: Input should be",
        ),
        (
            '{"query_id": "q", "query": "a", "expectations": [{"kind": "never"}]}\n',
            "line 1: This expectation is about a record: say its key.",
        ),
        ('{"query_id": "q"\n', "line 1: this is not JSON"),
        ('query_id,query\nq1,"a\n', "this row is not CSV"),
    ],
)
def test_a_wrong_query_is_named_with_its_line(content: str, problem: str):
    with pytest.raises(BadInput) as caught:
        queries_in(content, "file")
    assert problem in str(caught.value)


def test_a_plain_list_tells_how_often_each_query_was_asked():
    assert listed_queries("fog bell\t12\n\nlamp\twhat lit the quay\nfog bell\t3\nharpon\nharpon\nharpon\n", "list") == [
        ("fog bell", "", 15),
        ("lamp", "what lit the quay", None),
        ("harpon", "", 3),
    ]


def test_columns_refuse_what_they_could_not_keep_apart():
    with pytest.raises(BadInput, match="holds white space and cannot stand in a file of columns"):
        written_judgments([FileJudgment(query_id="q 1", record="a", grade=1)], "columns")
    with pytest.raises(BadInput, match="The query q1 holds a tab or a line break"):
        written_queries([JudgedQuery(query_id="q1", query="a\tb")], "columns")
