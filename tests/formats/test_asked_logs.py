"""Logs of a search that is not ours."""

from datetime import UTC, datetime

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.asked_logs import LoggedQuery, logged_queries

AT = datetime(2031, 5, 1, 10, tzinfo=UTC)


def test_lines_of_json_and_rows_of_csv_say_the_same():
    as_json = (
        '{"query": " eel ", "at": "2031-05-01T10:00:00Z", "session": "v1", "found": 3, '
        '"clicked": ["s1", "s|2", "s1"]}\n'
        '{"query": "twine", "at": 1935396000, "succeeded": "s3"}\n'
    )
    told = logged_queries(as_json, "log.jsonl")
    assert told == [
        LoggedQuery(query="eel", at=AT, session="v1", found=3, clicked=("s1", "s|2")),
        LoggedQuery(query="twine", at=AT, succeeded=("s3",)),
    ]
    as_csv = (
        "query,at,session,found,clicked,succeeded\n"
        "eel,2031-05-01 12:00:00+02:00,v1,3,s1| s2 |,\n"
        "twine,1935396000.0,,,,s3\n"
    )
    (eel, twine) = logged_queries(as_csv, "log.csv")
    assert (eel.at, eel.clicked, twine) == (AT, ("s1", "s2"), told[1])


def test_a_moment_without_a_zone_is_in_utc():
    (one,) = logged_queries("query,at\neel,2031-05-01T10:00:00\n", "log.csv")
    assert one.at == AT


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ('{"at": "2031-05-01"}', 'a row needs "query"'),
        ('{"query": " ", "at": "2031-05-01"}', 'a row needs "query"'),
        ('{"query": "eel"}', 'a row needs "at"'),
        ('{"query": "eel", "at": "yesterday"}', "is no time"),
        ('{"query": "eel", "at": "1e99"}', "is no time"),
        ('{"query": "eel", "at": 99999999999999999}', "is no moment in seconds"),
        ('{"query": "eel", "at": "2031-05-01", "found": -1}', "a whole number from 0 on"),
        ('{"query": "eel", "at": "2031-05-01", "found": 1.5}', "a whole number from 0 on"),
        ('{"query": "eel\\u0000", "at": "2031-05-01"}', "this holds a NUL character"),
    ],
)
def test_what_is_wrong_is_told_by_its_line(row: str, words: str):
    with pytest.raises(BadInput, match=r"log\.jsonl cannot be used") as told:
        logged_queries('{"query": "eel", "at": "2031-05-01"}\n' + row, "log.jsonl")
    ((where, what),) = told.value.problems
    assert where == "line 2"
    assert words in what


def test_texts_that_are_no_log_are_refused():
    with pytest.raises(BadInput, match="is no log"):
        logged_queries("eel\ntwine\n", "queries.txt")
    with pytest.raises(BadInput, match="holds no query"):
        logged_queries("query,at\n", "log.csv")


def test_keys_are_bounded():
    hundred = '{"query": "eel", "at": "2031-05-01", "clicked": [' + ", ".join(f'"{n}"' for n in range(100)) + "]}"
    assert len(logged_queries(hundred, "log.jsonl")[0].clicked) == 100
    with pytest.raises(BadInput, match="cannot be used"):
        logged_queries(hundred.replace('"0"', '"0", "x"'), "log.jsonl")
