"""Rankers out as one file each with all that they read, and back in, here or on another machine."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final, cast

from psycopg import Connection

from pale_harbor.core.judging import expectation
from pale_harbor.core.text.word_lists import ListKind
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.reading import ranker_of
from pale_harbor.formats.ranker_file import ExpectedInFile, ListInFile, RankerFile, ranker_file, written_file
from pale_harbor.formats.word_lists import csv_of, list_of_stored, stored_entries, word_list_of
from pale_harbor.store.chains.chains import latest_chains, save_chain
from pale_harbor.store.chains.word_lists import latest_lists, save_list
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.expectations import add_expectation, expectations_of
from pale_harbor.store.judging.judged_sets import held_set, next_revision, queries_of, sets_of
from pale_harbor.store.ranking.rankers import SavedRanker, ranker_named
from pale_harbor.work.chains.saved_parts import SavedParts
from pale_harbor.work.workbench import Workbench

# Words of rules that are looked for in queries name nothing.
_SAYS_NOTHING: Final = frozenset({"query", "pattern", "reason"})


@dataclass(frozen=True, slots=True, kw_only=True)
class FileTakenIn:
    """What a file came to. chains, lists: that became new versions; expectations: that were not there; missing: queries
    that expectations are about and that no judged set here has."""

    ranker: SavedRanker
    chains: list[str]
    lists: list[str]
    expectations: int
    missing: list[str]


def file_of_ranker(bench: Workbench, collection: str, name: str, version: int | None = None) -> str:
    """A kept version of a ranker as a file. Raises NotFound; BadInput where it reads something in two versions."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        saved = ranker_named(connection, own.id, name, version)
        parts = SavedParts(connection, own.id, saved.chain_versions, saved.list_versions)
        # Whatever it names is asked for.
        ranker_of(ranker_document(saved.document), parts.chain, parts.lists)
        chains = {reference: (one.version, one.notation) for reference, one in parts.read_chains.items()}
        lists = {reference: (one.version, one) for reference, one in parts.lists.read.items()}
        _refuse_two_versions("chain", chains)
        _refuse_two_versions("word list", lists)
        named = frozenset((*chains, *lists))
        return written_file(
            RankerFile(
                name=saved.name,
                note=saved.note,
                ranker=cast("dict[str, Any]", _unpinned(saved.document, named)),
                chains={_bare(name): str(_unpinned(notation, named)) for name, (_, notation) in sorted(chains.items())},
                lists={
                    _bare(name): ListInFile(kind=ListKind(one.kind), csv=csv_of(list_of_stored(one.kind, one.entries)))
                    for name, (_, one) in sorted(lists.items())
                },
                expectations=_expectations(connection, own.id),
            )
        )


def take_in(bench: Workbench, collection: str, text: str, source: str, note: str = "") -> FileTakenIn:
    """Keeps a file's chains, lists and ranker as new versions where they say something new, and its expectations: all
    of it or nothing.

    Raises BadInput with what cannot be used.
    """
    file = ranker_file(text, source)
    document = ranker_document(file.ranker)
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection, lock=True)
        before = {one.name: one.version for one in latest_lists(connection, own.id)}
        lists: list[str] = []
        for name, one in file.lists.items():
            word_list = word_list_of(one.csv, one.kind)
            kept = save_list(connection, own.id, name, one.kind, stored_entries(word_list))
            lists += [name] if kept.version != before.get(name) else []
        before = {one.name: one.version for one in latest_chains(connection, own.id)}
        parts = SavedParts(connection, own.id)
        chains: list[str] = []
        for name, notation in file.chains.items():
            chain = save_chain(connection, own.id, name, parts.chain(notation).notation)
            chains += [name] if chain.version != before.get(name) else []
        saved = bench.put_ranker_within(connection, own, file.name, document, note or file.note)
        added, missing = _expect(connection, own.id, file)
    return FileTakenIn(ranker=saved, chains=chains, lists=lists, expectations=added, missing=missing)


def _expectations(connection: Connection[Any], collection_id: int) -> dict[str, list[ExpectedInFile]]:
    found: dict[str, list[ExpectedInFile]] = {}
    for one in sets_of(connection, collection_id):
        queries = {query.query_id: query.query for query in queries_of(connection, one.id)}
        own = [
            ExpectedInFile(
                query=queries[kept.query_id],
                kind=kept.kind,
                record=kept.record_key,
                number=kept.number,
                note=kept.note,
            )
            for kept in expectations_of(connection, one.id)
            if kept.query_id in queries
        ]
        if own:
            found[one.name] = own
    return found


def _expect(connection: Connection[Any], collection_id: int, file: RankerFile) -> tuple[int, list[str]]:
    """Adds the expectations that are not there; how many these are, and which are about no query here."""
    added, missing = 0, list[str]()
    there = {one.name for one in sets_of(connection, collection_id)}
    for set_name, own in file.expectations.items():
        if set_name not in there:
            missing += [f"{set_name}: {one.query}" for one in own]
            continue
        kept = held_set(connection, collection_id, set_name)
        queries = {one.query: one.query_id for one in queries_of(connection, kept.id)}
        held = {(one.query_id, one.wanted) for one in expectations_of(connection, kept.id)}
        wanted = [(queries.get(one.query), one) for one in own]
        missing += [f"{set_name}: {one.query}" for query_id, one in wanted if query_id is None]
        new = [
            (query_id, asked)
            for query_id, one in wanted
            if query_id is not None
            and (query_id, asked := expectation(one.kind, one.record, one.number, one.note)) not in held
        ]
        if new:
            revision = next_revision(connection, kept, of_queries=False)
            for query_id, asked in new:
                add_expectation(connection, kept.id, revision, query_id, asked)
        added += len(new)
    return added, missing


def _refuse_two_versions(kind: str, found: Mapping[str, tuple[int, object]]) -> None:
    versions: dict[str, int] = {}
    for reference, (version, _) in found.items():
        name = _bare(reference)
        if versions.setdefault(name, version) != version:
            raise BadInput(
                f"This ranker reads the {kind} @{name} in the versions {versions[name]} and {version}, and a file "
                "holds one. Have it read the same one everywhere, or save the other under a name of its own."
            )


def _bare(reference: str) -> str:
    return reference.partition(":")[0]


def _unpinned(said: Any, named: frozenset[str]) -> Any:
    """Without the versions in which chains and lists are named: a file holds one of each."""
    if isinstance(said, str):
        for reference in named:
            if ":" in reference:
                said = re.sub(rf"@{re.escape(reference)}(?!\d)", f"@{_bare(reference)}", said)
        return said
    if isinstance(said, list):
        return [_unpinned(one, named) for one in cast("list[Any]", said)]
    if isinstance(said, dict):
        written = cast("dict[str, Any]", said)
        return {key: one if key in _SAYS_NOTHING else _unpinned(one, named) for key, one in written.items()}
    return said
