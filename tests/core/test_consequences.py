"""What a chain does to a collection: the figures are exact, and say when they are not."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from pale_harbor.core.consequences import Consequences, Gathered, Gatherer
from pale_harbor.core.index import build_index
from pale_harbor.core.text import Chain, chain_of
from tests.strategies import chains, values

COAST = [
    "The fog bell rings",
    "Fog bells and a bell",
    "a",
    "Keepers keep the lamp",
]


def figures(chain: Chain, texts: list[list[str]], in_all: int | None = None, batch: int = 2) -> Consequences:
    return gathered(chain, texts, in_all, batch).consequences


def gathered(chain: Chain, texts: list[list[str]], in_all: int | None = None, batch: int = 2) -> Gathered:
    gatherer = Gatherer(chain)
    records = [(f"sm{number}", own) for number, own in enumerate(texts)]
    for first in range(0, len(records), batch):
        gatherer.add(records[first : first + batch])
    return gatherer.finished(in_all or len(texts))


@given(chain=chains(), texts=values(), batch=st.integers(1, 4))
def test_the_bytes_are_those_of_the_index_that_would_be_built(chain: Chain, texts: list[list[str]], batch: int):
    whole = gathered(chain, texts, batch=batch)
    found = whole.consequences
    index = build_index(texts, chain)
    assert found.index_bytes.total == index.index_bytes
    assert found.vocabulary == len(index.vocabulary)
    assert found.tokens == index.occurrence_count
    assert dict(whole.term_records) == {
        term: int(index.posting_firsts[number + 1] - index.posting_firsts[number])
        for number, term in enumerate(index.vocabulary)
    }


@given(chain=chains(), texts=values())
# Two texts whose words become the same, and are joined: equal tokens that were made apart.
@example(chain=chain_of("words > stem(en) > word_grams(2, 3) > lower"), texts=[["harbor ship"], ["harbor ships"]])
def test_batches_do_not_matter(chain: Chain, texts: list[list[str]]):
    whole, at_once = gathered(chain, texts, batch=1), gathered(chain, texts, batch=100)
    one, other = whole.consequences, at_once.consequences
    assert one.most_merged == other.most_merged
    assert one.dropped == other.dropped
    assert one.stages == other.stages
    assert whole.surfaces == at_once.surfaces
    assert (one.empty_values, one.empty_count) == (other.empty_values, other.empty_count)


@given(chain=chains(), texts=values(), cut=st.integers(0, 5), batch=st.integers(1, 4))
@example(chain=chain_of("words > lower > stem(en)"), texts=[["Bells bell"], [], ["bell Bell's"]], cut=1, batch=2)
def test_two_that_are_joined_tell_what_one_tells_that_read_all(
    chain: Chain, texts: list[list[str]], cut: int, batch: int
):
    records = [(f"sm{number}", own) for number, own in enumerate(texts)]
    first, second = records[:cut], records[cut:]
    one, earlier, later = Gatherer(chain), Gatherer(chain), Gatherer(chain)
    for part, own in ((first, earlier), (second, later)):
        for start in range(0, len(part), batch):
            one.add(part[start : start + batch])
            own.add(part[start : start + batch])
    earlier.join(later)
    assert earlier.finished(len(texts)) == one.finished(len(texts))


def test_what_is_shown_of_empty_values_and_told_of_languages_stays_within_its_bounds_when_joined():
    def read(letters: str, count: int, text: str = "of the") -> Gatherer:
        gatherer = Gatherer(chain_of("words > stopwords(en)"))
        gatherer.add([(f"{letters}{number}", [text]) for number in range(count)])
        return gatherer

    gatherer = read("a", 15)
    gatherer.join(read("b", 15))
    gatherer.join(read("c", 2_000))
    gatherer.join(read("d", 10, "der Nebel und die Glocke"))
    found = gatherer.finished(2_040)
    assert [key for key, _ in found.consequences.empty_values] == [
        *(f"a{number}" for number in range(15)),
        *(f"b{number}" for number in range(5)),
    ]
    assert found.consequences.empty_count == 2_030
    # Of 2,000 values the language is told, the first ones.
    assert found.languages == {"en": 2_000}


def test_reading_ends_between_two_stages_where_nobody_waits_any_more():
    gatherer = Gatherer(chain_of("words > lower > stem(en)"))
    stages: list[int] = []

    def look() -> None:
        stages.append(len(stages))
        if len(stages) == 2:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        gatherer.add([("sm1", ["Fog bell"])], look)
    # What was not read to its end does not count.
    assert (gatherer.records, gatherer.changed) == (0, [0, 0, 0])
    gatherer.add([("sm1", ["Fog bell"])])
    assert gatherer.finished(1).consequences.vocabulary == 2


def test_what_merges_what_is_dropped_and_what_is_left_empty():
    found = figures(chain_of("words > lower > stopwords(en) > stem(en)"), [[text] for text in COAST])
    assert [(merge.term, [(w.word, w.count) for w in merge.words]) for merge in found.most_merged] == [
        ("bell", [("bell", 2), ("bells", 1)])
    ]
    assert found.merging_terms == 1
    assert [(one.word, one.count) for one in found.dropped] == [("a", 2), ("the", 2), ("and", 1)]
    assert (found.dropped_words, found.dropped_tokens) == (3, 5)
    assert found.empty_values == (("sm2", "a"),)
    assert found.empty_count == 1
    assert found.tokens_per_record == (pytest.approx(3.0), 3.0, 3)


def test_letters_of_another_case_are_no_other_word():
    found = figures(chain_of("words > lower"), [["Fog FOG fog"]])
    assert found.most_merged == ()
    assert (found.words, found.vocabulary) == (1, 1)


def test_each_stage_says_how_many_values_it_changed():
    found = figures(chain_of("nfkc > words > lower > stopwords(en)"), [[text] for text in COAST])
    assert [(effect.stage, effect.changed) for effect in found.stages] == [
        ("nfkc", 0),
        ("words", 4),
        ("lower", 3),
        ("stopwords(en)", 4),
    ]


def test_a_sample_says_that_it_is_one_and_is_scaled_up():
    whole = figures(chain_of("words"), [["fog bell"]] * 10)
    sample = figures(chain_of("words"), [["fog bell"]] * 10, in_all=1_000)
    assert not whole.is_sample
    assert sample.is_sample
    assert sample.index_bytes.positions == 100 * whole.index_bytes.positions
    assert sample.index_bytes.terms < 100 * whole.index_bytes.terms


def test_words_that_keep_other_company_are_suspicious_before_others():
    sea = "the wind and the tide carried {} far from the grey harbor wall today"
    kitchen = "we boil sweet milk with sugar then {} goes into every warm copper pan"
    texts = [[sea.format("kart")], [kitchen.format("karte")], [sea.format("boat")], [sea.format("boats")]] * 12
    chain = chain_of("words > lower > stem(de)")
    found = figures(chain, texts)
    suspicious = [(merge.term, merge.unlike and set(merge.unlike[:2])) for merge in found.suspicious]
    assert suspicious[0] == ("kart", {"kart", "karte"})
    by_term = {merge.term: merge for merge in found.suspicious}
    assert by_term["kart"].suspicion > 0.4
    assert "boat" not in by_term or by_term["boat"].suspicion < 0.2


def test_of_nothing_there_are_no_figures():
    found = figures(chain_of("words"), [[]])
    assert (found.vocabulary, found.tokens, found.tokens_per_record) == (0, 0, (0.0, 0.0, 0))
    assert found.suspicious == found.most_merged == ()
    assert Gatherer(chain_of("words")).finished(0).consequences.records == 0
