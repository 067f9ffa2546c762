"""Signing in by another place that says who somebody is: whom it lets in, and what of it is believed."""

import time
from collections.abc import Callable, Generator
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi.testclient import TestClient
from joserfc.jwk import OctKey, RSAKey

from pale_harbor.errors import BadInput, NotAllowed
from pale_harbor.settings import Settings
from pale_harbor.store.cluster import Cluster
from pale_harbor.work.people.people import make_person
from pale_harbor.work.people.provider import Attempt, Provider, attempt_of, provider_of
from tests.api import people
from tests.api.people import ADDRESS, PASSWORD, Town
from tests.provider import CLIENT, SECRET, TestProvider, a_provider


@pytest.fixture
def place() -> Generator[TestProvider]:
    with a_provider() as own:
        yield own


@pytest.fixture
def town(
    cluster: Cluster, empty_database: Callable[[], str], tmp_path_factory: pytest.TempPathFactory, place: TestProvider
) -> Generator[Town]:
    with people.town(cluster, empty_database, tmp_path_factory.mktemp("town")) as settled:
        settled.app.state.provider = Provider(place.address, CLIENT, SECRET, "the Ferry House")
        yield settled


def sent_on(browser: TestClient, to: str = "/ferries/records") -> str:
    """Where the browser comes back to, after it was sent to the provider."""
    began = browser.get("/api/sign-in/elsewhere", params={"to": to}, follow_redirects=False)
    assert began.status_code == 303, began.text
    back = httpx.get(began.headers["location"]).headers["location"]
    assert back.startswith(f"{ADDRESS}/api/sign-in/back?")
    return back


def goes_through(browser: TestClient, to: str = "/ferries/records") -> str:
    """Where the browser is sent in the end."""
    answer = browser.get(sent_on(browser, to), follow_redirects=False)
    assert answer.status_code == 303
    # What it kept meanwhile is kept no longer.
    assert "paleharbor-attempt" not in browser.cookies
    return answer.headers["location"]


def why_not(browser: TestClient, to: str = "/ferries/records") -> str:
    """What whoever is refused reads."""
    assert goes_through(browser, to) == "/sign-in"
    me = browser.get("/api/me").json()
    assert me["person"] is None
    return me["refused"]


def whose(browser: TestClient) -> str:
    return browser.get("/api/me").json()["person"]["name"]


def made(town: Town, name: str, shown: str) -> None:
    make_person(town.bench.pool, name, shown, None, keeper=False)


def test_somebody_whom_a_keeper_made_by_that_name_signs_in_and_is_known_from_then_on(town: Town, place: TestProvider):
    made(town, "ib@ferry.example", "Ib Sand")
    browser = town.browser()
    assert browser.get("/api/me").json()["elsewhere"] == "the Ferry House"
    place.claims = {"sub": "17", "email": "Ib@ferry.example", "email_verified": True}
    assert goes_through(browser) == "/ferries/records"
    assert whose(browser) == "ib@ferry.example"
    # By their number there, whatever they are called by now.
    place.claims = {"sub": "17", "email": "other@ferry.example"}
    second = town.browser()
    goes_through(second)
    assert whose(second) == "ib@ferry.example"
    # Somebody else who comes by the old name is not them.
    place.claims = {"sub": "18", "email": "ib@ferry.example", "email_verified": True}
    assert "nobody let you in here yet" in why_not(town.browser())


def test_an_address_that_nobody_proved_is_nobodys(town: Town, place: TestProvider):
    made(town, "ib@ferry.example", "Ib Sand")
    for claims in ({"email_verified": False}, {}, {"email_verified": "true"}, {"email_verified": 1}):
        place.claims = {"sub": "17", "email": "ib@ferry.example", **claims}
        assert "nobody let you in here yet" in why_not(town.browser())
    place.claims = {"sub": "17", "preferred_username": "ib@ferry.example"}
    browser = town.browser()
    goes_through(browser)
    assert whose(browser) == "ib@ferry.example"


def test_nobody_comes_in_as_somebody_with_a_password_or_who_was_shut_out(town: Town, place: TestProvider):
    place.claims = {"sub": "17", "preferred_username": "reader"}
    assert "You are known there as reader, but nobody let you in here yet" in why_not(town.browser())
    made(town, "ib", "Ib Sand")
    place.claims = {"sub": "19", "preferred_username": "ib"}
    browser = town.browser()
    goes_through(browser)
    assert town.browsers["keeper"].put("/api/people/ib", json={"left": True}).status_code == 200
    assert "nobody let you in here yet" in why_not(town.browser())


def test_an_invitation_lets_somebody_new_in_who_needs_no_password(town: Town, place: TestProvider):
    asked = {"shown": "Aud Holm", "role": "reader", "days": 1}
    link = town.browsers["keeper"].post("/api/collections/ferries/invitations", json=asked).json()["path"]
    place.claims = {"sub": "CN=Aud/7", "email": "not proved"}
    browser = town.browser()
    assert goes_through(browser, link) == "/"
    me = browser.get("/api/me").json()["person"]
    assert (me["name"], me["shown"], me["roles"], me["has_password"]) == (
        "cn-aud-7",
        "Aud Holm",
        {"ferries": "reader"},
        False,
    )
    # It was taken: whoever comes after is not let in by it.
    place.claims = {"sub": "20"}
    assert "does not hold" in why_not(town.browser(), link) or "invitation" in why_not(town.browser(), link)


def test_whoever_is_signed_in_may_sign_in_there_from_then_on(town: Town, place: TestProvider):
    place.claims = {"sub": "21", "preferred_username": "whatever"}
    assert goes_through(town.browsers["engineer"]) == "/ferries/records"
    browser = town.browser()
    goes_through(browser)
    assert whose(browser) == "engineer"
    # One account there is one person here.
    reader = town.browsers["reader"]
    assert goes_through(reader) == "/sign-in"
    assert "Somebody else signs in here by that account" in reader.get("/api/me").json()["refused"]


WRONG: list[tuple[dict[str, Any], str]] = [
    ({"iss": "https://other.example"}, "iss"),
    ({"aud": "somebody-else"}, "aud"),
    ({"aud": [CLIENT, "somebody-else"]}, "said to somebody else"),
    ({"azp": "somebody-else"}, "said to somebody else"),
    ({"nonce": "of another attempt"}, "nonce"),
    ({"nonce": None}, "nonce"),
    ({"sub": None}, "sub"),
    ({"exp": None}, "exp"),
    # In seconds from now.
    ({"exp": -61}, "expired"),
]


@pytest.mark.parametrize(("wrong", "said"), WRONG, ids=[str(wrong) for wrong, _ in WRONG])
def test_what_is_not_said_to_this_server_and_this_attempt_is_not_believed(
    wrong: dict[str, Any], said: str, town: Town, place: TestProvider
):
    made(town, "ib", "Ib Sand")
    place.claims = {"sub": "17", "preferred_username": "ib"}
    place.wrong = wrong if wrong.get("exp") is None else {"exp": int(time.time()) + wrong["exp"]}
    refused = why_not(town.browser())
    assert "cannot be believed" in refused
    assert said in refused
    # And that alone was wrong; clocks may be a minute apart.
    place.wrong = {"exp": int(time.time()) - 30}
    goes_through(browser := town.browser())
    assert whose(browser) == "ib"


def test_what_another_key_signed_is_not_believed_and_a_new_key_of_its_own_is(town: Town, place: TestProvider):
    made(town, "ib", "Ib Sand")
    place.claims = {"sub": "17", "preferred_username": "ib"}
    goes_through(town.browser())
    place.shows, place.signs = place.signs, RSAKey.generate_key(2048, {"kid": "one"})
    assert "cannot be believed" in why_not(town.browser())
    # It shows its new key now: asked for anew, since the one that was known does not fit.
    place.shows, asked = None, place.asked_for_keys
    goes_through(browser := town.browser())
    assert whose(browser) == "ib"
    assert place.asked_for_keys == asked + 1


def test_a_shared_secret_signs_nothing(town: Town, place: TestProvider):
    made(town, "ib", "Ib Sand")
    place.claims, place.algorithm = {"sub": "17", "preferred_username": "ib"}, "HS256"
    place.shows = place.signs
    place.signs = OctKey.import_key(SECRET * 2)  # type: ignore[assignment]
    assert "cannot be believed" in why_not(town.browser())


def test_an_answer_is_to_the_browser_that_asked_and_once(town: Town, place: TestProvider):
    made(town, "ib", "Ib Sand")
    place.claims = {"sub": "17", "preferred_username": "ib"}
    one, other = town.browser(), town.browser()
    back = sent_on(one)

    def refused(browser: TestClient) -> str:
        assert browser.get(back, follow_redirects=False).headers["location"] == "/sign-in"
        return browser.get("/api/me").json()["refused"]

    assert "This browser did not begin" in refused(other)
    # One that began by itself is not signed in by another's answer, either.
    sent_on(other)
    assert "no answer to how" in refused(other)
    assert one.get(back, follow_redirects=False).headers["location"] == "/ferries/records"
    assert one.post("/api/sign-out").status_code == 204
    assert "This browser did not begin" in refused(one)


def test_an_attempt_ends_after_ten_minutes(town: Town):
    began = town.browser().get("/api/sign-in/elsewhere", follow_redirects=False)
    assert "Max-Age=600" in began.headers["set-cookie"]
    assert "HttpOnly" in began.headers["set-cookie"]
    sealing = town.bench.sealing
    for later, is_in_time in ((5.0, True), (-1.0, False)):
        kept = Attempt("state", "nonce", "verifier", "/", time.time() + later)
        if is_in_time:
            assert attempt_of(sealing, kept.sealed(sealing), "state") == kept
        else:
            with pytest.raises(NotAllowed, match="it took too long"):
                attempt_of(sealing, kept.sealed(sealing), "state")
    assert abs(town.app.state.provider.begin("http://x", "/")[1].until - time.time() - 600) < 60


@pytest.mark.parametrize(
    "to", ["https://other.example/", "//other.example", "/\\other.example", "other", "javascript:x"]
)
def test_nobody_is_sent_on_to_another_site(to: str, town: Town, place: TestProvider):
    made(town, "ib", "Ib Sand")
    place.claims = {"sub": "17", "preferred_username": "ib"}
    assert goes_through(town.browser(), to) == "/"


def test_who_is_refused_there_and_a_place_that_is_not_itself_are_told_of(town: Town, place: TestProvider):
    place.refuses = "access_denied"
    assert why_not(town.browser()) == "the Ferry House did not let you in (access_denied)."
    # Nothing of what others write stands on the page as if it were ours.
    place.refuses = "Call this number: 17"
    assert why_not(town.browser()) == "the Ferry House did not let you in."
    place.refuses = None
    town.app.state.provider = Provider(place.address, CLIENT, "another secret", "the Ferry House")
    assert "does not say who you are" in why_not(town.browser())
    place.wrong = {"issuer": "https://other.example"}
    town.app.state.provider = Provider(place.address, CLIENT, SECRET, "the Ferry House")
    answer = town.browser().get("/api/sign-in/elsewhere")
    assert answer.status_code == 503
    assert 'calls itself "https://other.example"' in answer.json()["detail"]
    town.app.state.provider = Provider("http://127.0.0.1:9", CLIENT, SECRET, "the Ferry House")
    assert "cannot be asked now" in town.browser().get("/api/sign-in/elsewhere").json()["detail"]


def test_what_nobody_here_said_is_not_told_as_if_we_had(town: Town):
    browser = town.browser()
    sealed = town.bench.sealing.sealed({"said": "You were not let in."})["said"]
    for kept, told in (("Call this number: 17", None), ("sealed:Call", None), (sealed, "You were not let in.")):
        answer = browser.get("/api/me", headers={"cookie": f"paleharbor-refusal={kept}"})
        assert answer.json()["refused"] == told
    # Nor is an attempt that somebody else wrote one of ours.
    forged = '{"state":"s","nonce":"n","verifier":"v","to":"/","until":9e9}'
    with pytest.raises(NotAllowed, match="did not begin"):
        attempt_of(town.bench.sealing, forged, "s")


def test_without_one_there_is_none(town: Town):
    town.app.state.provider = None
    assert town.browser().get("/api/sign-in/elsewhere").status_code == 404
    assert town.browser().get("/api/me").json()["elsewhere"] is None


def test_it_is_named_whole_or_not_at_all():
    assert provider_of(Settings(Path("data"))) is None
    named = Settings(Path("data"), provider="https://id.example", provider_client="a", provider_secret="b")
    found = provider_of(named)
    assert found is not None
    assert (found.issuer, found.name) == ("https://id.example", "your house's account")
    with pytest.raises(BadInput, match="together"):
        provider_of(Settings(Path("data"), provider="https://id.example", provider_client="a"))


def test_who_has_a_password_still_signs_in_by_it(town: Town):
    assert town.signed_in("reader", PASSWORD).get("/api/me").json()["person"]["name"] == "reader"
