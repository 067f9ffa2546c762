"""Versions of word lists that nobody kept yet: the newest of a name, with an entry more."""

from dataclasses import dataclass
from typing import TypeVar

from pale_harbor.core.text.word_lists import Synonyms, WordSet
from pale_harbor.errors import NotFound
from pale_harbor.formats.word_lists import list_of_stored
from pale_harbor.store.chains.word_lists import list_named
from pale_harbor.store.database import Pool

Entries = TypeVar("Entries", WordSet, Synonyms)


@dataclass(frozen=True, slots=True)
class NewList:
    """A version of a word list that nobody kept yet: the newest with one entry more. columns: the first line of its
    CSV; row: the entry, a line of it."""

    name: str
    version: int
    columns: str
    row: str


def newest_of_kind(pool: Pool, collection_id: int, name: str, kind: type[Entries]) -> tuple[str, int, Entries | None]:
    """The newest list of a name: what it is called, what its next version will be, and what it holds.

    Where a list of another kind has the name, it is another name.
    """
    with pool.connection() as connection:
        while True:
            try:
                saved = list_named(connection, collection_id, name, None)
            except NotFound:
                return name, 1, None
            known = list_of_stored(saved.kind, saved.entries)
            if isinstance(known, kind):
                return name, saved.version + 1, known
            name += "-too"
