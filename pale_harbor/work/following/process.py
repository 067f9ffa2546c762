"""The process that follows for all collections, a thread for each."""

import os
import signal
from dataclasses import dataclass
from pathlib import Path
from threading import Event
from typing import Final

import psycopg
import structlog
from psycopg_pool import PoolTimeout

from pale_harbor.errors import Unavailable
from pale_harbor.logs import set_up_logs
from pale_harbor.store.database import Pool, open_pool
from pale_harbor.store.following.sources import all_followed, follows_anything
from pale_harbor.work.following.follower import Follower
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.door import Door, use_door
from pale_harbor.work.running.kept_alive import KeptAlive
from pale_harbor.work.running.processors import allowed_processors, use_all
from pale_harbor.work.running.sealing import Sealing

_SECONDS_BETWEEN_LOOKS: Final = 0.5
_SECONDS_UNTIL_AGAIN: Final = 2.0
# Whoever searches goes first, but not by much: what is found should be what is there.
_STANDS_BACK_BY: Final = 2


@dataclass(frozen=True, slots=True)
class FollowingElsewhere:
    """What the process has to know. address: of the database; keys: that open what is secret; log: None for standard
    error."""

    address: str
    keys: tuple[str, ...]
    door: Door
    log: Path | None
    processors: frozenset[int]


class Followers:
    """A follower for every collection that follows something."""

    def __init__(self, pool: Pool, sealing: Sealing) -> None:
        self._pool, self._sealing = pool, sealing
        self._ended = Event()
        self._at_work: set[int] = set()

    def run(self) -> None:
        """Follows until told to end."""
        while not self._ended.is_set():
            try:
                self.look()
            except (psycopg.Error, PoolTimeout) as error:
                structlog.get_logger().warning("following waits for the database", reason=str(error)[:300])
                self._ended.wait(_SECONDS_UNTIL_AGAIN)
            self._ended.wait(_SECONDS_BETWEEN_LOOKS)

    def look(self) -> None:
        """Begins to follow for whom nobody does."""
        with self._pool.connection() as connection:
            wanted = {one.collection_id for one in all_followed(connection) if one.state == "following"}
        for collection_id in wanted - self._at_work:
            self._at_work.add(collection_id)
            in_background(f"following {collection_id}", lambda one=collection_id: self._follow(one))

    def _follow(self, collection_id: int) -> None:
        try:
            Follower(self._pool, self._sealing, collection_id, self._ended).run()
        finally:
            self._at_work.discard(collection_id)

    def end(self) -> None:
        """Has all of them end."""
        self._ended.set()


def follow_elsewhere(told: FollowingElsewhere) -> None:
    """The process itself."""
    set_up_logs(as_server=True, file=told.log)
    os.nice(_STANDS_BACK_BY)
    use_all(told.processors)
    use_door(told.door)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    while True:
        try:
            with open_pool(told.address) as pool:
                Followers(pool, Sealing(told.keys)).run()
                return
        except Unavailable as error:
            structlog.get_logger().warning("following waits for the database", reason=str(error))
            Event().wait(_SECONDS_UNTIL_AGAIN)


def following_process(pool: Pool, sealing: Sealing, door: Door, log: Path | None) -> KeptAlive:
    """The process, begun once something is followed."""
    told = FollowingElsewhere(str(pool.conninfo), sealing.keys, door, log, allowed_processors())

    def wanted() -> bool:
        with pool.connection() as connection:
            return follows_anything(connection)

    return KeptAlive("following", follow_elsewhere, (told,), wanted)
