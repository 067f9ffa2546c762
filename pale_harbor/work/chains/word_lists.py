"""Word lists of a collection: put, taken out, and where they are used."""

from dataclasses import dataclass

from pale_harbor.core.text import ChainError
from pale_harbor.core.text.binding import list_names
from pale_harbor.core.text.notation import parse
from pale_harbor.core.text.word_lists import ListKind, WordList, kind_of_list
from pale_harbor.formats.word_lists import csv_of, list_of_stored, stored_entries, word_list_of
from pale_harbor.store.chains.chains import latest_chains
from pale_harbor.store.chains.word_lists import SavedEntries, latest_lists, list_named, save_list
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.work.chains.saved_parts import name_and_version
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class ListInUse:
    """The newest version of a word list. entries: how many; used_by: saved chains that read it."""

    name: str
    version: int
    kind: ListKind
    entries: int
    used_by: list[str]


@dataclass(frozen=True, slots=True)
class WordListText:
    """One version of a word list as CSV."""

    name: str
    version: int
    kind: ListKind
    csv: str


def put_list(
    workbench: Workbench,
    collection_name: str,
    name: str,
    text: str,
    kind: ListKind | None,
    as_version: int | None = None,
) -> SavedEntries:
    """Keeps a list given as CSV as a new version. Raises BadInput with what is wrong, line by line.

    as_version: which version it has to become, for one that goes on from what was read; BadInput where it cannot.
    """
    return keep_list(workbench, collection_name, name, word_list_of(text, kind), as_version)


def keep_list(
    workbench: Workbench, collection_name: str, name: str, word_list: WordList, as_version: int | None = None
) -> SavedEntries:
    """Keeps a list as a new version of its name. Raises BadInput where it does not become `as_version`."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        return save_list(
            connection, collection.id, name, kind_of_list(word_list), stored_entries(word_list), as_version
        )


def list_as_csv(workbench: Workbench, collection_name: str, name: str, version: int | None) -> WordListText:
    """A version of a list as CSV, the newest where it is None. Raises NotFound."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        saved = list_named(connection, collection.id, name, version)
    text = csv_of(list_of_stored(saved.kind, saved.entries))
    return WordListText(saved.name, saved.version, ListKind(saved.kind), text)


def lists_in_use(workbench: Workbench, collection_name: str) -> list[ListInUse]:
    """Every list of a collection with the saved chains that read it."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        saved = latest_lists(connection, collection.id)
        chains = latest_chains(connection, collection.id)
    readers: dict[str, list[str]] = {}
    for chain in chains:
        try:
            named = list_names(parse(chain.notation))
        except ChainError:
            continue
        for name in named:
            readers.setdefault(name_and_version(name)[0], []).append(chain.name)
    return [
        ListInUse(
            name=one.name,
            version=one.version,
            kind=ListKind(one.kind),
            entries=one.entry_count,
            used_by=readers.get(one.name, []),
        )
        for one in saved
    ]
