"""The chain doctor: each classic mistake is found, shown with its evidence, and mended by its mend."""

from collections.abc import Mapping, Sequence

import pytest

from pale_harbor.core.consequences import AskedQuery, Finding, Gatherer, TrialRecords, findings_of
from pale_harbor.core.text import chain_of
from pale_harbor.core.text.word_lists import SynonymRule, Synonyms, WordList, WordSet

ENGLISH = [
    "The fog bell of the harbor was rung by the keeper and his wife when it was thick",
    "It was taken from the wreck and they had kept it in the shed with the nets of the boats",
    "The keepers of the light wrote in the log that he was not on the rock at the time",
    "She had been with the lifeboat and was seen on the bar by all who were there",
    "An old chart of the sound which was drawn by one of the pilots for his son",
    "The who",
]
GERMAN = [
    "Die Glocke ist aus dem Wrack und der Wärter hat sie mit einem Boot an das Land gebracht",
    "Der Kapitän war nicht auf dem Schiff und das Boot ist von der Küste",
]
LISTS: dict[str, WordList] = {
    "seafaring": Synonyms((SynonymRule(("foghorns",), ("fog signals",)), SynonymRule(("bell",), ("gong",)))),
    "names": WordSet(frozenset({"keepers", "fog"})),
}


def found(
    record: str,
    query: str | None = None,
    queries: Sequence[str] = (),
    texts: Sequence[str] = ENGLISH,
    repeat: int = 1,
    *,
    in_all: int | None = None,
    grades: Mapping[str, Mapping[str, int]] | None = None,
) -> list[Finding]:
    """What is found of texts with the keys sm0, sm1 and so on; the first query is the open one, others are q1, q2.

    in_all: records of the collection, of which the texts are a sample.
    """
    chain = chain_of(record, LISTS)
    records = [(f"sm{number}", [text]) for number, text in enumerate(list(texts) * repeat)]
    gatherer = Gatherer(chain)
    gatherer.add(records)
    asked = [AskedQuery(None if number == 0 else f"q{number}", text) for number, text in enumerate(queries) if text]
    query_chain = chain if query is None else chain_of(query, LISTS)
    gathered = gatherer.finished(in_all or len(records))
    tried_on = TrialRecords(records, grades or {})
    return findings_of((chain, query_chain), asked, gathered, tried_on, lambda notation: chain_of(notation, LISTS))


def the(name: str, findings: Sequence[Finding]) -> Finding:
    (one,) = [finding for finding in findings if finding.name == name]
    return one


def names(findings: Sequence[Finding]) -> list[str]:
    return [finding.name for finding in findings]


def test_a_query_longer_than_the_longest_gram():
    record, query = "words > lower > prefixes(1, 5)", "words > lower"
    finding = the("longest gram", found(record, query, ["lifeboat bell"]))
    assert finding.sentence == (
        "prefixes(1, 5) cuts pieces of at most 5 letters; a longer word of a query can never match."
    )
    assert finding.evidence == ("The query “lifeboat bell” has “lifeboat”, of 8 letters.",)
    assert finding.mend is not None
    assert finding.mend.record_chain == "words > lower > prefixes(1, 8)"
    assert finding.mend.query_chain is None
    assert "longest gram" not in names(found(finding.mend.record_chain, query, ["lifeboat bell"]))
    assert "longest gram" not in names(found(record, query, ["bell"]))


@pytest.mark.parametrize(("more", "told"), [(0, None), (1, "So have 1 more terms of the queries.")])
def test_four_words_longer_than_the_longest_gram_are_shown_and_the_others_counted(more: int, told: str | None):
    queries = ["harbor", "anchor", "lantern", "compass", "sextant"][: 4 + more]
    evidence = the("longest gram", found("words > prefixes(1, 5)", "words", queries)).evidence
    assert len(evidence) == 4 + more
    assert told is None or evidence[-1] == told


@pytest.mark.parametrize(
    ("record", "mended"),
    [
        ("words > grams(2, 3)", "words > grams(2, 8)"),
        ("words > grams(2, max=3)", "words > grams(2, max=8)"),
        ("words > grams(min=2)", "words > grams(min=2, max=8)"),
        ("words > grams", "words > grams(max=8)"),
        ("prefixes(1, 4)", "prefixes(1, 8)"),
    ],
)
def test_the_mend_of_the_longest_gram_keeps_the_way_it_was_written(record: str, mended: str):
    mend = the("longest gram", found(record, "words", ["lifeboat"])).mend
    assert mend is not None
    assert mend.record_chain == mended


@pytest.mark.parametrize(("letters", "mended"), [(40, "prefixes(1, 40)"), (41, None)])
def test_a_word_longer_than_any_gram_may_be_is_told_without_a_mend(letters: int, mended: str | None):
    mend = the("longest gram", found("prefixes(1, 4)", "words", ["x" * letters])).mend
    assert (mend and mend.record_chain) == mended


def test_grams_cut_on_the_query_side():
    finding = the("grams in queries", found("words > lower > prefixes(1, 12)", queries=["fog"]))
    assert finding.sentence.startswith("prefixes(1, 12) cuts the query too")
    assert "Of “fog” the piece “f” alone is in 50 % of the records looked at." in finding.evidence
    assert finding.mend is not None
    assert finding.mend.query_chain == "words > lower"
    mended = found("words > lower > prefixes(1, 12)", "words > lower", ["fog"])
    assert "grams in queries" not in names(mended)


def test_grams_that_the_query_needs_as_much_as_the_records_are_not_taken_out():
    finding = the("grams in queries", found("words > lower > grams(2, 2)", queries=["fog"]))
    assert finding.mend is None
    assert finding.evidence[-1].startswith("Not offered, since it does harm: Leave grams(2, 2) out of the query chain.")
    assert "the open query finds 0 of them instead of 3" in finding.evidence[-1]


def test_stop_words_that_empty_a_query_and_a_value():
    record = "words > lower > stopwords(en)"
    findings = found(record, queries=["the who", "of it", "fog"])
    emptied = the("empty queries", findings)
    assert emptied.sentence == "stopwords(en) leaves nothing of 2 queries: nothing is found by it."
    assert emptied.evidence == ("“the who”, “of it” (q1).",)
    assert emptied.mend is not None
    assert emptied.mend.record_chain == "words > lower"
    values = the("empty values", findings)
    assert values.sentence == "stopwords(en) leaves nothing of 1 value: it is not found by this reading."
    assert "The who (sm5)" in values.evidence[0]


def test_stop_words_of_a_query_chain_go_from_the_query_chain_only():
    mend = the("empty queries", found("words > lower", "words > lower > stopwords(en)", ["the who"])).mend
    assert mend is not None
    assert (mend.record_chain, mend.query_chain) == (None, "words > lower")


def test_a_case_sensitive_stage_before_folding():
    finding = the("case", found("words > stopwords(en) > lower"))
    assert "“The ×3”" in finding.evidence[0]
    assert finding.mend is not None
    assert finding.mend.record_chain == "words > lower > stopwords(en)"
    assert "case" not in names(found(finding.mend.record_chain))
    without = the("case", found("words > stopwords(en)"))
    assert without.mend is not None
    assert without.mend.record_chain == "words > lower > stopwords(en)"


@pytest.mark.parametrize(
    ("chain", "idle", "mended"),
    [
        ("words > lower > lower", "lower", "words > lower"),
        ("words > lower > casefold > lower", "lower", "words > lower > casefold"),
        ("words > casefold > lower > stem(en)", "lower", "words > casefold > stem(en)"),
        ("nfkc > nfc > words > lower", "nfc", "nfkc > words > lower"),
        ("words > lower > accents > accents", "accents", "words > lower > accents"),
        ("words > lower > stopwords(en) > stopwords(en)", "stopwords(en)", "words > lower > stopwords(en)"),
    ],
)
def test_a_stage_that_others_leave_nothing_to_do_is_taken_out_and_no_other_like_it(chain: str, idle: str, mended: str):
    finding = the("changes nothing", found(chain))
    assert finding.sentence == f"{idle} has nothing to do where it stands."
    assert finding.mend is not None
    assert finding.mend.record_chain == mended
    assert "changes nothing" not in names(found(mended))


@pytest.mark.parametrize("chain", ["nfkc > words > lower", "markup > words > lower", "words > lower > accents"])
def test_a_stage_for_texts_and_queries_to_come_is_left_in_peace(chain: str):
    assert "changes nothing" not in names(found(chain))


def test_lower_is_not_taken_out_of_names_in_small_letters():
    assert found("words > lower", texts=["anna", "maren holt", "jens"]) == []


def test_a_stemmer_of_another_language_than_the_text():
    finding = the("another language", found("words > lower > stopwords(de) > stem(de)", repeat=2))
    assert finding.sentence == "stopwords(de) and stem(de) are made for de, and the texts are in en."
    assert finding.mend is not None
    assert finding.mend.record_chain == "words > lower > stopwords(en) > stem(en)"
    assert "another language" not in names(found(finding.mend.record_chain, repeat=2))


def test_texts_of_several_languages():
    finding = the("several languages", found("words > lower > stem(en)", texts=[*ENGLISH, *GERMAN], repeat=2))
    assert finding.sentence == "stem(en) reads every record, and not all are in en."
    assert "de 29 %" in finding.evidence[0]
    assert finding.mend is None


def test_record_and_query_terms_that_can_never_meet():
    finding = the("never meeting", found("words > lower > stem(en)", "words"))
    assert "The two chains do not agree" in finding.sentence
    assert finding.mend is not None
    assert finding.mend.query_chain == "words > lower > stem(en)"
    assert "never meeting" not in names(found("words > lower > prefixes(1, 20)", "words > lower"))
    case = the("never meeting", found("words > lower > prefixes(1, 20)", "words"))
    assert case.mend is not None
    assert case.mend.query_chain == "words > lower"


def test_a_list_after_a_stage_that_alters_its_words():
    finding = the("list after altering", found("words > lower > stem(en) > synonyms(@seafaring)"))
    assert finding.sentence == (
        "synonyms(@seafaring) looks for words as its list writes them; stem(en) has altered them before."
    )
    assert finding.evidence == (
        "2 of 4 entries can never match: foghorns is foghorn by then; fog signals is fog signal by then.",
    )
    assert finding.mend is not None
    assert finding.mend.record_chain == "words > lower > synonyms(@seafaring) > stem(en)"
    assert "list after altering" not in names(found(finding.mend.record_chain))


def test_an_index_that_grows_over_the_limit():
    finding = the("index growth", found("words > lower > grams(1, 12)", repeat=300))
    assert finding.sentence == "The index would be 46 times as large as the text it is made of."
    assert finding.evidence == ("0.1 MB of text, 5.6 MB of index: 128 tokens for each record.",)
    assert finding.mend is not None
    assert finding.mend.record_chain == "words > lower > grams(1, 6)"
    assert "index growth" not in names(found("words > lower", repeat=300))


def test_words_too_short_for_the_shortest_gram():
    finding = the("shortest gram", found("words > lower > grams(3, 5)"))
    assert "“of ×5”" in finding.evidence[0]
    assert finding.mend is not None
    assert finding.mend.record_chain == "words > lower > grams(2, 5)"


def test_a_sound_pair_of_chains_is_left_in_peace():
    assert found("words > lower > stopwords(en) > stem(en)", queries=["fog bell"], texts=ENGLISH[:5]) == []
