"""Saved chains and word lists as a ranker or a chain names them: @name, or @name:version."""

from collections.abc import Iterator, Mapping
from typing import Any

from psycopg import Connection

from pale_harbor.core.text import Chain, chain_of
from pale_harbor.core.text.word_lists import WordList
from pale_harbor.errors import NotFound
from pale_harbor.formats.word_lists import list_of_stored
from pale_harbor.store.chains.chains import chain_named
from pale_harbor.store.chains.word_lists import latest_lists, list_named


def name_and_version(reference: str) -> tuple[str, int | None]:
    """The parts of `name` or `name:version`.

    >>> name_and_version("english:3"), name_and_version("english")
    (('english', 3), ('english', None))
    """
    name, _, version = reference.partition(":")
    return name, int(version) if version.isdecimal() and len(version) < 10 else None


class SavedLists(Mapping[str, WordList]):
    """The word lists of a collection by name, fetched when they are asked for.

    versions: of lists that are named without one; the newest of any other. used: the version of each
    list that was asked for without one.
    """

    def __init__(self, connection: Connection[Any], collection_id: int, versions: Mapping[str, int]) -> None:
        self._connection = connection
        self._collection_id = collection_id
        self._versions = versions
        self._found: dict[str, WordList] = {}
        self.used: dict[str, int] = {}

    def __getitem__(self, reference: str) -> WordList:
        if reference not in self._found:
            name, version = name_and_version(reference)
            wanted = self._versions.get(name) if version is None else version
            try:
                saved = list_named(self._connection, self._collection_id, name, wanted)
            except NotFound:
                raise KeyError(reference) from None
            if version is None:
                self.used[name] = saved.version
            self._found[reference] = list_of_stored(saved.kind, saved.entries)
        return self._found[reference]

    def __iter__(self) -> Iterator[str]:
        return (known.name for known in latest_lists(self._connection, self._collection_id))

    def __len__(self) -> int:
        return len(latest_lists(self._connection, self._collection_id))


class SavedParts:
    """What saved names mean: in given versions, and in the newest where none is given.

    used_chains: the version of each saved chain that was asked for without one.
    """

    def __init__(
        self,
        connection: Connection[Any],
        collection_id: int,
        chain_versions: Mapping[str, int] | None = None,
        list_versions: Mapping[str, int] | None = None,
    ) -> None:
        self._connection = connection
        self._collection_id = collection_id
        self._chain_versions = chain_versions or {}
        self.lists = SavedLists(connection, collection_id, list_versions or {})
        self.used_chains: dict[str, int] = {}

    def chain(self, text: str, without: frozenset[int] = frozenset()) -> Chain:
        """The chain of a notation, or of an @name. Raises ChainError or NotFound."""
        text = text.strip()
        if not text.startswith("@"):
            return chain_of(text, self.lists, without)
        name, version = name_and_version(text[1:])
        wanted = self._chain_versions.get(name) if version is None else version
        saved = chain_named(self._connection, self._collection_id, name, wanted)
        if version is None:
            self.used_chains[name] = saved.version
        return chain_of(saved.notation, self.lists, without)
