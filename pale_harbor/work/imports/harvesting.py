"""Another institution's repository as a source of records (OAI-PMH 2.0): all of it, or what changed since last time."""

import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, Final
from urllib.parse import urlencode, urlsplit

import orjson

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.oai_read import (
    LARGEST_ANSWER,
    HarvestedRow,
    RepositoryFault,
    granularity_in,
    harvested_answer,
)
from pale_harbor.formats.records import ImportPlan, RawRow
from pale_harbor.formats.records.several_files import FileRead
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.read_marks import read_mark
from pale_harbor.work.running.asking import Asking, NotAnswered, with_retries

USUAL_PREFIX: Final = "oai_dc"
# By which harvested records are known: repositories tell of none by any other.
KEY: Final = "oai_identifier"
_SECONDS: Final = 120.0
_TRIES: Final = 5
_FIRST_WAIT_S: Final = 2.0
_MOST_PARTS: Final = 1_000_000
_DAYS: Final = "YYYY-MM-DD"


@dataclass(slots=True, kw_only=True)
class Repository:
    """A repository's records. address: where it is asked; prefix: the form of its records; set_name: which of its sets,
    None for all; since: only what changed from then on. read_at: when the repository answered first."""

    address: str
    prefix: str = USUAL_PREFIX
    set_name: str | None = None
    since: str | None = None
    read_at: str | None = field(default=None)
    bytes_read: int = 0
    bytes_in_all: int = 0
    repeatable: bool = False

    def kept(self) -> dict[str, Any]:
        return {"kind": "oai", "name": urlsplit(self.address).hostname or self.address, **self._told()}

    def complete_plan(self, plan: ImportPlan) -> ImportPlan:
        return plan.model_copy(update={"format": "oai", "key": plan.key or KEY})

    def rows(self, plan: ImportPlan) -> Iterator[RawRow]:
        """Its records, part by part; those that are gone there delete the ones here. Raises BadInput."""
        with Asking(_SECONDS, {"Accept": "text/xml, application/xml"}) as asking:
            line = 0
            for part in self._parts(asking):
                for one in part:
                    line += 1
                    yield _row(line, one)

    def pictures(self, names: frozenset[str]) -> Iterator[FileRead]:
        return iter(())

    def mark(self) -> dict[str, str] | None:
        return None if self.read_at is None else {"identity": self.identity, "last_seen": self.read_at}

    @property
    def identity(self) -> str:
        """A text that is equal for the same records of the same repository."""
        told = self._told()
        del told["since"]
        return orjson.dumps({"oai": told}, option=orjson.OPT_SORT_KEYS).decode()

    def _told(self) -> dict[str, Any]:
        return {"address": self.address, "prefix": self.prefix, "set": self.set_name, "since": self.since}

    def _parts(self, asking: Asking) -> Iterator[list[HarvestedRow]]:
        asked = {"verb": "ListRecords", "metadataPrefix": self.prefix}
        if self.set_name:
            asked["set"] = self.set_name
        if self.since:
            asked["from"] = self._as_told_there(asking, self.since)
        tokens: set[str] = set()
        first_at: str | None = None
        for _ in range(_MOST_PARTS):
            try:
                answer = harvested_answer(self._answer(asking, asked))
            except RepositoryFault as fault:
                if fault.code == "noRecordsMatch":
                    # Nothing changed.
                    return
                raise BadInput(f"{self.address}: {fault}") from fault
            except BadInput as error:
                raise BadInput(f"{self.address}: {error}") from error
            # Of the first part: what changes while the others are read is read again next time.
            first_at = first_at or answer.at or None
            yield answer.rows
            if not answer.token:
                self.read_at = first_at
                return
            if answer.token in tokens:
                raise BadInput(f"{self.address}: the repository goes round in a circle.")
            tokens.add(answer.token)
            asked = {"verb": "ListRecords", "resumptionToken": answer.token}
        raise BadInput(f"{self.address}: the repository has more than {_MOST_PARTS:,} parts.")

    def _as_told_there(self, asking: Asking, moment: str) -> str:
        """A moment as closely as the repository tells them."""
        try:
            return moment[:10] if granularity_in(self._answer(asking, {"verb": "Identify"})) == _DAYS else moment
        except BadInput as error:
            raise BadInput(f"{self.address}: {error}") from error

    def _answer(self, asking: Asking, asked: dict[str, str]) -> bytes:
        address = f"{self.address}{'&' if '?' in self.address else '?'}{urlencode(asked)}"
        try:
            content = with_retries(
                lambda: asking.answer("GET", address, None, LARGEST_ANSWER), _TRIES, time.sleep, _FIRST_WAIT_S
            )
        except NotAnswered as error:
            raise BadInput(f"it cannot be read: {error}.") from error
        except ValueError as error:
            raise BadInput(f"it cannot be asked: {error}.") from error
        self.bytes_read += len(content)
        return content


def repository_source(
    pool: Pool, collection_name: str, address: str, prefix: str | None, set_name: str | None, *, anew: bool
) -> Repository:
    """A repository, of which only what changed is read where it was read before into this collection.

    anew: whether all of it is read in any case. Raises BadInput where it is no address.
    """
    parts = urlsplit(address.strip())
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.username or parts.fragment:
        raise BadInput("The address of a repository looks like https://archive.example.org/oai.")
    found = Repository(address=address.strip(), prefix=prefix or USUAL_PREFIX, set_name=set_name or None)
    if not anew:
        with pool.connection() as connection, suppress(NotFound):
            collection = collection_named(connection, collection_name)
            found.since = read_mark(connection, collection.id, found.identity)
    return found


def _row(line: int, one: HarvestedRow) -> RawRow:
    raw = one.identifier.encode("utf-8", "replace")
    if one.reason:
        return RawRow(line, None, f"{one.identifier[:300] or 'A record'}: {one.reason}", raw)
    if one.values is None:
        return RawRow(line, {KEY: one.identifier}, raw=raw, deletes=True)
    return RawRow(line, {KEY: one.identifier, **one.values}, raw=raw)
