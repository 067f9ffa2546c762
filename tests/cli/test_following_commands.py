"""A live database followed by the command line, where no server runs: drafted, looked at, followed, asked, ended."""

import json
from collections.abc import Generator
from pathlib import Path

import pytest

from pale_harbor.store.cluster import Cluster
from tests.command_host import CommandHost
from tests.conftest import Command, command_line, make_data_folder
from tests.following.conftest import DECODES, newsroom_of
from tests.following.newsroom import PASSWORD, READER, Newsroom, connection_document


@pytest.fixture
def newsroom() -> Generator[Newsroom]:
    cluster = Cluster(make_data_folder() / "database", DECODES)
    cluster.start()
    try:
        with newsroom_of(cluster, 40) as made:
            yield made
    finally:
        cluster.stop(at_once=True)


def well(command: Command, *arguments: str, text: str | None = None) -> str:
    done = command(*arguments, text=text)
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_a_database_is_followed(host: CommandHost, newsroom: Newsroom, tmp_path: Path):
    own = connection_document(newsroom)
    with command_line(host) as command:
        secret = tmp_path / "password"
        secret.write_text(PASSWORD)
        address = f"postgresql://{READER}@{own['host']}:{own['port']}/{own['database']}"
        assert (
            well(command, "connection", "put", "articles", "news", address, "--password", str(secret))
            == "news is kept\n"
        )
        assert "news answers: PostgreSQL" in well(command, "connection", "try", "articles", "news")
        assert "public.articles" in well(command, "connection", "tables", "articles", "news")
        assert "usual" in well(command, "follow", "draft", "articles", "news", "public.articles", "--ways")
        document = tmp_path / "news.json"
        document.write_text(well(command, "follow", "draft", "articles", "news", "public.articles"))
        looked = well(command, "follow", "look", "articles", str(document))
        assert "40 rows in" in looked
        assert "Triggers: not yet" in looked
        well(command, "follow", "script", "articles", str(document), "--out", str(tmp_path / "script.sql"))
        newsroom.run_script((tmp_path / "script.sql").read_text())
        assert "articles follows" in well(command, "follow", "put", "articles", str(document))
        assert "in step" in well(command, "follow", "catch-up", "articles")
        newsroom.do("update authors set name = 'Wilhelmina Foghorn' where id = 1")
        well(command, "follow", "catch-up", "articles")
        found = json.loads(well(command, "search", "articles", "foghorn", "--json"))
        assert found["matched"] == newsroom.do("select count(*) from articles where author_id = 1")[0][0]
        refused = command("record", "delete", "articles", "1")
        assert refused.returncode == 1
        assert 'follow the database "news"' in refused.stderr
        assert json.loads(well(command, "follow", "show", "articles", "--json"))["updated"] == found["matched"]

        (tmp_path / "queries.tsv").write_text("q1\tharbour\n")
        well(command, "judged", "load", "articles", "readers", "--queries", str(tmp_path / "queries.tsv"))
        asked = {
            "kind": "database",
            "connection": "news",
            "statement": "select id from articles where title like {query}",
        }
        (tmp_path / "theirs.json").write_text(json.dumps(asked))
        well(command, "outside", "put", "articles", "theirs", str(tmp_path / "theirs.json"))
        assert "lists for 1 queries" in well(command, "outside", "ask", "articles", "theirs", "--set", "readers")

        assert "drop schema" in well(command, "follow", "end", "articles")
        assert "follows no database" in well(command, "follow", "show", "articles")
        refused = command("connection", "drop", "articles", "news")
        assert 'The outside ranker "theirs" is asked by "news".' in refused.stderr
        well(command, "outside", "drop", "articles", "theirs")
        well(command, "connection", "drop", "articles", "news")


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (["connection", "put", "articles", "news", "ftp://somewhere"], "A database's address looks like"),
        (["connection", "try", "articles", "nowhere"], 'There is no connection "nowhere"'),
        (["follow", "put", "articles", "-"], "is not JSON"),
        (["follow", "catch-up", "articles"], "follows no database"),
    ],
)
def test_what_cannot_be_done_is_told(host: CommandHost, arguments: list[str], told: str):
    with command_line(host) as command:
        assert command("connection", "put", "articles", "shop", "sqlite:///nowhere.db").returncode == 0
        done = command(*arguments, text="{")
        assert done.returncode == 1
        assert told in done.stderr
