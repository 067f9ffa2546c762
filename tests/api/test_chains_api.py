"""Chains and word lists over HTTP."""

from typing import Any

from fastapi.testclient import TestClient

from pale_harbor.api.chains.models import Meeting
from tests.api.test_api import MEET, problem
from tests.conftest import ROOT

AT = "/api/collections/saltmere"


def meeting(client: TestClient, **more: Any) -> dict[str, Any]:
    ask = {"record_chain": "words > lower", "query_chain": "words > lower", "text": "Fog Bell", "query": "bell"}
    answer = client.post(MEET, json=ask | more)
    assert answer.status_code == 200, answer.text
    # The answer is written out by hand, and yet what its document says.
    Meeting.model_validate(answer.json(), extra="forbid")
    return answer.json()


def test_the_stages_as_written_come_with_the_trace(client: TestClient):
    met = meeting(client, record_chain="# ⚓\nnfkc >\n words > nothing(3) > grams(2, 3)")
    assert [(call["text"], call["start"], call["kind"]) for call in met["record_calls"]] == [
        ("nfkc", 4, "text stage"),
        ("words", 12, "tokenizer"),
        ("nothing(3)", 20, None),
        ("grams(2, 3)", 33, "token stage"),
    ]
    assert met["record_stages"] == []
    assert met["record_problem"]["place"] == {"line": 3, "column": 10, "length": 7}
    assert meeting(client, record_chain="words > lower(")["record_calls"] == []
    assert meeting(client, record_chain="@english lower")["record_calls"] == []


def test_a_saved_chain_is_one_card_that_says_what_it_is_and_stages_after_it_are_cards(client: TestClient):
    put = client.put(f"{AT}/chains/ab", json={"notation": "nfkc > words > lower"})
    assert put.status_code == 200
    met = meeting(client, record_chain="@ab > prefixes(1, 2) > nothing", text="Fog")
    assert [(one["text"], one["start"], one["end"], one["kind"], one["saved"]) for one in met["record_calls"]] == [
        ("@ab", 0, 3, None, "nfkc > words > lower"),
        ("prefixes(1, 2)", 6, 20, "token stage", None),
        ("nothing", 23, 30, None, None),
    ]
    assert met["record_problem"]["place"] == {"line": 1, "column": 24, "length": 7}
    met = meeting(client, record_chain="@ab > prefixes(1, 2)", text="Fog", record_off=[1])
    assert [token["text"] for token in met["record_stages"][-1]["tokens"]] == ["fog"]
    met = meeting(client, record_chain="@ab > prefixes(1, 2)", text="Fog")
    assert [token["text"] for token in met["record_stages"][-1]["tokens"]] == ["f", "fo"]


def test_a_stage_is_switched_off_for_a_look(client: TestClient):
    assert [mooring["record_tokens"] for mooring in meeting(client)["moorings"]] == [[1]]
    off = meeting(client, record_off=[1])
    assert [stage["stage"] for stage in off["record_stages"]] == ["words"]
    assert off["moorings"][0]["reason"] == "“Bell” in the record differs only in capitals."
    assert len(off["record_calls"]) == 2
    all_off = meeting(client, record_off=[0, 1])
    assert all_off["record_problem"]["detail"] == "every stage is switched off."


def test_every_argument_of_a_stage_is_explained(client: TestClient):
    by_name = {(stage["name"], stage["kind"]): stage for stage in client.get("/api/stages").json()}
    stem = by_name["stem", "token stage"]["parameters"]
    assert [(one["name"], one["default"]) for one in stem] == [("language", None), ("strength", "full")]
    assert "hu" in stem[0]["choices"]
    least_and_most = [
        (one["least"], one["most"], one["default"]) for one in by_name["grams", "tokenizer"]["parameters"]
    ]
    assert least_and_most == [(1, 40, "3"), (1, 40, "3")]
    assert by_name["synonyms", "token stage"]["parameters"][0]["list_kind"] == "synonyms"
    assert by_name["word_grams", "token stage"]["parameters"][2]["default"] == '" "'


def test_consequences_come_from_a_sample_and_then_from_all(client: TestClient):
    ask = {"field": "title", "record_chain": "words > lower > stem(de)", "query_chain": "words > lower", "query": "x"}
    first = client.post(f"{AT}/consequences", json=ask).json()
    assert first["figures"]["records_in_all"] == 1_554
    assert 0 < first["figures"]["records"] < 1_554
    names = [finding["name"] for finding in first["findings"]]
    # Shares of languages might be withdrawn once all is read.
    assert "another language" not in names
    assert "never meeting" in names
    state = first["reckoning"]
    while state["state"] == "running":
        state = client.get(f"/api/reckonings/{state['id']}").json()
    assert (state["state"], state["records_read"]) == ("done", 1_554)
    whole = client.post(f"{AT}/consequences", json=ask).json()
    exact = whole["figures"]
    assert "another language" in [finding["name"] for finding in whole["findings"]]
    (meeting_again,) = [one for one in whole["findings"] if one["name"] == "never meeting"]
    assert meeting_again["mend"]["would"].startswith("Tried on ")
    assert exact["records"] == exact["records_in_all"] == 1_554
    assert set(exact["index_bytes"]) == {"terms", "postings", "positions", "letters", "lengths"}
    assert problem(client.get("/api/reckonings/nothing"), 404)["detail"].startswith("These figures are no longer kept")
    assert problem(client.post(f"{AT}/consequences", json=ask | {"record_chain": "wrods"}), 422)["place"]["column"] == 1


def test_a_reckoning_is_cancelled(client: TestClient):
    ask = {"field": "description", "record_chain": "words > grams(2, 9)", "query_chain": "words", "query": ""}
    begun = client.post(f"{AT}/consequences", json=ask).json()["reckoning"]
    state = client.post(f"/api/reckonings/{begun['id']}/cancel").json()["state"]
    assert state in ("cancelled", "done")


def test_a_runaway_pattern_is_told_at_its_place(client: TestClient):
    met = meeting(client, record_chain="find(/(a|a)*$/)", text="a" * 60 + "b")
    assert "took longer than 1 s" in met["record_problem"]["detail"]
    assert met["record_problem"]["place"]["column"] == 6


def test_samples_are_texts_of_the_collection(client: TestClient):
    found = client.get(f"{AT}/samples", params={"field": "title", "by": "word", "word": "barometer"}).json()
    assert found
    assert all("barometer" in sample["text"].lower() for sample in found)
    lengths = [len(one["text"]) for one in client.get(f"{AT}/samples?field=description&by=longest").json()]
    assert lengths == sorted(lengths, reverse=True)
    one, other = (client.get(f"{AT}/samples?field=title&by=chance&seed={seed}").json() for seed in (1, 2))
    assert one != other
    assert problem(client.get(f"{AT}/samples?field=title&by=word"), 422)["detail"].startswith("Which word?")


def test_a_word_list_is_kept_read_and_written_out(client: TestClient):
    put = client.put(f"{AT}/word-lists/mine", json={"csv": "words,means,way\nfog,haar,one\n"})
    assert put.json() == {"name": "mine", "version": 1, "kind": "synonyms", "csv": "words,means,way\nfog,haar,one\n"}
    assert meeting(client, record_chain="words > lower > synonyms(@mine)", query="haar")["moorings"][0]["record_tokens"]
    listed = {one["name"]: one for one in client.get(f"{AT}/word-lists").json()}
    assert listed["mine"] == {"name": "mine", "version": 1, "kind": "synonyms", "entries": 1, "used_by": []}
    assert listed["seafaring"]["used_by"] == ["seafaring"]
    file = client.get(f"{AT}/word-lists/mine/file")
    assert file.headers["content-disposition"] == 'attachment; filename="mine-1.csv"'
    assert file.text == "words,means,way\nfog,haar,one\n"
    wrong = problem(client.put(f"{AT}/word-lists/mine", json={"csv": "words,means\n,x\n"}), 422)
    assert wrong["problems"] == [{"where": "line 2", "what": "words of the same meaning are missing: two at least."}]
    problem(client.get(f"{AT}/word-lists/nobody"), 404)


def test_a_thesaurus_is_read_before_it_is_kept(client: TestClient):
    content = (ROOT / "demo/thesaurus.ttl").read_bytes()
    answer = client.post("/api/thesaurus", params={"name": "sea.ttl", "language": "en"}, content=content)
    assert answer.json()["rules"] > 5
    assert "lifeboat,life boat,both" in answer.json()["csv"]
    assert (
        "cannot be read as turtle"
        in problem(client.post("/api/thesaurus", params={"name": "sea.ttl"}, content=b"nothing of the kind"), 422)[
            "detail"
        ]
    )


def test_a_search_may_say_its_language(client: TestClient):
    chain = {"by": "language", "de": "german", "else": "whole"}
    ranker = {"document": {"readings": [{"field": "title", "chain": chain}]}}
    ask = {"query": "Schiffsglocke", "ranker": ranker}
    silent = client.post(f"{AT}/search", json=ask).json()["matched"]
    spoken = client.post(f"{AT}/search", json=ask | {"language": "de"}).json()
    assert spoken["matched"] >= silent
    assert spoken["query_terms"] == [["schiffsglock"]]
    why = client.post(f"{AT}/why", json=ask | {"language": "de", "key": spoken["results"][0]["key"]}).json()
    assert why["score"] == spoken["results"][0]["score"]


def test_broken_letters_anywhere_are_answered_in_words(client: TestClient):
    body = b'{"record_chain": "words > \\ud800(", "query_chain": "x\\udfff", "text": "a\\ud800", "query": "\\udc00"}'
    answer = client.post(MEET, content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 200
    assert answer.json()["record_problem"]["place"]
