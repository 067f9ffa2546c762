"""Lists of what visitors asked, told by their content."""

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.past_queries import LONGEST_PAST_QUERY, PastQuery, past_queries_in


def test_lines_with_and_without_a_number():
    assert past_queries_in("fog bell\t3\r\n\nlight\nfog bell\t \n light\t2\n", "asked.tsv") == [
        PastQuery("fog bell", 4),
        PastQuery("light", 3),
    ]


def test_rows_have_a_language():
    csv = 'query,asked,language\n"fog, bell",3,en\nlight,,\nlight,2,de\n'
    assert past_queries_in(csv, "asked.csv") == [
        PastQuery("fog, bell", 3, "en"),
        PastQuery("light", 2, "de"),
        PastQuery("light", 1),
    ]
    lines = '{"query": "phare", "asked": 7, "language": "fr"}\n{"query": "log"}\n'
    assert past_queries_in(lines, "asked.jsonl") == [PastQuery("phare", 7, "fr"), PastQuery("log", 1)]


def test_the_most_asked_stand_first_and_equals_in_order():
    assert [one.query for one in past_queries_in("b\t1\na\t1\nc\t2\n", "x")] == ["c", "a", "b"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("fog\tmany", "whole number from 1 on"),
        ("fog\t0", "whole number from 1 on"),
        ("fog\t-1", "whole number from 1 on"),
        ("fog\t99999999999999999999", "whole number from 1 on"),
        ("fog\t٣", "whole number from 1 on"),
        ("fog\x00", "line 1"),
        ("a" * (LONGEST_PAST_QUERY + 1), "longer than 1,000"),
        ('{"asked": 3}', 'needs "query"'),
        ('{"query": 3}', 'needs "query"'),
        ('{"query": "fog", "language": "' + "x" * 201 + '"}', "language is longer"),
        ('{"query": ', "not JSON"),
        ("\n\n", "holds no query"),
    ],
)
def test_what_is_wrong_is_told(text: str, said: str):
    with pytest.raises(BadInput, match=said):
        past_queries_in(text, "asked")


def test_the_longest_query_is_taken():
    assert len(past_queries_in("a" * LONGEST_PAST_QUERY, "asked")) == 1
