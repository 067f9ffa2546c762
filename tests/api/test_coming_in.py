"""Coming in and going: passwords, browsers, keys, invitations, and who is told of what."""

from collections.abc import Callable, Generator
from unittest.mock import Mock

import pytest
from fastapi.testclient import TestClient

from pale_harbor.store.cluster import Cluster
from pale_harbor.work.people import visiting
from pale_harbor.work.people.tokens import hash_of
from tests.api import people
from tests.api.people import LOCAL_KEY, PASSWORD, Town

FERRIES = "/api/collections/ferries"


@pytest.fixture
def town(
    cluster: Cluster, empty_database: Callable[[], str], tmp_path_factory: pytest.TempPathFactory
) -> Generator[Town]:
    with people.town(cluster, empty_database, tmp_path_factory.mktemp("town")) as settled:
        yield settled


def detail(answer: object) -> str:
    return answer.json()["detail"]  # pyright: ignore


def sign_in(browser: TestClient, name: str, password: str = PASSWORD) -> object:
    return browser.post("/api/sign-in", json={"name": name, "password": password})


def test_whoever_signs_in_is_somebody_until_they_sign_out(town: Town):
    browser = town.browser()
    assert browser.get("/api/me").json() == {"needs_sign_in": True, "person": None, "elsewhere": None, "refused": None}
    # The name is written as people write it.
    answer = sign_in(browser, " Reader ")
    assert answer.status_code == 204  # pyright: ignore
    cookie = answer.headers["set-cookie"]  # pyright: ignore
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    assert "Path=/" in cookie
    me = browser.get("/api/me").json()["person"]
    assert (me["name"], me["shown"], me["roles"], me["keeper"]) == (
        "reader",
        "The reader",
        {"ferries": "reader"},
        False,
    )
    token = browser.cookies["paleharbor-visit"]
    assert browser.post("/api/sign-out").status_code == 204
    assert browser.get(FERRIES).status_code == 401
    # What was shown before counts no more, whoever kept it.
    assert browser.get(FERRIES, headers={"authorization": f"Bearer {token}"}).status_code == 401


def test_what_a_browser_shows_is_not_kept(town: Town):
    token = town.browsers["reader"].cookies["paleharbor-visit"]
    with town.bench.pool.connection() as connection:
        kept = [row[0] for row in connection.execute("select hash from visits")]
        assert hash_of(token) in kept
        assert all(token.encode() not in one for one in kept)


def test_a_wrong_password_and_a_name_that_nobody_has_are_refused_alike(town: Town):
    wrong, unknown = sign_in(town.browser(), "reader", "a lamp for no ship"), sign_in(town.browser(), "ghost")
    assert wrong.status_code == unknown.status_code == 403  # pyright: ignore
    assert detail(wrong) == detail(unknown) == "This name and this password do not belong together."


def test_after_ten_wrong_ones_even_the_right_one_waits(town: Town, monkeypatch: pytest.MonkeyPatch):
    for _ in range(visiting.FAILURES_OF_NAME - 1):
        assert sign_in(town.browser(), "reader", "wrong").status_code == 403  # pyright: ignore
    # One before the last: who is right still comes in, and begins anew.
    assert sign_in(town.browser(), "reader").status_code == 204  # pyright: ignore
    for _ in range(visiting.FAILURES_OF_NAME):
        assert sign_in(town.browser(), "reader", "wrong").status_code == 403  # pyright: ignore
    refused = sign_in(town.browser(), "reader")
    assert refused.status_code == 429  # pyright: ignore
    assert "Wait 15 minutes" in detail(refused)
    # Others come in meanwhile, and so does whoever waited.
    assert sign_in(town.browser(), "engineer").status_code == 204  # pyright: ignore
    with town.bench.pool.connection() as connection:
        connection.execute("update failed_visits set failed_at = failed_at - interval '15 minutes'")
    assert sign_in(town.browser(), "reader").status_code == 204  # pyright: ignore


def test_nobody_waits_until_it_is_as_late_as_a_clock_that_was_set_back_said(town: Town):
    for _ in range(visiting.FAILURES_OF_NAME):
        assert sign_in(town.browser(), "reader", "wrong").status_code == 403  # pyright: ignore
    with town.bench.pool.connection() as connection:
        connection.execute("update failed_visits set failed_at = failed_at + interval '30 days'")
    assert sign_in(town.browser(), "reader").status_code == 204  # pyright: ignore


def test_from_one_address_fifty_may_fail_whatever_the_names(town: Town):
    with town.bench.pool.connection() as connection:
        connection.execute(
            "insert into failed_visits (name, address) select 'ghost' || n, 'testclient' from generate_series(1, 49) n"
        )
    assert sign_in(town.browser(), "one more", "wrong").status_code == 403  # pyright: ignore
    assert sign_in(town.browser(), "reader").status_code == 429  # pyright: ignore


@pytest.mark.parametrize(
    ("unseen", "begun", "is_in"), [(13.9, 13.9, True), (14.1, 14.1, False), (0.1, 89.9, True), (0.1, 90.1, False)]
)
def test_a_browser_is_let_in_for_fourteen_days_unseen_and_ninety_in_all(
    town: Town, unseen: float, begun: float, is_in: bool
):
    with town.bench.pool.connection() as connection:
        connection.execute(
            """
            update visits set seen_at = now() - make_interval(secs => %s),
                ends_at = ends_at - make_interval(secs => %s)
            """,
            [unseen * 86_400, begun * 86_400],
        )
    town.app.state.who.forget()
    assert town.browsers["reader"].get(FERRIES).status_code == (200 if is_in else 401)


def test_the_key_at_this_machine_keeps_the_installation(town: Town):
    browser = town.browser()
    assert browser.get("/api/people", headers={"authorization": f"Bearer {LOCAL_KEY}"}).status_code == 200
    assert browser.get("/api/people", headers={"authorization": f"Bearer {LOCAL_KEY}x"}).status_code == 401


def test_a_key_acts_for_whoever_made_it_until_it_is_ended(town: Town):
    engineer = town.browsers["engineer"]
    key = engineer.post("/api/me/keys", json={"label": "the timetable's own search", "days": 1}).json()["key"]
    shown = {"authorization": f"Bearer {key}"}
    body = {"query": "tidewick", "ranker": {"name": "plain"}}
    assert town.browser().post(f"{FERRIES}/search", json=body, headers=shown).json()["matched"] == 2
    mine = engineer.get("/api/me/visits").json()
    (number,) = [one["number"] for one in mine if one["kind"] == "key"]
    assert [one["label"] for one in mine if one["kind"] == "key"] == ["the timetable's own search"]
    # Nobody ends another one's.
    assert town.browsers["owner"].delete(f"/api/me/visits/{number}").status_code == 404
    assert engineer.delete(f"/api/me/visits/{number}").status_code == 204
    assert town.browser().post(f"{FERRIES}/search", json=body, headers=shown).status_code == 401
    assert engineer.post("/api/me/keys", json={"label": "  ", "days": 1}).status_code == 422


def test_a_new_password_signs_other_browsers_out(town: Town):
    here, there = town.browsers["reader"], town.signed_in("reader")
    refused = here.post("/api/me/password", json={"old": "wrong", "new": "a bell for every ferry"})
    assert (refused.status_code, detail(refused)) == (403, "The old password is another one.")
    assert here.post("/api/me/password", json={"old": PASSWORD, "new": "a bell for every ferry"}).status_code == 204
    assert here.get(FERRIES).status_code == 200
    assert there.get(FERRIES).status_code == 401
    assert sign_in(town.browser(), "reader").status_code == 403  # pyright: ignore
    town.signed_in("reader", "a bell for every ferry")


def test_who_left_is_out_at_once_and_may_come_back(town: Town):
    keeper, engineer = town.browsers["keeper"], town.browsers["engineer"]
    assert keeper.put("/api/people/engineer", json={"left": True}).json()["left_at"] is not None
    assert engineer.get(FERRIES).status_code == 401
    assert sign_in(town.browser(), "engineer").status_code == 403  # pyright: ignore
    assert keeper.put("/api/people/engineer", json={"left": False}).json()["left_at"] is None
    town.signed_in("engineer")


def test_one_keeper_stays_until_the_last_person_goes(town: Town):
    keeper = town.browsers["keeper"]
    for asked in ({"keeper": False}, {"left": True}):
        refused = keeper.put("/api/people/nora", json=asked)
        assert (refused.status_code, "only keeper" in detail(refused)) == (422, True)
    assert keeper.delete("/api/people/nora").status_code == 422
    for name in ("judge", "reader", "engineer", "owner", "stranger"):
        assert keeper.delete(f"/api/people/{name}").status_code == 204
    assert keeper.delete("/api/people/nora").status_code == 204
    # As on the first day: nobody signs in.
    assert keeper.get("/api/me").json() == {"needs_sign_in": False, "person": None, "elsewhere": None, "refused": None}
    assert town.browser().get(FERRIES).status_code == 200


def test_the_first_person_is_a_keeper_and_from_then_on_everybody_signs_in(town: Town):
    keeper = town.browsers["keeper"]
    for name in ("judge", "reader", "engineer", "owner", "stranger", "nora"):
        keeper.delete(f"/api/people/{name}")
    browser = town.browser()
    asked = {"name": "Ib", "shown": "Ib Sand", "password": PASSWORD}
    refused = browser.post("/api/people", json=asked)
    assert (refused.status_code, "has to be a keeper" in detail(refused)) == (422, True)
    assert browser.post("/api/people", json={**asked, "keeper": True}).json()["name"] == "ib"
    assert browser.get(FERRIES).status_code == 401
    assert town.signed_in("ib").get(FERRIES).status_code == 200


@pytest.mark.parametrize(
    ("name", "shown", "password", "says"),
    [
        ("Ib Sand", "Ib", PASSWORD, "cannot be a name to sign in by"),
        ("ib", " ", PASSWORD, "how others are to see the name"),
        ("ib", "Ib", "eleven sign", "has 12 letters or more; this one has 11"),
        ("ib", "Ib", "x" * 201, "200 letters at most"),
        ("ib", "Ib", "abababababab", "fewer than five different letters"),
        ("ibenholt", "Ib", "Ibenholt1234x", "hardly more than the name"),
        ("reader", "Ib", PASSWORD, 'somebody called "reader" already'),
        ("ib", "The reader", PASSWORD, 'somebody called "The reader" already'),
    ],
)
def test_names_and_passwords_that_will_not_do(town: Town, name: str, shown: str, password: str, says: str):
    answer = town.browsers["keeper"].post("/api/people", json={"name": name, "shown": shown, "password": password})
    assert answer.status_code == 422
    assert says in answer.text.replace('\\"', '"')


@pytest.mark.parametrize("password", ["twelve signs", "ib" + "lantern room", "æøåæøåæøåxyz"])
def test_passwords_that_will_do(town: Town, password: str):
    asked = {"name": "ib", "shown": "Ib", "password": password}
    assert town.browsers["keeper"].post("/api/people", json=asked).status_code == 200
    town.signed_in("ib", password)


def test_an_invitation_is_taken_once_by_somebody_new(town: Town):
    owner, browser = town.browsers["owner"], town.browser()
    path = owner.post(f"{FERRIES}/invitations", json={"shown": "Ib Sand", "role": "engineer"}).json()["path"]
    token = path.removeprefix("/invited/")
    told = browser.get(f"/api/invitations/{token}").json()
    assert (told["shown"], told["collection"], told["role"], told["by_person"], told["known"]) == (
        *("Ib Sand", "ferries", "engineer", "The owner", None),
    )
    # What does not do is said, and the invitation is still there.
    assert browser.post(f"/api/invitations/{token}", json={"name": "ib", "password": "short"}).status_code == 422
    assert browser.post(f"/api/invitations/{token}", json={"name": "ib"}).status_code == 422
    assert browser.post(f"/api/invitations/{token}", json={"name": "ib", "password": PASSWORD}).status_code == 204
    assert browser.get("/api/me").json()["person"]["roles"] == {"ferries": "engineer"}
    assert browser.get("/api/me").json()["person"]["shown"] == "Ib Sand"
    gone = town.browser().get(f"/api/invitations/{token}")
    assert (gone.status_code, "Ask for a new one" in detail(gone)) == (404, True)


def test_somebody_known_takes_an_invitation_which_takes_nothing_away(town: Town):
    owner, engineer = town.browsers["owner"], town.browsers["engineer"]

    def taken(role: str) -> str:
        path = owner.post(f"{FERRIES}/invitations", json={"shown": "whoever", "role": role}).json()["path"]
        token = path.removeprefix("/invited/")
        assert engineer.get(f"/api/invitations/{token}").json()["known"] == "The engineer"
        assert engineer.post(f"/api/invitations/{token}", json={}).status_code == 204
        return engineer.get("/api/me").json()["person"]["roles"]["ferries"]

    assert taken("reader") == "engineer"
    assert taken("owner") == "owner"


def test_an_invitation_ends_and_is_drawn_back(town: Town):
    owner = town.browsers["owner"]
    paths = [
        owner.post(f"{FERRIES}/invitations", json={"shown": name, "role": "reader"}).json()["path"]
        for name in ("Ib", "Aud")
    ]
    invited = owner.get(f"{FERRIES}/members").json()["invited"]
    assert [one["shown"] for one in invited] == ["Aud", "Ib"]
    assert owner.delete(f"{FERRIES}/invitations/{invited[0]['id']}").status_code == 204
    assert owner.delete(f"{FERRIES}/invitations/{invited[0]['id']}").status_code == 404
    with town.bench.pool.connection() as connection:
        connection.execute("update invitations set ends_at = now()")
    for path in paths:
        assert town.browser().get("/api/invitations/" + path.removeprefix("/invited/")).status_code == 404


def test_a_keeper_invites_another_one(town: Town):
    path = town.browsers["keeper"].post("/api/people/invitations", json={"shown": "Ib Sand"}).json()["path"]
    browser = town.browser()
    token = path.removeprefix("/invited/")
    assert browser.get(f"/api/invitations/{token}").json()["keeper"]
    assert browser.post(f"/api/invitations/{token}", json={"name": "ib", "password": PASSWORD}).status_code == 204
    assert browser.get("/api/people").status_code == 200


def test_a_collection_keeps_an_owner(town: Town):
    owner, keeper = town.browsers["owner"], town.browsers["keeper"]
    for answer in (
        owner.put(f"{FERRIES}/members/owner", json={"role": "reader"}),
        owner.delete(f"{FERRIES}/members/owner"),
    ):
        assert (answer.status_code, "only owner" in detail(answer)) == (422, True)
    assert owner.put(f"{FERRIES}/members/engineer", json={"role": "owner"}).status_code == 200
    assert owner.put(f"{FERRIES}/members/owner", json={"role": "reader"}).status_code == 200
    # It counts at once.
    assert owner.get(f"{FERRIES}/members").status_code == 403
    assert keeper.delete(f"{FERRIES}/members/stranger").status_code == 404


def test_what_somebody_does_carries_their_name(town: Town):
    engineer, owner = town.browsers["engineer"], town.browsers["owner"]
    document = engineer.get(f"{FERRIES}/rankers/plain").json()["document"]
    document["readings"][0]["weight"] = 2
    assert engineer.put(f"{FERRIES}/rankers/plain", json={"document": document}).status_code == 200
    assert owner.post(f"{FERRIES}/diary", json={"title": "We go by routes", "body": ""}).status_code == 200
    rankers = {one["version"]: one["by_person"] for one in engineer.get(f"{FERRIES}/rankers").json()}
    assert rankers == {1: None, 2: "The engineer"}
    assert [one["by_person"] for one in owner.get(f"{FERRIES}/diary").json()] == ["The owner"]
    told = owner.get(f"{FERRIES}/changes").json()
    assert [(one["person"], one["what"], one["about"]) for one in told[:2]] == [
        ("The owner", "Writes a decision into the diary", "title We go by routes"),
        ("The engineer", "Keeps a ranker as a new version of its name", "plain"),
    ]
    # Looking is no change.
    assert not [one for one in told if "Searches" in one["what"]]
    by_name = owner.get(f"{FERRIES}/changes", params={"person": "The engineer"}).json()
    assert {one["person"] for one in by_name} == {"The engineer"}
    by_text = owner.get(f"{FERRIES}/changes", params={"text": "RANKER"}).json()
    assert [one["what"] for one in by_text] == ["Keeps a ranker as a new version of its name"] * 2
    older = owner.get(f"{FERRIES}/changes", params={"before": told[0]["id"]}).json()
    assert older == told[1:]
    lines = owner.get(f"{FERRIES}/changes/file").text.splitlines()
    assert lines[0] == "at,person,collection,what,about"
    assert len(lines) == len(told) + 1
    assert lines[1].endswith(",The owner,ferries,Writes a decision into the diary,title We go by routes")


def test_a_change_says_whom_and_what_it_was_about_and_no_secret(town: Town):
    keeper, owner = town.browsers["keeper"], town.browsers["owner"]
    new = {"name": "hal", "shown": "Hal Tern", "password": "another lamp for ships"}
    assert keeper.post("/api/people", json=new).status_code == 200
    assert owner.put(f"{FERRIES}/members/hal", json={"role": "reader"}).status_code == 200
    grade = {"query_id": "1", "record_key": "f1", "grade": 0}
    assert owner.post(f"{FERRIES}/judged/riders/grades", json=grade).status_code == 200
    told = [one["about"] for one in keeper.get("/api/changes").json()[:3]]
    assert told == ["riders query_id 1 record_key f1 grade 0", "hal role reader", "name hal shown Hal Tern"]
    assert "lamp" not in keeper.get("/api/changes").text
    # What is long is not gone through.
    long = new | {"name": "una", "shown": "Una"}
    assert keeper.post("/api/people", json=long | {"note": "x" * 20_000}).status_code == 200
    assert keeper.get("/api/changes").json()[0]["about"] == ""
    # Nor what nobody asked for, which need not be JSON.
    path, as_json = f"{FERRIES}/judged/riders/lock", {"content-type": "application/json"}
    drop = f"{FERRIES}/members/hal"
    for nonsense in (b"{", b"[1]", b'"name"', b"\xff"):
        assert owner.put(drop, json={"role": "reader"}).status_code == 200
        answer = owner.request("DELETE", drop, content=nonsense, headers=as_json)
        assert answer.status_code < 300, answer.text
        assert keeper.get("/api/changes").json()[0]["about"] == "hal"
    # Nor a sign that cannot be kept, in what is passed over.
    assert owner.put(drop, json={"role": "reader", "title": "a\x00b"}).status_code == 200
    assert keeper.get("/api/changes").json()[0]["about"] == "hal role reader title ab"
    assert owner.post(path, json={"share": 0.2}).status_code == 200
    assert keeper.get("/api/changes").json()[0]["about"] == "riders share 0.2"


def test_what_became_of_a_collection_is_told_under_the_name_that_it_has(town: Town):
    owner, keeper = town.browsers["owner"], town.browsers["keeper"]
    assert owner.put(f"{FERRIES}/name", json={"name": "boats"}).status_code == 200
    newest = owner.get("/api/collections/boats/changes").json()[0]
    assert (newest["person"], newest["what"], newest["about"]) == (
        *("The owner", "Gives a collection another name", "ferries to boats"),
    )
    assert owner.delete("/api/collections/boats", params={"confirm": "boats"}).status_code == 200
    # What is gone is told of the installation.
    newest = keeper.get("/api/changes").json()[0]
    assert (newest["person"], newest["collection"]) == ("The owner", "boats")
    assert newest["what"].startswith("Drops a collection")


def test_what_a_keeper_does_to_an_import_stands_among_the_changes_of_its_collection(town: Town):
    keeper = town.browsers["keeper"]
    number = keeper.get(f"{FERRIES}/imports").json()[0]["id"]
    assert keeper.post(f"/api/imports/{number}/undo").status_code == 200
    newest = keeper.get(f"{FERRIES}/changes").json()[0]
    assert (newest["person"], newest["collection"], newest["about"]) == ("Nora Vane", "ferries", str(number))


def test_what_was_refused_is_no_change(town: Town):
    before = town.browsers["owner"].get(f"{FERRIES}/changes").json()
    assert town.browsers["reader"].put(f"{FERRIES}/chains/new", json={"notation": "words"}).status_code == 403
    assert town.browsers["engineer"].put(f"{FERRIES}/chains/new", json={"notation": "wrds"}).status_code == 422
    assert town.browsers["owner"].get(f"{FERRIES}/changes").json() == before


def test_who_is_forgotten_leaves_what_they_did_without_their_name(town: Town):
    assert town.browsers["engineer"].put(f"{FERRIES}/chains/new", json={"notation": "words"}).status_code == 200
    assert town.browsers["keeper"].delete("/api/people/engineer").status_code == 204
    told = town.browsers["owner"].get(f"{FERRIES}/changes", params={"text": "new"}).json()
    assert [one["person"] for one in told][:1] == ["somebody who left"]
    with town.bench.pool.connection() as connection:
        columns = connection.execute(
            """
            select table_name, column_name from information_schema.columns
            where column_name in ('by_person', 'person') and table_schema = 'public'
            """
        ).fetchall()
        assert len(columns) > 8
        for table, column in columns:
            found = connection.execute(
                f"select count(*) from {table} where {column} = 'The engineer'"  # pyright: ignore
            ).fetchone()
            assert found == (0,), table


def test_a_judge_who_is_a_member_judges_without_a_link(town: Town, monkeypatch: pytest.MonkeyPatch):
    task = {"name": "a task", "judges": ["The judge", "Guest"], "sides": [{"ranker": {"name": "plain"}}], "twice": 1}
    path = f"{FERRIES}/judged/riders/tasks"
    made = town.browsers["engineer"].post(path, json={**task, "leave_out_judged": False}).json()[0]
    assert {one["judge"]: one["person"] for one in made["judges"]} == {"The judge": "judge", "Guest": None}
    judge = town.browsers["judge"]
    (own,) = judge.get("/api/me/tasks").json()
    assert (own["task_id"], own["collection"], own["judged_set"], own["judged"]) == (made["id"], "ferries", "riders", 0)
    desk = judge.get(f"/api/judge/own-{own['task_id']}").json()
    assert desk["judge"] == "The judge"
    said = {"query_id": desk["queries"][0]["query_id"], "record_key": desk["queries"][0]["record_keys"][0]}
    moment = {"grade": 1, "at": "2026-11-29T10:00:00Z"}
    asked_anew = Mock(wraps=town.app.state.who.forget)
    monkeypatch.setattr(town.app.state.who, "forget", asked_anew)
    assert judge.post(f"/api/judge/own-{own['task_id']}/said", json={"said": [said | moment]}).json() == {"new": 1}
    # It changes nothing of who is what, as a key that is made may.
    assert asked_anew.call_count == 0
    assert judge.post("/api/me/keys", json={"label": "a program"}).status_code == 200
    assert asked_anew.call_count == 1
    assert judge.get("/api/me/tasks").json()[0]["judged"] == 1
    # It is nobody else's, and none when nobody is signed in.
    for who in ("reader", "keeper", "nobody"):
        assert town.browsers[who].get(f"/api/judge/own-{own['task_id']}").status_code == 404
    assert town.browsers["reader"].get("/api/me/tasks").json() == []


def test_a_judges_link_is_told_once_and_given_anew_and_drawn_back(town: Town):
    engineer, judge = town.browsers["engineer"], town.browser()
    path = f"{FERRIES}/judged/riders/tasks"
    task = {"name": "a task", "judges": ["Guest"], "sides": [{"ranker": {"name": "plain"}}], "leave_out_judged": False}
    made = engineer.post(path, json=task).json()[0]
    first = made["judges"][0]["path"]
    assert judge.get(f"/api{first}").status_code == 200
    told = engineer.get(path).json()[0]["judges"][0]
    assert (told["path"], told["has_link"]) == (None, True)
    another = engineer.post(f"{path}/{made['id']}/links", json={"judge": "Guest", "days": 2}).json()[0]["judges"][0]
    assert judge.get(f"/api{first}").status_code == 404
    assert judge.get(f"/api{another['path']}").status_code == 200
    with town.bench.pool.connection() as connection:
        connection.execute("update task_judges set link_ends_at = now()")
    assert judge.get(f"/api{another['path']}").status_code == 404
    last = engineer.post(f"{path}/{made['id']}/links", json={"judge": "Guest"}).json()[0]["judges"][0]["path"]
    assert judge.get(f"/api{last}").status_code == 200
    drawn = engineer.delete(f"{path}/{made['id']}/links", params={"judge": "Guest"}).json()[0]["judges"][0]
    assert (drawn["has_link"], judge.get(f"/api{last}").status_code) == (False, 404)
    assert engineer.post(f"{path}/{made['id']}/links", json={"judge": "Nobody"}).status_code == 404


def test_an_import_is_seen_by_members_alone(town: Town):
    owner, keeper = town.browsers["owner"], town.browsers["keeper"]
    keeper.put("/api/people/owner", json={"makes_collections": True})
    upload = owner.post("/api/uploads", params={"name": "pier.csv"}, content=b"id,name\n1,North pier\n").json()
    body = {"source": {"upload": upload["upload"]}, "plan": {"key": "id"}}
    job = owner.post("/api/collections/pier/imports", json=body)
    assert job.status_code == 200, job.text
    number = job.json()["id"]
    assert owner.get(f"/api/imports/{number}").status_code == 200
    for who in ("engineer", "stranger"):
        assert town.browsers[who].get(f"/api/imports/{number}").status_code == 404
    assert owner.get("/api/me").json()["person"]["roles"].get("pier", "owner") == "owner"
