"""The demo's files: what its README says of them."""

import re
from collections import Counter

import orjson

from pale_harbor.work.demo import DEMO


def test_four_hundred_records_that_answer_a_query_have_texts_of_their_own():
    lines = (DEMO / "records.jsonl").read_text("utf-8").splitlines()
    sentences: dict[str, set[str]] = {}
    for record in map(orjson.loads, lines):
        sentences[record["id"]] = set(re.split(r"(?<=[.!?])\s+", record["description"]))
    records_with = Counter(sentence for of_record in sentences.values() for sentence in of_record)
    answers = {
        key
        for _, _, key, grade in map(str.split, (DEMO / "grades.txt").read_text("utf-8").splitlines())
        if int(grade) >= 2
    }
    # The first 330 were written one by one.
    later = sorted(answers - {f"sm{number:04d}" for number in range(1, 331)})
    own = [key for key in later if all(records_with[sentence] == 1 for sentence in sentences[key])]
    assert len(own) == 404
