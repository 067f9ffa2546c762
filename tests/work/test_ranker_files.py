"""A ranker as one file: out, into a repository, and back in, on another machine."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.judging import expectation
from pale_harbor.core.text.word_lists import ListKind
from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker_file import (
    ExpectedInFile,
    ListInFile,
    RankerFile,
    files_differ,
    ranker_file,
    written_file,
)
from pale_harbor.store.chains.chains import latest_chains
from pale_harbor.store.chains.word_lists import latest_lists
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import open_pool
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.judging.expecting import expect
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.ranking.ranker_files import file_of_ranker, take_in
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.delivery import STALLS
from tests.loading import load_rows

DOCUMENT = {
    "readings": [
        {"field": "name", "chain": "@english", "weight": 2.5},
        {"field": "place", "chain": "words > lower"},
    ],
    "rules": [{"when": {"query": "no"}, "do": {"hide": ["s4"]}, "reason": "No: it is closed.\nAsk in May."}],
}


@pytest.fixture
def market(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, STALLS, "market")
    put_list(bench, "market", "sea", "words,means,way\neel|elver,,both\n", None)
    bench.put_chain("market", "english", "words > lower > synonyms(@sea)")
    bench.put_ranker("market", "stalls", ranker_document(DOCUMENT), "opening day")
    put_judged_set(bench, "market", "buyers", queries_in("1\teel\n", "queries"), None)
    expect(bench, "market", "buyers", "1", expectation("among_first", "s1", 3, "the best known"))
    return bench


def test_a_file_holds_all_that_the_ranker_reads(market: Workbench):
    file = ranker_file(file_of_ranker(market, "market", "stalls"), "stalls.yaml")
    assert (file.name, file.note) == ("stalls", "opening day")
    assert ranker_document(file.ranker) == ranker_document(DOCUMENT)
    assert file.chains == {"english": "words > lower > synonyms(@sea)"}
    assert file.lists == {"sea": ListInFile(kind=ListKind.SYNONYMS, csv="words,means,way\neel | elver,,both\n")}
    wanted = ExpectedInFile(query="eel", kind="among_first", record="s1", number=3, note="the best known")
    assert file.expectations == {"buyers": [wanted]}


def test_on_another_machine_it_gives_the_same_file_again(
    market: Workbench, cluster: Cluster, empty_database: "object", tmp_path: Path
):
    text = file_of_ranker(market, "market", "stalls")
    with open_pool(cluster.address(empty_database())) as pool:  # pyright: ignore[reportCallIssue]
        other = Workbench(pool, tmp_path / "elsewhere")
        load_rows(pool, tmp_path, STALLS, "fair")
        put_judged_set(other, "fair", "buyers", queries_in("9\teel\n", "queries"), None)
        told = take_in(other, "fair", text, "stalls.yaml")
        assert (told.ranker.title, told.chains, told.lists, told.expectations, told.missing) == (
            "stalls:1",
            ["english"],
            ["sea"],
            1,
            [],
        )
        assert file_of_ranker(other, "fair", "stalls") == text
        # Once more it says nothing new.
        again = take_in(other, "fair", text, "stalls.yaml")
        assert (again.ranker.version, again.chains, again.lists, again.expectations) == (1, [], [], 0)


def test_versions_that_are_named_are_no_more_than_one_of_each(market: Workbench):
    market.put_chain("market", "english", "words > lower")
    pinned = {**DOCUMENT, "readings": [{"field": "name", "chain": "@english:1 > prefixes(1, 8)"}]}
    market.put_ranker("market", "pinned", ranker_document(pinned))
    file = ranker_file(file_of_ranker(market, "market", "pinned"), "pinned.yaml")
    assert file.ranker["readings"][0]["chain"] == "@english > prefixes(1, 8)"
    assert file.chains == {"english": "words > lower > synonyms(@sea)"}
    both = {"readings": [{"field": "name", "chain": "@english:1"}, {"field": "place", "chain": "@english:2"}]}
    market.put_ranker("market", "both", ranker_document(both))
    with pytest.raises(BadInput, match="reads the chain @english in the versions"):
        file_of_ranker(market, "market", "both")


def test_a_file_is_taken_in_whole_or_not_at_all(market: Workbench):
    file = ranker_file(file_of_ranker(market, "market", "stalls"), "stalls.yaml")
    wrong = file.model_copy(
        update={
            "chains": {"english": "words > lower > accents"},
            "lists": {"sea": ListInFile(kind=ListKind.SYNONYMS, csv="words,means,way\ntar|pitch,,both\n")},
            "ranker": {"readings": [{"field": "colour", "chain": "@english"}]},
        }
    )
    with pytest.raises(BadInput, match='no field "colour"'):
        take_in(market, "market", written_file(wrong), "stalls.yaml")
    with market.pool.connection() as connection:
        own = collection_named(connection, "market").id
        assert [one.version for one in latest_chains(connection, own)] == [1]
        assert [one.version for one in latest_lists(connection, own)] == [1]


def test_expectations_of_queries_that_are_not_here_are_told(market: Workbench):
    file = ranker_file(file_of_ranker(market, "market", "stalls"), "stalls.yaml")
    wanted = ExpectedInFile(query="twine", kind="nothing")
    more = file.model_copy(update={"expectations": {"buyers": [wanted], "elsewhere": [wanted]}})
    told = take_in(market, "market", written_file(more), "stalls.yaml")
    assert (told.expectations, told.missing) == (0, ["buyers: twine", "elsewhere: twine"])


def test_files_differ_by_what_was_changed(market: Workbench):
    before = ranker_file(file_of_ranker(market, "market", "stalls"), "before")
    market.put_chain("market", "english", "words > lower")
    document = ranker_document({**DOCUMENT, "readings": [{"field": "name", "chain": "@english", "weight": 4}]})
    market.put_ranker("market", "stalls", document, based_on=None)
    after = ranker_file(file_of_ranker(market, "market", "stalls"), "after")
    told = files_differ(before, after)
    assert "name weight 2.5 to 4" in told.ranker
    assert "chain @english: - words > lower > synonyms(@sea)" in told.others
    assert "word list @sea: - eel | elver,,both" in told.others
    assert files_differ(after, after) == type(told)()


def test_kept_rankers_of_a_file_find_the_same(market: Workbench):
    text = file_of_ranker(market, "market", "stalls")
    saved = take_in(market, "market", text.replace("name: stalls", "name: copied"), "copied.yaml").ranker
    with market.pool.connection() as connection:
        collection = collection_named(connection, "market")
    first = market.choose(collection, RankerChoice("stalls", 1)).ranker
    assert market.choose(collection, RankerChoice(saved.name)).ranker == first


@given(
    st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\x00\x85\u2028\u2029\ufeff\r"), max_size=60),
    st.sampled_from(
        ["no", "true", "null", "~", "1.5", "0x1f", "2031-05-01", "12:30:00", "=", "<<", "- a", "a: b", "#"]
    ),
)
def test_texts_of_every_kind_come_back(note: str, word: str):
    written = {"readings": [{"field": "title", "chain": "words"}]}
    for text in (note, word, f"{note}\n{word}\n"):
        file = RankerFile(name="first", note=text, ranker=written)
        assert ranker_file(written_file(file), "file").note == text


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("name: [", "line 1"),
        ("a: &x 1\nb: *x\n", "aliases are not taken"),
        ("name: !!python/object:os.system x\n", "could not determine a constructor"),
        ("- 1\n", "Input should be"),
        ("name: First\nranker: {}\n", "name"),
        ("name: first\nranker: {}\nsecret: 1\n", "secret"),
        ("format: 2\nname: first\nranker: {}\n", "format"),
        ("name: first\nranker: {readings: []}\n", "readings"),
        ("[" * 5_000, "cannot be read"),
    ],
)
def test_what_is_no_file_of_a_ranker_is_told(text: str, words: str):
    with pytest.raises(BadInput) as told:
        ranker_file(text, "stalls.yaml")
    assert words in str(told.value)
