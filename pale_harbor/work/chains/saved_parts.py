"""Saved chains and word lists as a ranker or a chain names them: @name, or @name:version, and stages after it."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.text import Chain, ChainError, NotationError, Place, chain_of
from pale_harbor.core.text.notation import parse
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.word_lists import WordList
from pale_harbor.errors import NotFound
from pale_harbor.formats.word_lists import list_of_stored
from pale_harbor.store.chains.chains import SavedChain, chain_named
from pale_harbor.store.chains.word_lists import SavedEntries, latest_lists, list_named


def name_and_version(reference: str) -> tuple[str, int | None]:
    """The parts of `name` or `name:version`.

    >>> name_and_version("english:3"), name_and_version("english")
    (('english', 3), ('english', None))
    """
    name, _, version = reference.partition(":")
    return name, int(version) if version.isdecimal() and len(version) < 10 else None


class SavedLists(Mapping[str, WordList]):
    """The word lists of a collection by name, fetched when they are asked for.

    versions: of lists that are named without one; the newest of any other. given: lists by how they are named, which
    nobody kept. used: the version of each list that was asked for without one; read: each that was asked for, by how it
    was named.
    """

    def __init__(
        self,
        connection: Connection[Any],
        collection_id: int,
        versions: Mapping[str, int],
        given: Mapping[str, WordList] | None = None,
    ) -> None:
        self._connection = connection
        self._collection_id = collection_id
        self._versions = versions
        self._found: dict[str, WordList] = dict(given or {})
        self.used: dict[str, int] = {}
        self.read: dict[str, SavedEntries] = {}

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
            self.read[reference] = saved
            self._found[reference] = list_of_stored(saved.kind, saved.entries)
        return self._found[reference]

    def __iter__(self) -> Iterator[str]:
        return (known.name for known in latest_lists(self._connection, self._collection_id))

    def __len__(self) -> int:
        return len(latest_lists(self._connection, self._collection_id))


class SavedParts:
    """What saved names mean: in given versions, and in the newest where none is given.

    used_chains: the version of each saved chain that was asked for without one; read_chains: each that was asked for,
    by how it was named.
    """

    def __init__(
        self,
        connection: Connection[Any],
        collection_id: int,
        chain_versions: Mapping[str, int] | None = None,
        list_versions: Mapping[str, int] | None = None,
        given_lists: Mapping[str, WordList] | None = None,
    ) -> None:
        self._connection = connection
        self._collection_id = collection_id
        self._chain_versions = chain_versions or {}
        self.lists = SavedLists(connection, collection_id, list_versions or {}, given_lists)
        self.used_chains: dict[str, int] = {}
        self.read_chains: dict[str, SavedChain] = {}

    def chain(self, text: str, without: frozenset[int] = frozenset()) -> Chain:
        """The chain of a notation, of an @name, or of an @name and stages after it. Raises ChainError or NotFound.

        without: numbers of stages as they are written that are left out for a look; a saved chain counts as one.
        """
        named = named_chain(text)
        if named is None:
            return chain_of(text, self.lists, without)
        saved = self.notation(named)
        own = len(parse(saved))
        inner = frozenset(range(own)) if 0 in without else frozenset[int]()
        try:
            return chain_of(saved + "\n" + named.rest, self.lists, inner | {n + own - 1 for n in without if n > 0})
        except ChainError as error:
            _tell_where_it_is_written(error, saved.count("\n") + 1, named)
            raise

    def notation(self, named: "NamedChain") -> str:
        """What a saved chain says. Raises NotFound."""
        wanted = self._chain_versions.get(named.name) if named.version is None else named.version
        saved = chain_named(self._connection, self._collection_id, named.name, wanted)
        if named.version is None:
            self.used_chains[named.name] = saved.version
        self.read_chains[named.name if named.version is None else f"{named.name}:{named.version}"] = saved
        return saved.notation


@dataclass(frozen=True, slots=True)
class NamedChain:
    """A saved chain as a notation names it. length: of the name as written; rest: what is written after it, its first
    line moved to where it stood."""

    name: str
    version: int | None
    length: int
    rest: str


def named_chain(text: str) -> NamedChain | None:
    """The saved chain that a notation begins with; None where it begins with none. Raises NotationError.

    >>> named_chain("@english:2 > prefixes(1, 8)")
    NamedChain(name='english', version=2, length=10, rest='           > prefixes(1, 8)')
    """
    if not text.lstrip().startswith("@"):
        return None
    found = _NAMED.match(text)
    assert found is not None, "whatever begins with @ matches"
    rest = text[found.end() :]
    follows = _BLANKS.sub("", rest, count=1)
    if follows and not follows.startswith(">"):
        at = len(text) - len(follows)
        raise NotationError(place_of(text, at, at + 1), "after a saved chain comes > and a stage, or nothing.", [">"])
    name, version = name_and_version(found["name"])
    # Where it stood, so that what is wrong in it is told there.
    before = text[: found.end()].rpartition("\n")[2]
    return NamedChain(name, version, len(found["name"]) + 1, " " * len(before) + rest if follows else "")


_NAMED: Final = re.compile(r"\s*@(?P<name>[^\s>#]*)")
_BLANKS: Final = re.compile(r"\A(?:\s|#[^\n]*)+")


def _tell_where_it_is_written(error: ChainError, lines: int, named: NamedChain) -> None:
    """Moves an error's place from the chain written out to the chain as written."""
    place = error.place
    inside = place.line <= lines
    error.place = Place(1, 1, named.length) if inside else Place(place.line - lines, place.column, place.length)
    said = f"in @{named.name}: {error.problem}" if inside else error.problem
    error.problem = said
    error.args = (f"{error.place}: {said}",)
