"""A live database followed in the browser: connected, joined, looked at, followed; what changes there arrives here."""

import re
import subprocess
from collections.abc import Generator

import pytest
from playwright.sync_api import Page, expect

from pale_harbor.store.cluster import Cluster
from tests.conftest import make_data_folder
from tests.following.conftest import DECODES, newsroom_of
from tests.following.newsroom import PASSWORD, READER, Newsroom, connection_document


@pytest.fixture(scope="module")
def newsroom() -> Generator[Newsroom]:
    cluster = Cluster(make_data_folder() / "database", DECODES)
    cluster.start()
    try:
        with newsroom_of(cluster, 60) as made:
            yield made
    finally:
        cluster.stop(at_once=True)
        subprocess.Popen(["rm", "-rf", str(cluster.folder.parent)], start_new_session=True)


def test_from_a_connection_to_what_is_found_as_it_is_written(page: Page, newsroom: Newsroom):
    assert page.request.post("/api/collections", data={"name": "articles"}).ok
    page.goto("/articles/records?view=import")
    page.get_by_role("button", name="keep them in step with a live one").click()
    expect(page).to_have_url(re.compile("view=following"))

    own = connection_document(newsroom)
    form = page.get_by_label("A new connection")
    form.get_by_label("Host").fill(str(own["host"]))
    form.get_by_label("Port").fill(str(own["port"]))
    form.get_by_label("Database").fill(str(own["database"]))
    form.get_by_label("User").fill(READER)
    form.get_by_label("Password").fill(PASSWORD)
    form.get_by_role("button", name="Keep and try it").click()
    expect(page.get_by_text("It answers: PostgreSQL")).to_be_visible()

    page.get_by_label("Table whose rows are the records").select_option("public.articles")
    query = page.get_by_label("A SELECT; each row of it becomes a record")
    expect(query).to_have_value(re.compile("left join authors"))
    # Untick and tick: the draft follows.
    comments = page.get_by_label(re.compile("^comments"))
    comments.uncheck()
    expect(query).not_to_have_value(re.compile("comments"))
    comments.check()
    expect(query).to_have_value(re.compile("array_agg"))
    page.get_by_role("button", name="Look at the first rows").click()
    rows = page.get_by_label("First rows")
    expect(rows).to_contain_text("Its first 60 rows took")
    expect(rows.get_by_role("columnheader", name=re.compile("^author "))).to_be_visible()
    page.get_by_text("How the database would answer it").click()
    expect(rows).to_contain_text("cost=")

    page.get_by_role("radio", name=re.compile("^Triggers")).check()
    follow = page.get_by_role("button", name="Follow it")
    expect(follow).to_be_disabled()
    newsroom.run_script(page.get_by_label("Script").inner_text())
    page.get_by_role("button", name="Look again").click()
    expect(page.get_by_role("radio", name=re.compile("^Triggers"))).to_be_checked()
    expect(follow).to_be_enabled()
    follow.click()

    standing = page.get_by_label("How it stands")
    expect(standing).to_contain_text("In step with")
    strip = page.get_by_role("banner")
    expect(strip.get_by_role("status", name="Following: in step")).to_be_visible()

    # A joined row is changed elsewhere.
    newsroom.do(
        "update authors set name = 'Wilhelmina Foghorn' where id = (select author_id from articles where id = 9)"
    )
    page.goto("/articles/ranking?q=foghorn")
    expect(page.get_by_text("Wilhelmina Foghorn").first).to_be_visible()
    # And again while the list stands there.
    newsroom.do("update authors set name = 'Wilhelmina Foghorn-Marram' where name = 'Wilhelmina Foghorn'")
    expect(page.get_by_text("Wilhelmina Foghorn-Marram").first).to_be_visible()


def test_what_is_wrong_is_said_and_what_follows_is_not_changed_here(page: Page, newsroom: Newsroom):
    page.goto("/articles/records?view=browse&key=1")
    answer = page.request.post("/api/collections/articles/records", data={"records": [{"id": "1", "title": "by hand"}]})
    assert answer.status == 422
    assert "follow the database" in answer.json()["detail"]
    page.goto("/articles/records?view=following")
    newsroom.do("alter table comments disable trigger all")
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_label("How it stands")).to_contain_text("Paused")
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_role("alert")).to_contain_text("is gone or switched off")
    expect(page.get_by_role("banner").get_by_text("not in step")).to_be_visible()
    newsroom.do("alter table comments enable trigger all")
    expect(page.get_by_label("How it stands")).to_contain_text("In step with")
    page.get_by_role("button", name="End the following").click()
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_role("region", name="How it stands")).to_have_count(0)
    # What notes changes there goes on until it is removed.
    newsroom.run_script(page.get_by_label("Removal").inner_text())
    assert newsroom.do("select count(*) from pg_trigger where tgname like %s", "pale_harbor_%") == [(0,)]
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_label("Removal")).to_have_count(0)
    expect(page.get_by_label("Connection", exact=True).first).to_be_visible()


def test_the_search_of_the_database_is_measured_beside_ours(page: Page, newsroom: Newsroom):
    files = {"queries": "q1\tharbour\nq2\tlantern\n", "judgments": "q1 0 1 3\nq2 0 2 2\n"}
    assert page.request.put("/api/collections/articles/judged/readers/files", data=files).ok
    page.goto("/articles/measures?view=rankers&set=readers")
    panel = page.get_by_label("Outside rankers")
    panel.get_by_role("button", name="Ask a database").click()
    form = panel.get_by_label("Ask a database", exact=True)
    form.get_by_label("Name of the database’s search").fill("theirs")
    form.get_by_label("Connection").select_option(label=f"live: {newsroom.name} on 127.0.0.1")
    statement = form.get_by_label(re.compile("^A SELECT with"))
    statement.fill("select id, nothing from articles where title like '%' || {query} || '%'")
    form.get_by_role("button", name="Keep").click()
    expect(panel.get_by_role("alert")).to_contain_text('column "nothing" does not exist')
    statement.fill("select id from articles where title || body ilike '%' || {query} || '%' order by id")
    form.get_by_role("button", name="Keep").click()
    theirs = panel.get_by_role("listitem", name="theirs")
    theirs.get_by_role("button", name="ask it").click()
    expect(theirs).to_contain_text("lists for 2 queries of readers")


def test_growth_is_estimated(page: Page):
    page.goto("/articles/tuning?view=growth&set=readers")
    page.get_by_role("button", name="Estimate it").click()
    table = page.get_by_label("Growth", exact=True).get_by_role("table")
    expect(table.get_by_role("columnheader", name="1,000 times")).to_be_visible()
    expect(table.get_by_role("row", name=re.compile("^Records "))).to_contain_text("60,000")
