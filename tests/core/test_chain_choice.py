"""Chains by language: every record is read by its own chain, and all of them make one index."""

from hypothesis import assume, given
from hypothesis import strategies as st

from pale_harbor.core.fields import FieldColumn, column_of
from pale_harbor.core.index import build_index
from pale_harbor.core.ranking import Need, Ranker, Reading, Workspace, order_of_equals, prepare, search
from pale_harbor.core.text import ChainsByLanguage, chain_of, query_chain_of
from pale_harbor.core.text.languages import language_of
from tests.strategies import chains, word_texts

ENGLISH, GERMAN, PLAIN = (chain_of(f"words > lower{more}") for more in (" > stem(en)", " > stem(de)", ""))
CHOICE = ChainsByLanguage("language", (("en", ENGLISH), ("de", GERMAN)), PLAIN)


@given(
    first=chains(),
    second=chains(),
    records=st.lists(st.tuples(word_texts(), st.sampled_from(["en", "de", "xx", None])), max_size=8),
)
def test_reading_by_language_is_reading_each_by_its_own_chain(first, second, records):  # pyright: ignore
    choice = ChainsByLanguage("language", (("en", first),), second)
    table = choice.read([text for text, _ in records], [language for _, language in records])
    for text_id, (text, language) in enumerate(records):
        assert table.tokens_of(text_id) == (first if language == "en" else second).run(text)


def test_one_index_holds_records_of_all_languages():
    values = [["The bells"], ["Die Glocken"], ["Bells, Glocken"]]
    index = build_index(values, CHOICE, ["en", "de", "fr"])
    assert list(index.vocabulary) == ["bell", "bells", "die", "glock", "glocken", "the"]
    reading = Reading(field="title", chain=CHOICE, query_chain=CHOICE)
    order = order_of_equals([], 3)

    def found(query: str) -> list[int]:
        asked = prepare(query, Ranker(readings=(reading,)), [index], columns=languages_of_three)
        return search(asked, 3, order, Workspace(3)).record_ids.tolist()

    assert found("where are the bells of the wreck") == [0]
    assert found("die Glocken und das Boot") == [1]
    # Of no language that can be told: each record is met in its own.
    assert sorted(found("bells")) == [0, 2]
    assert sorted(found("Glocken")) == [1, 2]
    assert found("Glocke") == [1]
    # The stem of one language is no word of another.
    assert found("glock") == [1]
    assert found("bells -Glocken") == [0]


def languages_of_three(_: str) -> FieldColumn:
    return column_of(["en", "de", "fr"])


RECORDS = st.lists(st.tuples(word_texts(), st.sampled_from(["en", "de", "xx", None])), min_size=1, max_size=8)


@given(records=RECORDS, query=st.lists(word_texts(), min_size=1, max_size=3).map(" ".join), all_of_it=st.booleans())
def test_a_query_of_no_language_finds_of_each_language_what_it_would_find_if_it_were_of_it(records, query, all_of_it):  # pyright: ignore
    assume(language_of(query) is None)
    languages = [language for _, language in records]
    index = build_index([[text] for text, _ in records], CHOICE, languages)
    reading = Reading(field="title", chain=CHOICE, query_chain=CHOICE)
    ranker = Ranker(readings=(reading,), need=Need(((1, None),)) if all_of_it else Need())
    count = len(records)

    def found(language: str | None) -> set[int]:
        asked = prepare(query, ranker, [index], language, lambda _: column_of(languages))
        return set(search(asked, count, order_of_equals([], count), Workspace(count)).record_ids.tolist())

    by_language = {language: found(language or "other") for language in set(languages)}
    assert found(None) == {record for record, own in enumerate(languages) if record in by_language[own]}


def test_a_query_is_read_by_the_language_it_says_or_shows():
    assert query_chain_of(CHOICE, "bells", "en") is ENGLISH
    assert query_chain_of(CHOICE, "the bell of the wreck") is ENGLISH
    assert query_chain_of(CHOICE, "bells", "fr") is PLAIN
    assert query_chain_of(GERMAN, "the bell of the wreck", "en") is GERMAN


def test_choices_are_told_apart_by_all_that_they_do():
    other = ChainsByLanguage("tongue", CHOICE.chains, PLAIN)
    assert other.identity != CHOICE.identity
    assert CHOICE.notation == (
        "by language: en: words > lower > stem(en); de: words > lower > stem(de); else: words > lower"
    )
