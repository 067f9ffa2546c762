"""The command line answers as it is documented, with exit codes and words a person can use."""

import json
from collections.abc import Callable
from pathlib import Path
from subprocess import CompletedProcess
from typing import Any

import pytest

from tests.conftest import ROOT

Command = Callable[..., "CompletedProcess[str]"]

RECORDS = "\n".join(
    [
        '{"id": "a", "title": "Fog bell", "text": "A bell for thick weather."}',
        '{"id": "b", "title": "Fog horn", "text": "Horns and bells."}',
        "{broken",
        '{"id": "c", "title": "Lamp"}',
    ]
)
RANKER = {
    "readings": [
        {"field": "title", "chain": "words > lower", "weight": 2},
        {"field": "text", "chain": "words > lower > stem(en)"},
    ]
}


def answer(result: "CompletedProcess[str]") -> Any:
    assert result.returncode == 0, result.stderr
    return json.loads(result.stdout)


def refusal(result: "CompletedProcess[str]") -> str:
    assert result.returncode != 0
    assert "Traceback" not in result.stderr
    return result.stderr


@pytest.fixture(scope="module")
def coast(command: Command, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A loaded collection "coast" with a ranker and a judged set; gives the folder of its files."""
    folder = tmp_path_factory.mktemp("coast")
    (folder / "records.jsonl").write_text(RECORDS)
    (folder / "ranker.json").write_text(json.dumps(RANKER))
    (folder / "queries").write_text("q1\tfog bell\nq2\tlamp\n")
    (folder / "grades").write_text("q1 0 a 3\nq1 0 b 1\nq2 0 c 2\n")
    report = answer(command("load", str(folder / "records.jsonl"), "--collection", "coast", "--key", "id", "--json"))
    assert {name: report[name] for name in ("read", "added", "updated", "unchanged", "rejected")} == {
        "read": 4, "added": 3, "updated": 0, "unchanged": 0, "rejected": 1,
    }  # fmt: skip
    assert report["rejects"][0]["line"] == 3
    put = answer(command("ranker", "put", "coast", "first", str(folder / "ranker.json"), "--json"))
    assert put == {"name": "first", "version": 1}
    files = ("--queries", str(folder / "queries"), "--grades", str(folder / "grades"))
    loaded = answer(command("judged", "load", "coast", "visitors", *files, "--json"))
    assert loaded == {"queries": 2, "grades": 3, "revision": 1, "unknown_records": []}
    return folder


def test_a_chain_is_run_and_traced(command: Command):
    got = answer(command("chain", "run", "words > lower > stem(en)", "--text", "Harbors", "--json"))
    token = {"text": "harbor", "start": 0, "end": 7, "position": 0, "span": 1}
    assert got["tokens"] == [token]
    assert [stage["stage"] for stage in got["stages"]] == ["words", "lower", "stem(en)"]
    assert got["stages"][0]["tokens"] == [{**token, "text": "Harbors"}]


def test_a_chain_runs_on_lines_with_one_answer_each(command: Command):
    text = 'Fog bells\n\n"two\\nlines"\n"lone \\ud800 half"\n'
    result = command("chain", "run", "words > lower > stem(en)", "--lines", "-", text=text)
    lines = [json.loads(line) for line in result.stdout.splitlines()]
    assert [[token["text"] for token in line["tokens"]] for line in lines] == [
        ["fog", "bell"], [], ["two", "line"], ["lone", "half"],
    ]  # fmt: skip
    assert lines[3]["tokens"][1]["start"] == 7


def test_a_chain_comes_from_a_file_or_standard_input(command: Command, tmp_path: Path):
    (tmp_path / "chain").write_text("words > # cut\n lower")
    from_file = command("chain", "run", f"@{tmp_path}/chain", "--text", "Fog", "--json")
    from_input = command("chain", "run", "-", "--text", "Fog", "--json", text="words > lower")
    assert answer(from_file) == answer(from_input)


def test_a_wrong_chain_is_told_with_its_place(command: Command):
    told = refusal(command("chain", "run", "words > lowr", "--text", "x"))
    assert told == 'paleharbor: line 1, column 9: there is no stage "lowr". Did you mean "lower"?\n'


def test_a_search_ranks_and_tells_why(command: Command, coast: Path):
    got = answer(command("search", "coast", "fog bell", "--ranker", "first", "--top", "2", "--why", "--json"))
    assert got["matched"] == 2
    assert [(row["rank"], row["key"]) for row in got["results"]] == [(1, "a"), (2, "b")]
    for row in got["results"]:
        assert sum(part["score"] for part in row["parts"]) == pytest.approx(row["score"], rel=1e-6)
        for part in row["parts"]:
            assert part["weight"] * sum(term["score"] for term in part["terms"]) == pytest.approx(part["score"])


def test_a_ranker_comes_back_as_it_was_put(command: Command, coast: Path):
    assert answer(command("ranker", "get", "coast", "first")) == RANKER


def test_a_ranker_is_measured_and_its_run_scores_the_same(command: Command, coast: Path):
    measures = ("--measures", "ndcg@10,ap,rr,precision@3")
    measured = answer(command("measure", "coast", "--ranker", "first", "--set", "visitors", *measures, "--json"))
    out = coast / "run"
    assert command("run", "coast", "--ranker", "first", "--set", "visitors", "--out", str(out)).returncode == 0
    scored = answer(command("score", "--grades", str(coast / "grades"), "--run", str(out), *measures, "--json"))
    assert scored["measures"] == measured["measures"]
    assert scored["per_query"] == measured["per_query"]
    assert measured["measures"]["rr"] == 1
    assert measured["made_of"]["ranker_version"] == 1


def test_what_is_missed_and_what_is_near_a_word_are_told(command: Command, coast: Path):
    own = ("missed", "coast", "--set", "visitors", "--ranker", "first", "--depth", "1", "--query", "q1")
    (missed,) = answer(command(*own, "--json"))["queries"]
    assert [(one["key"], one["rank"]) for one in missed["records"]] == [("b", 2)]
    assert (missed["recall"], missed["found"]) == (0.5, 2)
    shown = command(*own).stdout
    assert shown.startswith("q1  fog bell: 1 of 2 among the first 1, 2 at all\n    grade 1  b  ")
    assert "number 2. Outranked, though it holds every word." in shown
    assert 'has no open query "q7"' in refusal(command("missed", "coast", "--set", "visitors", "--query", "q7"))
    near = answer(command("ranker", "near", "coast", "fogg", "--ranker", "first", "--json"))
    assert (near[0]["term"], near[0]["near"][0]["around"]["text"], near[0]["near"][0]["worth"]) == ("fogg", "fog", None)
    assert "fogg in title: 0 records" in command("ranker", "near", "coast", "fogg", "--ranker", "first").stdout


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (["search", "cost", "x"], 'There is no collection "cost".'),
        (["search", "coast", "x", "--ranker", "frist"], 'There is no ranker "frist". There are: first, start.'),
        (["search", "coast", "x", "--ranker", "first:x"], "after the colon stands a version"),
        (["measure", "coast", "--set", "none"], 'There is no judged set "none". There are: visitors.'),
        (["measure", "coast", "--set", "visitors", "--measures", "ncdg@10"], "Did you mean ndcg@k?"),
        (["load", "/nowhere", "--collection", "coast", "--key", "id"], "/nowhere cannot be read"),
        (["chain", "run", "words"], "Give either --text TEXT or --lines FILE."),
    ],
)
def test_a_mistake_is_told_in_words(command: Command, coast: Path, arguments: list[str], told: str):
    assert told in refusal(command(*arguments))


def test_a_wrong_ranker_is_refused_and_nothing_is_kept(command: Command, coast: Path):
    wrong = json.dumps({"readings": [{"field": "title", "chain": "words", "wieght": 2}]})
    assert 'unknown key "wieght". Did you mean "weight"?' in refusal(
        command("ranker", "put", "coast", "wrong", "-", text=wrong)
    )
    assert [kept["name"] for kept in answer(command("ranker", "list", "coast", "--json"))] == ["first", "start"]


def test_the_launcher_is_sound_shell():
    for script in ("paleharbor", ".ci/run"):
        text = (ROOT / script).read_text("utf-8")
        assert text.startswith("#!/usr/bin/env bash\n")
        assert "set -euo pipefail" in text


def test_word_lists_and_chains_by_command(coast: Path, command: Command):
    (coast / "same.csv").write_text("words,means\nbell,gong\n")
    put = answer(command("words", "put", "coast", "same", str(coast / "same.csv"), "--json"))
    assert put == {"name": "same", "version": 1, "kind": "synonyms", "entries": 1}
    assert command("words", "get", "coast", "same").stdout == "words,means,way\nbell,gong,both\n"
    (coast / "bad.csv").write_text("word\n" + "x" * 300 + "\n")
    assert "line 2: an entry is at most 200 characters long." in refusal(
        command("words", "put", "coast", "bad", str(coast / "bad.csv"))
    )
    thesaurus = str(ROOT / "demo/thesaurus.ttl")
    kept = answer(command("words", "put", "coast", "sea", thesaurus, "--language", "en", "--narrower", "--json"))
    assert kept["kind"] == "synonyms"
    assert [one["name"] for one in answer(command("words", "list", "coast", "--json"))] == ["same", "sea"]

    chain = "words > lower > synonyms(@same)"
    assert answer(command("chain", "put", "coast", "rung", chain, "--json")) == {"name": "rung", "version": 1}
    listed = answer(command("chain", "list", "coast", "--json"))
    assert listed == [{"name": "rung", "version": 1, "notation": chain, "used_by": []}]
    run = ("chain", "run", "@rung", "--collection", "coast", "--text", "Bell", "--json")
    assert [token["text"] for token in answer(command(*run))["tokens"]] == ["bell", "gong"]
    listed_file = ("chain", "run", chain, "--list", f"same={coast / 'same.csv'}", "--text", "Bell", "--json")
    assert answer(command(*listed_file))["tokens"] == answer(command(*run))["tokens"]
    assert "say whose: --collection NAME" in refusal(command("chain", "run", "@rung", "--text", "Bell"))

    told = answer(command("chain", "consequences", "coast", "title", "markup > words", "--json"))
    assert (told["records"], told["vocabulary"], told["empty_count"]) == (3, 4, 0)
    assert [finding["name"] for finding in told["findings"]] == ["case kept"]
    shown = command("chain", "consequences", "coast", "title", "markup > words")
    assert "Nothing makes capitals small" in shown.stdout
    assert "Mend: Make them small: lower. Tried on 3 records: " in shown.stdout


def test_a_list_is_narrowed_and_a_missing_record_explained(command: Command, tmp_path: Path):
    rows = tmp_path / "narrow.jsonl"
    rows.write_text(
        "\n".join(
            json.dumps({"id": f"k{i}", "title": f"Fog {'bell' if i % 2 else 'horn'}", "year": 1840 + i})
            for i in range(6)
        )
    )
    answer(command("load", str(rows), "--collection", "narrow", "--key", "id", "--json"))
    listed = ("search", "narrow", "fog", "--filter", "year:1841..1843", "--sort", "-year", "--facet", "title", "--json")
    found = answer(command(*listed))
    assert [row["key"] for row in found["results"]] == ["k3", "k2", "k1"]
    assert found["facets"] == {"title": [["Fog bell", 2], ["Fog horn", 1]]}
    signs = answer(command("search", "narrow", "fog -bell", "--json"))
    assert (signs["matched"], signs["read_as"]) == (3, "fog, without bell")
    missing = command("search", "narrow", "bel", "--why-not", "k1")
    assert "It is not in the list." in missing.stdout
    assert "spelling slack by the length of the word" not in missing.stdout
    assert "spelling slack of 1 edit in every word: number" in missing.stdout
    for wrong, said in (
        (("--filter", "yer=1840"), 'Did you mean "year"?'),
        (("--filter", "year:1840"), "is no filter. Write FIELD=VALUE"),
        (("--sort", "-yer"), 'Did you mean "year"?'),
    ):
        assert said in refusal(command("search", "narrow", "fog", *wrong))


def test_two_versions_are_told_apart_in_words(command: Command, tmp_path: Path):
    rows = tmp_path / "told.jsonl"
    rows.write_text('{"id": "a", "title": "Fog bell"}')
    answer(command("load", str(rows), "--collection", "told", "--key", "id", "--json"))
    for weight in (1, 3):
        ranker = {"readings": [{"field": "title", "chain": "words > lower", "weight": weight}]}
        command("ranker", "put", "told", "own", "-", text=json.dumps(ranker))
    told = answer(command("ranker", "diff", "told", "own:1", "own:2", "--json"))
    assert told == {"differences": ["title weight 1 to 3"]}
    assert command("ranker", "diff", "told", "own:2", "own").stdout == "Nothing.\n"
    ranker = {"readings": [{"field": "title", "chain": "words > synonyms(@sea)"}]}
    for word in ("lamp", "lantern"):
        sea = tmp_path / "sea.csv"
        sea.write_text(f"words,means,way\nbell,{word},both\n")
        command("words", "put", "told", "sea", str(sea))
        command("ranker", "put", "told", "own", "-", text=json.dumps(ranker))
    assert command("ranker", "diff", "told", "own:3", "own:4").stdout == "word list @sea version 1 to 2\n"


def test_queries_are_typed_letter_by_letter(command: Command, coast: Path):
    (coast / "typing.json").write_text(json.dumps({**RANKER, "typing": {}}))
    command("ranker", "put", "coast", "typing", str(coast / "typing.json"))
    asking = ("letters", "coast", "--ranker", "typing")
    played = answer(command(*asking, "--query", "fog be", "--key", "a", "--json"))
    assert [one["rank"] for one in played["letters"]][-2:] == [1, 1]
    told = answer(command(*asking, "--set", "visitors", "--against", "first", "--json"))
    assert (told["letters"], told["compared"]["first"]) == (1, 3.5)
    shown = command(*asking, "--set", "visitors", "--against", "first").stdout
    assert "1.00 letters until found among the first 10" in shown
    assert "3.50 letters before, 1.00 now, -2.50" in shown
    assert "typed" in command(*asking, "--query", "fog").stdout
    assert "--query to play, or a judged --set" in refusal(command(*asking))
    assert answer(command("search", "coast", "fo", "--ranker", "typing", "--typing", "--json"))["matched"] == 2
    assert answer(command("search", "coast", "fo", "--ranker", "typing", "--json"))["matched"] == 0


def test_whole_queries_are_suggested_from_past_ones(command: Command, coast: Path):
    (coast / "asked.tsv").write_text("fog bell\t3\nfog of war\nunheard of\t9\n")
    told = command("past", "load", "coast", str(coast / "asked.tsv")).stdout
    assert told.startswith("3 queries, asked 13 times, from ")
    assert answer(command("past", "show", "coast", "--json"))["first"][0] == {
        "query": "unheard of",
        "asked": 9,
        "language": "",
    }
    assert "unheard of  9" in command("past", "show", "coast").stdout
    done = answer(command("complete", "coast", "fo", "--top", "1", "--json"))
    assert [set(one) >= {"text", "weight"} for one in done["completions"]] == [True]
    shown = command("complete", "coast", "fo", "--costs").stdout
    assert "fog bell" in shown
    assert "typed from any word:" in shown
    assert "typed from the beginning:" in shown
    assert "begins so" in command("complete", "coast", "unh").stdout
    assert "10,000 characters" in refusal(command("complete", "coast", "x" * 10_001))
    assert command("past", "drop", "coast").stdout == "They are gone.\n"
    assert "has no past queries" in refusal(command("past", "drop", "coast"))
    assert command("past", "show", "coast").stdout == "There are no past queries.\n"


def test_a_query_is_corrected_and_corrections_are_measured(command: Command, coast: Path):
    told = answer(command("correct", "coast", "fog bll", "--json"))
    assert (told["query"], told["correction"]) == ("fog bll", "fog bell")
    assert answer(command("correct", "coast", "fog bell", "--json")) == {"query": "fog bell", "correction": None}
    assert command("correct", "coast", "fog bll").stdout.startswith("fog bell  (")
    assert command("correct", "coast", "fog bell").stdout == "Nothing to correct.\n"
    shown = command("correct", "coast", "--measure", "--set", "visitors", "--count", "4").stdout
    assert "as sure as" in shown
    assert "Say a query to correct, or --measure" in refusal(command("correct", "coast"))


def test_passages_are_printed_for_a_program_that_goes_on(command: Command, coast: Path):
    told = answer(command("passages", "coast", "fog bell", "--letters", "200", "--json"))
    assert told["letters"] <= 200
    first = told["passages"][0]
    assert set(first) == {"key", "rank", "score", "passage"}
    assert first["passage"]["text"]
    shown = command("passages", "coast", "fog bell").stdout
    assert first["passage"]["text"] in shown
    assert "that say the same left out." in shown
    assert "10,000 characters" in refusal(command("passages", "coast", "x" * 10_001))
