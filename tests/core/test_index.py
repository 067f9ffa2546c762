"""The index holds exactly what the chain gave, and finds it again."""

from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import VALUE_GAP, build_index, vocabulary_of
from pale_harbor.core.index import builder as builder_module
from pale_harbor.core.text import Chain, chain_of
from tests.core.plain import occurrences
from tests.strategies import chains, values


@given(values=values(), chain=chains(), batch_length=st.sampled_from([1, 60, 2_000_000]))
def test_every_occurrence_of_every_term_is_in_the_index_and_nothing_else(
    values: list[list[str]], chain: Chain, batch_length: int
):
    usual = builder_module.BATCH_LENGTH
    builder_module.BATCH_LENGTH = batch_length  # pyright: ignore[reportConstantRedefinition]
    try:
        index = build_index(values, chain)
    finally:
        builder_module.BATCH_LENGTH = usual  # pyright: ignore[reportConstantRedefinition]
    expected = sorted(
        (term, record, position, start, end)
        for record, own in enumerate(values)
        for term, position, start, end in occurrences(own, chain)
    )
    found: list[tuple[str, int, int, int, int]] = []
    for number, term in enumerate(index.vocabulary):
        for posting in range(index.posting_firsts[number], index.posting_firsts[number + 1]):
            record = int(index.record_ids[posting])
            first, last = index.occurrence_firsts[posting], index.occurrence_firsts[posting + 1]
            assert last - first == index.frequencies[posting]
            assert index.posting_lengths[posting] == index.lengths[record]
            for i in range(first, last):
                found.append((term, record, int(index.positions[i]), int(index.starts[i]), int(index.ends[i])))
    assert sorted(found) == expected
    assert list(index.vocabulary) == sorted({term for term, *_ in expected})
    assert index.lengths.tolist() == [len(occurrences(own, chain)) for own in values]


@given(
    terms=st.sets(st.text(st.characters(exclude_categories=("Cs",)), min_size=1, max_size=6)), other=st.text(max_size=6)
)
def test_a_vocabulary_finds_its_terms_and_no_others(terms: set[str], other: str):
    vocabulary = vocabulary_of(sorted(terms))
    assert [vocabulary.find(term) for term in sorted(terms)] == list(range(len(terms)))
    assert (vocabulary.find(other) is not None) == (other in terms)


def test_no_phrase_reaches_from_one_value_into_the_next():
    index = build_index([["pale harbor", "fog bell"]], chain_of("words"))
    positions = {term: int(index.positions[i]) for i, term in enumerate(index.vocabulary)}
    assert positions == {"pale": 0, "harbor": 1, "fog": 2 + VALUE_GAP, "bell": 3 + VALUE_GAP}
    assert index.stretches("fog", 0) == [(12, 15)]


def test_an_index_of_nothing_answers():
    for values in ([], [[]], [[""]]):
        index = build_index(values, chain_of("words"))
        assert index.record_count == len(values)
        assert index.postings("fog") is None
        assert index.stretches("fog", 0) == []
