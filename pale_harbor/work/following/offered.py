"""Which ways of following a database allows, what each costs it, and what would have to be done there first."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pale_harbor.formats.following.document import FollowedTable, Way
from pale_harbor.store.following.live.owners import KnownTable, known_tables
from pale_harbor.store.following.live.postgresql import LivePostgreSQL
from pale_harbor.store.following.live.queue import Queue, queue_script
from pale_harbor.store.following.live.rows import LiveDatabase, SourceRefuses
from pale_harbor.store.following.live.slot import Lacking, lacking_for_decoding, slot_script

# By what is asked for, in the way of asking.
AskedBy = Literal["column", "transaction"]


@dataclass(frozen=True, slots=True, kw_only=True)
class WayOffered:
    """A way of following. by: of asking alone; is_ready: whether it can be begun now; lacking: what stands in its way,
    each with what to do; price: what it costs the database; unseen: what is seen late, "" where nothing is; script:
    what its tables' owner would run, "" where there is nothing to run."""

    way: Way
    by: AskedBy | None
    title: str
    is_ready: bool
    lacking: list[Lacking]
    price: str
    unseen: str
    script: str


_UNTIL_KEYS = "Deleted records are seen when keys are compared."
_UNTIL_WHOLE = "Rows of joined tables that were deleted are seen when everything is compared."


def ways_offered(
    live: LiveDatabase, mark: str, tables: Sequence[FollowedTable], changed_at: str | None
) -> list[WayOffered]:
    """What a database allows. Raises SourceAway, SourceRefuses where a table is not there."""
    by_column = WayOffered(
        way="asking",
        by="column",
        title="Asking, by a column of changes",
        is_ready=changed_at is not None,
        lacking=[]
        if changed_at is not None
        else [
            Lacking(
                "no column of the query is named that tells when a row changed",
                "Name one. Where joined tables have such columns too, the query can give the greatest of them.",
            )
        ],
        price="The query is run for what changed since, every few seconds, and its keys are all read now and then. An "
        "index on the column makes the first cheap.",
        unseen=f"{_UNTIL_KEYS} What changes in a joined table is seen where the column tells it, else when everything "
        "is compared.",
        script="",
    )
    if not isinstance(live, LivePostgreSQL):
        return [by_column]
    known = known_tables(live, tables)
    return [_by_decoding(live, mark, known), _by_triggers(live, mark, known), _by_transaction(known), by_column]


_NO_TABLES = Lacking(
    "the tables that the query reads are not named", "Name them, each with the keys that it belongs to."
)


def _by_decoding(live: LivePostgreSQL, mark: str, known: Sequence[KnownTable]) -> WayOffered:
    lacking = lacking_for_decoding(live, mark, known) if known else [_NO_TABLES]
    return WayOffered(
        way="decoding",
        by=None,
        title="Its log, decoded",
        is_ready=not lacking,
        lacking=lacking,
        price="Nothing more is written when a row changes. The server reads its log once more for us, at most four "
        "hundredths of the time, and holds back what we have not read: while we are away up to the bound that it has.",
        unseen="",
        script=slot_script(mark, known, live.connection.info.user, live.connection) if known else "",
    )


def _by_triggers(live: LivePostgreSQL, mark: str, known: Sequence[KnownTable]) -> WayOffered:
    lacking = [_NO_TABLES]
    if known:
        try:
            Queue(live, mark, known).state()
            lacking = []
        except SourceRefuses as error:
            lacking = [Lacking(str(error).rstrip("."), "The script stands below.")]
    return WayOffered(
        way="triggers",
        by=None,
        title="Triggers",
        is_ready=not lacking,
        lacking=lacking,
        price="Each row that changes costs one more small row, written in the same transaction and deleted once it is "
        "kept here. While we are away they gather.",
        unseen="",
        script=queue_script(mark, known, live.connection.info.user, live.connection) if known else "",
    )


def _by_transaction(known: Sequence[KnownTable]) -> WayOffered:
    rows = sum(one.table.rows or 0 for one in known)
    about = f" (about {rows:,} rows)" if rows else ""
    return WayOffered(
        way="asking",
        by="transaction",
        title="Asking, by transaction",
        is_ready=bool(known),
        lacking=[] if known else [_NO_TABLES],
        price=f"Nothing is installed. Each time all the tables are read through{about}, since no index tells who wrote "
        "a row: for small tables, or to be asked seldom.",
        unseen=f"{_UNTIL_KEYS} {_UNTIL_WHOLE}",
        script="",
    )
