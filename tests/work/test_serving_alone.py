"""What only one server may hold is held again after its database was restarted, or the server ends."""

from collections.abc import Callable
from threading import Event

import psycopg
import pytest

from pale_harbor.errors import Unavailable
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import held_alone
from pale_harbor.work.running.serving_alone import ServingAlone


@pytest.fixture
def address(cluster: Cluster, empty_database: Callable[[], str]) -> str:
    return cluster.address(empty_database())


def break_all(cluster: Cluster, address: str) -> None:
    """Ends every connection to a database, as its restart does."""
    with psycopg.connect(address) as connection:
        name = connection.info.dbname
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as keeper:
        keeper.execute("select pg_terminate_backend(pid, 5000) from pg_stat_activity where datname = %s", [name])


def test_it_is_taken_again_where_nobody_else_has_it(cluster: Cluster, address: str):
    with ServingAlone(address, lambda: pytest.fail("nobody came")) as held:
        assert held.look()
        break_all(cluster, address)
        assert held.look()
        with pytest.raises(Unavailable, match="works on this data already"):
            held_alone(address, 0.0)
    held_alone(address, 5.0).close()


def test_where_another_server_was_quicker_this_one_ends(cluster: Cluster, address: str):
    ended = Event()
    with ServingAlone(address, ended.set):
        break_all(cluster, address)
        # This one looks once a second; where it is quicker, it holds it by right, and its connection is broken anew.
        while True:
            try:
                other = held_alone(address, 0.0)
                break
            except Unavailable:
                break_all(cluster, address)
        assert ended.wait(30)
    other.close()


def test_a_database_that_is_gone_is_waited_for(address: str):
    with ServingAlone(address, lambda: pytest.fail("nobody came")) as held:
        held._address = address.replace("port=", "port=1")  # pyright: ignore[reportPrivateUsage]
        held._holder.close()  # pyright: ignore
        assert held.look()
        held._address = address  # pyright: ignore[reportPrivateUsage]
        assert held.look()
        with pytest.raises(Unavailable):
            held_alone(address, 0.0)
