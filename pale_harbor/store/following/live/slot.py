"""Following by logical decoding: changes are read from the log that the database writes anyway, by its own functions.

A slot keeps the log from where reading stands. Reading leaves it where it is; it goes on only once what was read is
kept here.
"""

import re
import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Final

import psycopg
from psycopg import Connection, sql

from pale_harbor.formats.following.pgoutput import (
    UNSAID,
    Begun,
    Changed,
    Committed,
    Emptied,
    Garbled,
    Listener,
    Told,
    position_of,
    position_text,
)
from pale_harbor.store.following.live.owners import KnownTable
from pale_harbor.store.following.live.postgresql import LivePostgreSQL, told
from pale_harbor.store.following.live.rows import ROWS_AT_ONCE, SourceRefuses

# Each reading and each going on decodes the log once more from some seconds before, so few large ones cost least.
_MESSAGES_AT_ONCE: Final = 30_000
_MEGABYTE: Final = 1_048_576


@dataclass(frozen=True, slots=True)
class Lacking:
    """What a database would need for a way of following, and what to do about it."""

    what: str
    remedy: str


@dataclass(frozen=True, slots=True)
class Read:
    """Changes of whole transactions. rows: of each followed table, by its place, what tells whose rows they are; end:
    up to where in the log they reach; transactions: that made them; behind_s: how long ago the oldest of them was
    committed; more: whether there may be more; took_s: how long the database worked on it."""

    rows: dict[int, list[dict[str, Any]]]
    changes: int
    whole: bool
    end: int
    transactions: set[int]
    behind_s: float
    more: bool
    took_s: float


@dataclass(frozen=True, slots=True)
class SlotState:
    """confirmed: up to where in the log everything is kept here; kept_bytes: how much of it is held back for us; lost:
    whether the database let go of what was not read."""

    confirmed: int
    kept_bytes: int
    lost: bool


def lacking_for_decoding(live: LivePostgreSQL, mark: str, known: Sequence[KnownTable]) -> list[Lacking]:
    """What stands in the way of it. Raises SourceAway, SourceRefuses."""
    with told(), live.reading() as connection:
        settings = dict(
            connection.execute(
                "select name, setting from pg_settings "
                "where name in ('wal_level', 'max_slot_wal_keep_size', 'max_replication_slots')"
            ).fetchall()
        )
        role = connection.execute("select rolreplication or rolsuper from pg_roles where rolname = current_user")
        may = role.fetchone() == (True,)
        published = {
            name
            for (name,) in connection.execute(
                "select schemaname || '.' || tablename from pg_publication_tables where pubname = %s", [_called(mark)]
            ).fetchall()
        }
    lacking: list[Lacking] = []
    encoding = live.connection.info.parameter_status("server_encoding")
    if encoding != "UTF8":
        lacking.append(
            Lacking(
                f"its log is written in {encoding}, and read here as UTF-8 alone",
                "Follow it by triggers, which tell what changed whatever it is written in.",
            )
        )
    if settings.get("wal_level") != "logical":
        lacking.append(
            Lacking(
                f"its log says too little: wal_level is {settings.get('wal_level', 'unknown')}",
                "alter system set wal_level = 'logical'; and start the server anew.",
            )
        )
    if settings.get("max_slot_wal_keep_size", "-1") == "-1":
        lacking.append(
            Lacking(
                "nothing bounds how much of its log it keeps while we are away: its disk could fill",
                "alter system set max_slot_wal_keep_size = '2GB'; select pg_reload_conf();",
            )
        )
    if not may:
        lacking.append(
            Lacking(
                f"{live.connection.info.user} may not read the log",
                "alter role … replication;",
            )
        )
    missing = [one for one in known if one.table.full_name not in published]
    if missing:
        lacking.append(
            Lacking(
                f"it does not publish {', '.join(one.table.written for one in missing)}",
                "run the script below as the owner of the tables.",
            )
        )
    silent = [one for one in known if not _tells_whose(one)]
    if silent:
        lacking.append(
            Lacking(
                f"of a row of {', '.join(one.table.written for one in silent)} that goes, "
                "its log does not say whose it was",
                "run the script below as the owner of the tables.",
            )
        )
    return lacking


def slot_script(mark: str, known: Sequence[KnownTable], role: str, connection: Connection[Any]) -> str:
    """What the owner of the tables, who may make publications, runs once. role: who follows."""
    lines = [
        sql.SQL("drop publication if exists {};").format(sql.Identifier(_called(mark))),
        sql.SQL("create publication {} for table {} with (publish_via_partition_root = true);").format(
            sql.Identifier(_called(mark)), sql.SQL(", ").join(_written(one) for one in known)
        ),
        *(
            sql.SQL("alter table {} replica identity full;").format(_written(one))
            for one in known
            if not _tells_whose(one)
        ),
        sql.SQL("alter role {} replication;").format(sql.Identifier(role)),
    ]
    whole = sql.SQL("begin;\n{}\ncommit;\n").format(sql.SQL("\n").join(lines))
    return whole.as_string(connection)


def slot_removal(mark: str) -> str:
    """What may be run once nobody follows any more: the slot went with the source."""
    return f"drop publication if exists {_called(mark)};\n"


class Slot:
    """The slot of one follower in a database."""

    def __init__(self, live: LivePostgreSQL, mark: str, known: Sequence[KnownTable]) -> None:
        self._live, self._name = live, _called(mark)
        self._places = {one.table.full_name: (number, one) for number, one in enumerate(known)}

    def state(self) -> SlotState | None:
        """How it stands; None where there is none. Raises SourceAway, SourceRefuses."""
        with told():
            row = self._live.connection.execute(
                """
                select confirmed_flush_lsn::text, pg_wal_lsn_diff(pg_current_wal_lsn(), restart_lsn)::bigint,
                    to_jsonb(slots) ->> 'wal_status'
                from pg_replication_slots as slots where slot_name = %s and database = current_database()
                """,
                [self._name],
            ).fetchone()
        if row is None:
            return None
        confirmed, kept, status = row
        return SlotState(position_of(confirmed or "0/0"), int(kept or 0), status == "lost" or confirmed is None)

    def make(self) -> int:
        """Makes it; from here on the log is kept. Returns where it stands. Raises SourceAway, SourceRefuses."""
        with told():
            row = self._live.connection.execute(
                "select lsn::text from pg_create_logical_replication_slot(%s, 'pgoutput')", [self._name]
            ).fetchone()
        assert row is not None
        return position_of(row[0])

    def drop(self) -> None:
        """Lets the database keep nothing for us any more. Raises SourceAway, SourceRefuses."""
        with told():
            self._live.connection.execute(
                "select pg_drop_replication_slot(slot_name) from pg_replication_slots where slot_name = %s",
                [self._name],
            )

    def log_end(self) -> int:
        """How far the log is written. Raises SourceAway, SourceRefuses."""
        with told():
            row = self._live.connection.execute("select pg_current_wal_flush_lsn()::text").fetchone()
        assert row is not None
        return position_of(row[0])

    def read(self, after: int) -> Read:
        """Changes that come next in the log; nothing of it is let go of. after: what is kept here already.

        Raises SourceAway, SourceRefuses.
        """
        begun = time.perf_counter()
        log_end = self.log_end()
        heard = _Heard(self._places, after)
        with told(), self._live.connection.transaction():
            clock = self._live.connection.execute("select extract(epoch from clock_timestamp())::float8").fetchone()
            with self._live.connection.cursor(name="log") as cursor:
                cursor.itersize = ROWS_AT_ONCE
                cursor.execute(
                    """
                    select data from pg_logical_slot_peek_binary_changes(
                        %s, null, %s, 'proto_version', '1', 'publication_names', %s
                    )
                    """,
                    [self._name, _MESSAGES_AT_ONCE, self._name],
                )
                heard.hear(data for (data,) in cursor)
        more = heard.messages >= _MESSAGES_AT_ONCE
        return Read(
            rows=heard.rows,
            changes=heard.changes,
            whole=heard.whole,
            # Whatever was committed when reading began was read, where there is no more.
            end=heard.end if more else max(heard.end, log_end),
            transactions=heard.transactions,
            behind_s=0.0 if clock is None or not heard.first_at else max(0.0, float(clock[0]) - heard.first_at),
            more=more,
            took_s=time.perf_counter() - begun,
        )

    def go_on(self, to: int) -> None:
        """Lets the database forget what is kept here. Raises SourceAway, SourceRefuses."""
        with told():
            self._live.connection.execute(
                "select pg_replication_slot_advance(%s, %s::pg_lsn)", [self._name, position_text(to)]
            )


class _Heard:
    """What messages came to."""

    def __init__(self, places: dict[str, tuple[int, KnownTable]], after: int) -> None:
        self._places, self._after = places, after
        self.rows: dict[int, list[dict[str, Any]]] = {}
        self.changes = self.messages = 0
        self.whole = False
        self.end = after
        self.first_at = 0.0
        self.transactions: set[int] = set()
        self._begun = Begun(0, 0.0, 0)
        self._is_known = False

    def hear(self, messages: Iterable[bytes]) -> None:
        """Raises SourceRefuses where a message is not understood."""
        listener = Listener()
        try:
            for message in messages:
                self.messages += 1
                said = listener.heard(bytes(message))
                if said is not None:
                    self._note(said)
        except Garbled as error:
            raise SourceRefuses(f"The log of the database is not understood: {error}.") from error

    def _note(self, said: Told) -> None:
        match said:
            case Begun():
                # What was kept here before reading broke off is not let go of there yet.
                self._is_known = said.end < self._after
                self._begun = said
            case Committed(end):
                self.end = max(self.end, end)
            case Emptied(tables):
                if not self._is_known and any(one in self._places for one in tables):
                    self._count()
                    self.whole = True
            case Changed():
                if not self._is_known and said.table in self._places:
                    self._count()
                    self._note_row(said, *self._places[said.table])

    def _count(self) -> None:
        self.changes += 1
        self.transactions.add(self._begun.transaction)
        self.first_at = self.first_at or self._begun.at

    def _note_row(self, said: Changed, number: int, known: KnownTable) -> None:
        both: list[dict[str, Any]] = []
        for row in (said.old, said.new):
            if row is None:
                continue
            own = {name: row.get(name) for name in known.columns}
            if UNSAID in own.values():
                # A key so long that it lies apart: nobody knows whose row it is.
                self.whole = True
            elif own not in both:
                both.append(own)
        self.rows.setdefault(number, []).extend(both)


def is_somebody_elses(error: SourceRefuses) -> bool:
    """Whether it is told that somebody else reads the slot just now, as one whose connection broke may for a moment."""
    return isinstance(error.__cause__, psycopg.errors.ObjectInUse)


def _tells_whose(known: KnownTable) -> bool:
    return known.table.log_columns is None or set(known.columns) <= set(known.table.log_columns)


def _written(known: KnownTable) -> sql.SQL:
    return sql.SQL(known.table.written)  # pyright: ignore[reportArgumentType]  # as the database wrote it


def _called(mark: str) -> str:
    name = f"pale_harbor_{mark}"
    assert re.fullmatch(r"[a-z0-9_]{1,63}", name)
    return name
