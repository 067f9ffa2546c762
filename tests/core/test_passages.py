"""Passages are stretches of the text: nothing but blanks and delimiters is left out, and cuts are where they belong."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text.passages import PassageRule, SplitBy, passages
from pale_harbor.core.text.sentence_boundaries import sentence_bounds
from tests.strategies import texts

STANDARD = Path(__file__).parents[1] / "data/SentenceBreakTest.txt"

rules = st.one_of(
    st.tuples(st.sampled_from([SplitBy.SENTENCES, SplitBy.SIZE]), st.integers(1, 9), st.integers(0, 8)).map(
        lambda drawn: PassageRule(drawn[0], drawn[1], min(drawn[2], drawn[1] - 1))
    ),
    st.just(PassageRule(SplitBy.PARAGRAPHS)),
    st.sampled_from(["\n", "; ", "e", "***"]).map(
        lambda delimiter: PassageRule(SplitBy.DELIMITER, delimiter=delimiter)
    ),
)


def standard_cases() -> list[tuple[str, list[int]]]:
    """Text and bounds of every line of the standard's own test."""
    cases: list[tuple[str, list[int]]] = []
    for line in STANDARD.read_text("utf-8").splitlines():
        text, bounds = "", list[int]()
        for part in line.partition("#")[0].split():
            if part == "÷":
                bounds.append(len(text))
            elif part != "×":
                text += chr(int(part, 16))
        if text:
            cases.append((text, bounds))
    return cases


def test_sentences_begin_where_the_standard_says():
    cases = standard_cases()
    assert len(cases) > 500
    for text, bounds in cases:
        assert sentence_bounds(text) == bounds, [f"{ord(c):04X}" for c in text]


@pytest.mark.parametrize(
    ("text", "sentences"),
    [
        ("Fog came. It stayed! Why?", ["Fog came.", "It stayed!", "Why?"]),
        ("He rowed 3.5 miles. Then he slept.", ["He rowed 3.5 miles.", "Then he slept."]),
        ("霧が出た。鐘が鳴った。", ["霧が出た。", "鐘が鳴った。"]),
        ("कोहरा आया। घंटी बजी।", ["कोहरा आया।", "घंटी बजी।"]),
        ("هل جاء الضباب؟ نعم.", ["هل جاء الضباب؟", "نعم."]),
        ("“Fog,” he said. “Ring!”", ["“Fog,” he said.", "“Ring!”"]),
    ],
)
def test_sentences_of_many_scripts(text: str, sentences: list[str]):
    assert [text[start:end] for start, end in passages(text, PassageRule(SplitBy.SENTENCES))] == sentences


def test_paragraphs_sizes_and_delimiters():
    text = "One two\nthree.\n\n  Four five six.\r\n\r\nSeven"
    by = {
        "paragraphs": PassageRule(SplitBy.PARAGRAPHS),
        "size": PassageRule(SplitBy.SIZE, size=3, overlap=1),
        "delimiter": PassageRule(SplitBy.DELIMITER, delimiter="\n"),
    }
    cut = {name: [text[start:end] for start, end in passages(text, rule)] for name, rule in by.items()}
    assert cut == {
        "paragraphs": ["One two\nthree.", "Four five six.", "Seven"],
        "size": ["One two\nthree.", "three.\n\n  Four five", "five six.\r\n\r\nSeven"],
        "delimiter": ["One two", "three.", "Four five six.", "Seven"],
    }


@given(text=texts(200), rule=rules)
def test_passages_are_in_order_and_hold_every_letter(text: str, rule: PassageRule):
    found = passages(text, rule)
    assert all(0 <= start < end <= len(text) for start, end in found)
    assert found == sorted(set(found))
    covered = {place for start, end in found for place in range(start, end)}
    left_out = "".join(c for place, c in enumerate(text) if place not in covered)
    assert left_out.replace(rule.delimiter or "\u2029", "").strip() == ""
    for start, end in found:
        assert text[start:end].strip() == text[start:end] or rule.by is SplitBy.SIZE


@pytest.mark.parametrize(("size", "overlap", "delimiter"), [(0, 0, "x"), (2, 2, "x"), (1, -1, "x"), (1, 0, "")])
def test_a_rule_that_cannot_be_is_refused(size: int, overlap: int, delimiter: str):
    with pytest.raises(ValueError, match="must"):
        PassageRule(SplitBy.DELIMITER, size, overlap, delimiter)
