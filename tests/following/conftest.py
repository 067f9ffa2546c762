"""A second PostgreSQL: other people's."""

import subprocess
from collections.abc import Callable, Generator
from itertools import count

import psycopg
import pytest
from psycopg import sql
from psycopg.conninfo import make_conninfo

from pale_harbor.formats.following.document import FollowingDocument
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import Pool
from pale_harbor.work.following.connecting import follow, keep_connection
from pale_harbor.work.running.sealing import Sealing
from tests.conftest import NO_FSYNC, make_data_folder
from tests.following.newsroom import PASSWORD, READER, Newsroom, connection_document, make_newsroom

SEALING = Sealing(["a key of thirty-two letters or more"])
DECODES = f"{NO_FSYNC} -c wal_level=logical -c max_slot_wal_keep_size=1GB"
_numbers = count(1)


@pytest.fixture(scope="session")
def elsewhere() -> Generator[Cluster]:
    """A cluster whose log can be decoded, gone at the end."""
    folder = make_data_folder()
    own = Cluster(folder / "database", DECODES)
    own.start()
    yield own
    own.stop(at_once=True)
    subprocess.Popen(["rm", "-rf", str(folder)], start_new_session=True)


@pytest.fixture
def newsroom(elsewhere: Cluster) -> Generator[Newsroom]:
    """A database of 60 articles."""
    with newsroom_of(elsewhere, 60) as made:
        yield made


class newsroom_of:  # noqa: N801  # used as a function is
    """A database of so many articles in a cluster, gone at the end."""

    def __init__(self, cluster: Cluster, articles: int) -> None:
        self._cluster, self._articles = cluster, articles
        self._name = f"newsroom_{next(_numbers)}"

    def __enter__(self) -> Newsroom:
        with psycopg.connect(self._cluster.keepers_address(), autocommit=True) as connection:
            connection.execute(sql.SQL("create database {}").format(sql.Identifier(self._name)))
        address = self._cluster.keepers_address(self._name)
        make_newsroom(address, self._articles)
        return Newsroom(address, self._name)

    def __exit__(self, *_: object) -> None:
        with psycopg.connect(self._cluster.keepers_address(), autocommit=True) as connection:
            connection.execute(
                "select pg_drop_replication_slot(slot_name) from pg_replication_slots where database = %s",
                [self._name],
            )
            connection.execute(sql.SQL("drop database {} with (force)").format(sql.Identifier(self._name)))


def readers_address(newsroom: Newsroom) -> str:
    """As the role that may only read."""
    return make_conninfo(newsroom.address, user=READER, password=PASSWORD)


@pytest.fixture
def connected(pool: Pool, newsroom: Newsroom) -> Callable[[FollowingDocument], int]:
    """Has the collection `articles` follow the newsroom as a document says; gives its id."""

    def begin(document: FollowingDocument) -> int:
        keep_newsroom(pool, newsroom)
        follow(pool, SEALING, "articles", document.model_dump())
        with pool.connection() as connection:
            row = connection.execute("select id from collections where name = 'articles'").fetchone()
        assert row is not None
        return int(row[0])

    return begin


def keep_newsroom(pool: Pool, newsroom: Newsroom) -> None:
    """Keeps the connection of the collection `articles`."""
    keep_connection(pool, SEALING, "articles", "newsroom", connection_document(newsroom), PASSWORD)
