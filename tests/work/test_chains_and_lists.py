"""Saved chains, word lists and chains by language, in a real database: what a ranker reads stays what it read."""

from collections.abc import Iterator
from pathlib import Path
from threading import Event
from typing import Any

import pytest

from pale_harbor.core.text import chain_of
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.differences import differences
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.ranking.rankers import ranker_named
from pale_harbor.store.records.records import Record
from pale_harbor.work.chains import whole_reading
from pale_harbor.work.chains.consequences import Reckoning, Reckonings, exact, findings
from pale_harbor.work.chains.uses import ChainUse, chains_in_use
from pale_harbor.work.chains.word_lists import list_as_csv, lists_in_use, put_list
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.records.looking import tokens_of
from pale_harbor.work.records.samples import SampleBy, sample_values
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows
from tests.work.watched import WatchedProcesses

RECORDS: list[dict[str, Any]] = [
    {"id": "a", "title": "Fog bell", "language": "en"},
    {"id": "b", "title": "Bells of the fog", "language": "en"},
    {"id": "c", "title": "Die Glocken im Nebel", "language": "de"},
    {"id": "d", "title": "Glocke <b>& Boot</b>", "language": ["de", "en"]},
    {"id": "e", "title": "a much longer title about nothing at all, told slowly"},
]


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, RECORDS)
    return bench


def keys(bench: Workbench, query: str, choice: RankerChoice, language: str | None = None) -> list[str]:
    def work(opened: OpenCollection) -> list[str]:
        chosen = bench.choose(opened.collection, choice)
        return sorted(
            result.key for result in find(opened, chosen.ranker, Question(query, language=language), 10).results
        )

    return bench.with_collection("coast", work)


def ranker(chain: Any, **more: Any) -> Any:
    return ranker_document({"readings": [{"field": "title", "chain": chain, **more}]})


def test_a_reading_chooses_its_chain_for_each_record_and_each_query(coast: Workbench):
    coast.put_chain("coast", "english", "words > lower > stem(en)")
    chain = {"by": "language", "en": "english", "de": "words > lower > stem(de)", "else": "words"}
    coast.put_ranker("coast", "own", ranker(chain))
    own = RankerChoice("own")
    assert keys(coast, "bells", own, "en") == ["a", "b"]
    assert keys(coast, "Glocken", own, "de") == ["c", "d"]
    # A query whose language cannot be told meets each record in the record's own.
    assert keys(coast, "bells", own) == ["a", "b"]
    assert keys(coast, "Glocken", own) == ["c", "d"]
    assert keys(coast, "title", own) == ["e"]
    # Two small words tell a language.
    assert keys(coast, "die Glocken und das Boot", own) == ["c", "d"]

    def work(opened: OpenCollection) -> list[list[str]]:
        chosen = coast.choose(opened.collection, own)
        answer = find(opened, chosen.ranker, Question("Glocken", language="de"), 10)
        records = [Record(result.key, 1, result.field_values) for result in answer.results]
        return [[token.text for token in tokens_of(record, chosen.ranker)[0].values[0][1]] for record in records]

    assert ["die", "glock", "im", "nebel"] in coast.with_collection("coast", work)


def test_a_chain_by_language_is_refused_where_it_is_not_whole(coast: Workbench):
    with pytest.raises(BadInput, match='needs "else"'):
        ranker({"by": "language", "en": "words"})
    with pytest.raises(BadInput, match=r"readings\[0\]\.chain\.by: the collection has no field \"langage\""):
        coast.put_ranker("coast", "own", ranker({"by": "langage", "else": "words"}))
    with pytest.raises(BadInput, match=r"readings\[0\]\.chain\.de: line 1, column 9: there is no stage"):
        coast.put_ranker("coast", "own", ranker({"by": "language", "de": "words > lowr", "else": "words"}))
    with pytest.raises(NotFound, match="There is no saved chain"):
        coast.put_ranker("coast", "own", ranker({"by": "language", "de": "german", "else": "words"}))


def test_a_kept_ranker_reads_its_lists_in_the_versions_it_was_kept_with(coast: Workbench):
    put_list(coast, "coast", "same", "words,means\nbell,glocke\n", None)
    chain = "words > lower > synonyms(@same)"
    coast.put_ranker("coast", "own", ranker(chain, query_chain="words > lower"))
    assert keys(coast, "glocke", RankerChoice("own")) == ["a", "d"]
    put_list(coast, "coast", "same", "words,means\nbell,bells\n", None)
    assert keys(coast, "glocke", RankerChoice("own")) == ["a", "d"]
    # A draft on it reads what it reads; another one, or one that names a version, the list as it says.
    draft = ranker(chain, query_chain="words > lower", weight=2.0)
    assert keys(coast, "glocke", RankerChoice("own", None, draft)) == ["a", "d"]
    assert keys(coast, "bells", RankerChoice(document=draft)) == ["a", "b"]
    newer = ranker("words > lower > synonyms(@same:2)", query_chain="words > lower")
    assert keys(coast, "bells", RankerChoice("own", None, newer)) == ["a", "b"]
    kept = coast.put_ranker("coast", "own", draft, "", RankerChoice("own"))
    assert kept.list_versions == {"same": 1}
    assert coast.put_ranker("coast", "other", draft).list_versions == {"same": 2}


def test_versions_that_read_lists_and_chains_in_other_versions_differ_by_these(coast: Workbench):
    put_list(coast, "coast", "sea", "words,means,way\nbell,lamp,both\n", None)
    coast.put_chain("coast", "english", "words > lower")
    document = ranker_document(
        {
            "readings": [
                {"field": "title", "chain": "words > lower > synonyms(@sea)"},
                {"field": "title", "chain": "@english"},
            ]
        }
    )
    coast.put_ranker("coast", "own", document)
    put_list(coast, "coast", "sea", "words,means,way\nbell,lantern,both\n", None)
    coast.put_chain("coast", "english", "words > lower > stem(en)")
    coast.put_ranker("coast", "own", document)

    def told(first: RankerChoice, second: RankerChoice) -> list[str]:
        one, other = (coast.choose(kept, choice) for choice in (first, second))
        return [each.words for each in differences(one.document, other.document, one.reads, other.reads)]

    with coast.pool.connection() as connection:
        kept = collection_named(connection, "coast")
    both = ["chain @english version 1 to 2", "word list @sea version 1 to 2"]
    assert told(RankerChoice("own", 1), RankerChoice("own", 2)) == both
    # A draft reads what the version that it stands on reads.
    draft = RankerChoice("own", 1, document)
    assert told(draft, RankerChoice("own", 1)) == []
    assert told(draft, RankerChoice("own", 2)) == both

    # A chain that is looked at is read as the ranker reads it, or else in the newest.
    def terms(read_by: RankerChoice | None) -> list[list[str]]:
        chains = [coast.chain(kept, text, read_by=read_by) for text in ("words > synonyms(@sea)", "@english")]
        return [sorted({token.text for token in chain.run("bell bells")}) for chain in chains]

    assert terms(RankerChoice("own", 1)) == [["bell", "bells", "lamp"], ["bell", "bells"]]
    assert terms(RankerChoice("own", 2)) == terms(None) == [["bell", "bells", "lantern"], ["bell"]]


def test_lists_are_kept_in_versions_and_know_who_reads_them(coast: Workbench):
    first = put_list(coast, "coast", "names", "word\nfog\n", None)
    assert put_list(coast, "coast", "names", "word\nfog\n", None).version == first.version == 1
    assert put_list(coast, "coast", "names", "word\nbell\n", None).version == 2
    assert list_as_csv(coast, "coast", "names", 1).csv == "word\nfog\n"
    assert list_as_csv(coast, "coast", "names", None).csv == "word\nbell\n"
    coast.put_chain("coast", "kept", "words > as_is(@names) > stem(en)")
    (use,) = lists_in_use(coast, "coast")
    assert (use.name, use.entries, use.used_by) == ("names", 1, ["kept"])
    with pytest.raises(NotFound, match='There is no word list "@nobody"'):
        list_as_csv(coast, "coast", "nobody", None)
    with pytest.raises(BadInput):
        put_list(coast, "coast", "Not a name", "word\nfog\n", None)


def test_a_list_that_goes_on_from_what_was_read_is_not_kept_over_what_came_since(coast: Workbench):
    assert put_list(coast, "coast", "names", "word\nfog\n", None, as_version=1).version == 1
    assert put_list(coast, "coast", "names", "word\nbell\n", None, as_version=2).version == 2
    for version in (1, 2, 4):
        with pytest.raises(BadInput, match="@names was changed meanwhile: its newest version is 2"):
            put_list(coast, "coast", "names", "word\nlamp\n", None, as_version=version)
    assert list_as_csv(coast, "coast", "names", None).csv == "word\nbell\n"
    with pytest.raises(BadInput, match="@others was changed meanwhile"):
        put_list(coast, "coast", "others", "word\nfog\n", None, as_version=2)


def test_a_copy_of_a_collection_has_its_lists(coast: Workbench):
    put_list(coast, "coast", "names", "word\nfog\n", None)
    coast.put_ranker("coast", "own", ranker("words > lower > stopwords(@names)"))
    coast.copy_collection("coast", "other")
    assert list_as_csv(coast, "other", "names", None).csv == "word\nfog\n"
    with coast.pool.connection() as connection:
        copied = ranker_named(connection, collection_named(connection, "other").id, "own")
    assert copied.list_versions == {"names": 1}


def test_a_saved_chain_says_which_rankers_read_it_in_which_version(coast: Workbench):
    coast.put_chain("coast", "plain", "words > lower")
    coast.put_ranker("coast", "own", ranker("@plain"))
    coast.put_chain("coast", "plain", "words > lower > accents")
    coast.put_ranker("coast", "other", ranker({"by": "language", "de": "@plain:1", "else": "plain"}))
    (found,) = chains_in_use(coast, "coast")
    assert found.version == 2
    assert found.used_by == [
        ChainUse("other", 1, 1, ["title"]),
        ChainUse("other", 1, 2, ["title"]),
        ChainUse("own", 1, 1, ["title"]),
    ]


def test_a_saved_chain_is_extended_by_what_is_written_after_it(coast: Workbench):
    coast.put_chain("coast", "english", "words > lower > stem(en)")
    extended = ranker("@english > prefixes(1, 3)", query_chain="@english")
    coast.put_ranker("coast", "own", extended)
    coast.put_chain("coast", "english", "words > lower")
    assert keys(coast, "bel", RankerChoice("own")) == ["a", "b"]
    assert keys(coast, "bel", RankerChoice(document=ranker("@english", query_chain="@english"))) == []
    with coast.pool.connection() as connection:
        kept = collection_named(connection, "coast")
        assert ranker_named(connection, kept.id, "own").chain_versions == {"english": 1}
    own = coast.chain(kept, "@english > prefixes(1, 3)", read_by=RankerChoice("own"))
    assert own.notation == "words > lower > stem(en) > prefixes(1, 3)"
    assert coast.chain(kept, "@english:1\n  > accents # why").notation == "words > lower > stem(en) > accents"
    # Of the stages as written, the saved chain is one.
    assert coast.chain(kept, "@english > accents > unique", frozenset({1})).notation == "words > lower > unique"
    (found,) = chains_in_use(coast, "coast")
    assert found.used_by == [ChainUse("own", 1, 1, ["title"])]


@pytest.mark.parametrize(
    ("notation", "told"),
    [
        ("@english > stm(en)", 'line 1, column 12: there is no stage "stm". Did you mean "stem"?'),
        ("@english\n > stm(en)", 'line 2, column 4: there is no stage "stm". Did you mean "stem"?'),
        ("@english stem(en)", "line 1, column 10: after a saved chain comes > and a stage, or nothing."),
        ("@english > words", 'line 1, column 12: a chain has one tokenizer, and "words" is it already'),
        ("@lists > lower", 'line 1, column 1: in @lists: there is no word list "@gone"'),
    ],
)
def test_what_is_wrong_after_a_saved_chain_is_told_where_it_is_written(coast: Workbench, notation: str, told: str):
    coast.put_chain("coast", "english", "words > lower")
    put_list(coast, "coast", "gone", "word\nfog\n", None)
    coast.put_chain("coast", "lists", "words > stopwords(@gone)")
    with coast.pool.connection() as connection:
        connection.execute("delete from word_lists")
        kept = collection_named(connection, "coast")
    with pytest.raises(BadInput) as raised:
        coast.chain(kept, notation)
    assert str(raised.value).startswith(told)


def waited(reckonings: Reckonings, begun: Reckoning, state: str) -> Reckoning:
    """The reckoning when its thread has ended."""
    assert begun.ended.wait(60)
    found = reckonings.find(begun.id)
    assert found.state == state, found.problem
    return found


def test_the_whole_collection_is_read_in_the_background(coast: Workbench):
    reckonings = Reckonings(coast)
    chain = chain_of("words > lower")
    done = waited(reckonings, reckonings.begin("coast", "title", chain), "done")
    assert done.result == exact(coast, "coast", "title", chain)
    assert (done.records_read, done.records_in_all) == (5, 5)
    assert reckonings.begin("coast", "title", chain_of("words > lower")) is done
    assert reckonings.sample("coast", "title", chain) == done.result  # pyright: ignore
    with pytest.raises(NotFound, match="no longer kept"):
        reckonings.find("nothing")


@pytest.mark.parametrize(("least", "elsewhere"), [(5, 1), (6, 0)])
def test_only_collections_of_so_many_records_are_read_elsewhere(
    coast: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, least: int, elsewhere: int
):
    monkeypatch.setattr("pale_harbor.work.chains.consequences.ELSEWHERE_FROM", least)
    watched = WatchedProcesses(coast.pool)
    own = Workbench(coast.pool, tmp_path / "own", processes=watched)
    reckonings = Reckonings(own)
    chain = chain_of("words > lower")
    done = waited(reckonings, reckonings.begin("coast", "title", chain), "done")
    assert done.records_in_all == 5
    assert done.result == exact(coast, "coast", "title", chain)
    assert len(watched.asked) == elsewhere


def test_a_reckoning_that_is_cancelled_ends_without_figures(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    first_read, go_on = Event(), Event()

    def slowly(_: Any) -> Iterator[list[tuple[str, list[str]]]]:
        yield [("a", ["Fog bell"])]
        first_read.set()
        go_on.wait(60)
        yield [("b", ["Bells"])]

    monkeypatch.setattr(whole_reading, "_batches", slowly)
    reckonings = Reckonings(coast)
    begun = reckonings.begin("coast", "title", chain_of("words"))
    assert first_read.wait(60)
    assert (begun.state, begun.records_read) == ("running", 1)
    # Another chain on the same field: nobody waits for the first any longer.
    reckonings.begin("coast", "title", chain_of("blanks"))
    go_on.set()
    assert waited(reckonings, begun, "cancelled").result is None
    assert begun.records_read == 1


def test_a_reckoning_that_fails_says_why(coast: Workbench, tmp_path: Path):
    load_rows(coast.pool, tmp_path, [{"id": "z", "title": "a" * 60 + "b"}])
    reckonings = Reckonings(coast)
    begun = reckonings.begin("coast", "title", chain_of("find(/(a|a)*$/)"))
    failed = waited(reckonings, begun, "failed")
    assert failed.problem is not None
    assert "took longer than 1 s on one text" in failed.problem


def test_figures_are_reckoned_anew_when_records_change(coast: Workbench, tmp_path: Path):
    reckonings = Reckonings(coast)
    chain = chain_of("words")
    before = waited(reckonings, reckonings.begin("coast", "title", chain), "done")
    load_rows(coast.pool, tmp_path, [{"id": "z", "title": "Zephyr"}])
    after = waited(reckonings, reckonings.begin("coast", "title", chain), "done")
    assert after.id != before.id
    assert "Zephyr" in after.result.term_records  # pyright: ignore


def test_judged_queries_are_examined_too(coast: Workbench, tmp_path: Path):
    from pale_harbor.work.judging.set_files import load_judged_set

    (tmp_path / "queries").write_text("q1\tof the\nq2\tfog\n")
    (tmp_path / "grades").write_text("q2 0 a 3\n")
    load_judged_set(coast, "coast", "visitors", tmp_path / "queries", tmp_path / "grades")
    chain = chain_of("words > lower > stopwords(en)")
    with coast.pool.connection() as connection:
        collection = collection_named(connection, "coast")
    said = findings(
        coast, collection, "title", (chain, chain), exact(coast, "coast", "title", chain), chain_from=chain_of
    )
    assert [line for one in said if one.name == "empty queries" for line in one.evidence] == ["“of the” (q1)."]


@pytest.mark.parametrize(
    ("by", "word", "expected"),
    [
        (SampleBy.LONGEST, "", ["e", "c", "d", "b", "a"]),
        (SampleBy.WORD, "GLOCKE", ["c", "d"]),
        (SampleBy.ODDEST, "", ["d"]),
        (SampleBy.CHANCE, "", ["a", "b", "c", "d", "e"]),
    ],
)
def test_samples_are_the_collections_own(coast: Workbench, by: SampleBy, word: str, expected: list[str]):
    found = [one.key for one in sample_values(coast, "coast", "title", by, word, 3)]
    if by is SampleBy.CHANCE:
        found.sort()
    assert found[: len(expected)] == expected


def test_a_sample_with_a_word_needs_one(coast: Workbench):
    with pytest.raises(BadInput, match="Which word"):
        sample_values(coast, "coast", "title", SampleBy.WORD, " ", 0)
    assert sample_values(coast, "coast", "nothing", SampleBy.CHANCE, "", 0) == []
