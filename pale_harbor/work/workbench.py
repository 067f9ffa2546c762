"""The workbench: everything that can be done with collections, for the API and the command line."""

import shutil
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property, partial
from pathlib import Path
from threading import Lock
from typing import Any, Final, TypeVar

from psycopg import Connection

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text import Chain
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.core.text.word_lists import WordList
from pale_harbor.errors import BadInput, NotFound, RecordsChanged, Unavailable
from pale_harbor.formats.display import DisplayDocument, default_display, display_document
from pale_harbor.formats.ranker.differences import Reads
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.formats.ranker.forms import UNUSABLE
from pale_harbor.formats.ranker.naming import named_fields, named_spaces
from pale_harbor.formats.ranker.reading import ranker_of
from pale_harbor.settings import SECRET_KEY, Settings
from pale_harbor.store.chains.chains import SavedChain, save_chain
from pale_harbor.store.collections.collections import (
    START_RANKER,
    Collection,
    CollectionField,
    FieldKind,
    FieldRole,
    all_collections,
    collection_named,
    copy_collection,
    drop_collection,
    fields_of,
    hold_still,
    make_collection,
    put_fields,
    refuse_unstorable,
    rename_collection,
    set_default_ranker,
    set_display,
)
from pale_harbor.store.database import Pool
from pale_harbor.store.ranking.drafts import drop_draft
from pale_harbor.store.ranking.ranker_parts import PartsState, Standing, parts_state
from pale_harbor.store.ranking.rankers import SavedRanker, ranker_named, save_ranker
from pale_harbor.store.running.jobs import add_job, forget_finished
from pale_harbor.store.spaces.spaces import spaces_of
from pale_harbor.work.chains.saved_parts import NamedChain, SavedParts
from pale_harbor.work.collections.opened import (
    OpenCollection,
    open_collection,
    taken_over,
    wants_joining,
    with_joined_slabs,
)
from pale_harbor.work.following.connecting import end_before_dropping
from pale_harbor.work.people.kept_keys import kept_key
from pale_harbor.work.records.looking import Profiles
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.caches import Memory
from pale_harbor.work.running.memory_budget import MemoryBudget
from pale_harbor.work.running.processes import Processes
from pale_harbor.work.running.sealing import Sealing
from pale_harbor.work.running.worker import Progress, do_job
from pale_harbor.work.spaces.open_space import OpenSpace

T = TypeVar("T")

_TRIES: Final = 3


@dataclass(frozen=True, slots=True)
class RankerChoice:
    """Which ranker to use: a draft's document, a kept one by name, or (all None) the default.

    A draft with a name is based on that kept ranker: saved chains are read in the versions that it
    was kept with, so that a turned weight changes nothing but the weight. exactly: spaces that it asks near enough
    are asked exactly, which makes it a draft.
    """

    name: str | None = None
    version: int | None = None
    document: RankerDocument | None = None
    exactly: bool = False


@dataclass(frozen=True, slots=True)
class ChosenRanker:
    """A ranker ready for work. saved: the kept version it is, None for a draft."""

    ranker: Ranker
    document: RankerDocument
    saved: SavedRanker | None
    reads: Reads


def _reads(parts: SavedParts) -> Reads:
    return Reads(dict(parts.used_chains), dict(parts.lists.used))


def memory_of(settings: Settings) -> Memory:
    """What a process may keep in memory and as index files."""
    return Memory(settings.memory_bytes, disk_bytes=settings.index_bytes)


def budget_of(settings: Settings, bench: "Workbench") -> MemoryBudget:
    """What a server and its requests may hold of memory; where it is short, what was kept to be quick is let go of."""
    return MemoryBudget(settings.most_bytes, settings.request_bytes, short=bench.memory.forget_all)


def sealing_of(settings: Settings) -> Sealing:
    """Seals what is secret: by the keys that the settings name, else by one that is made in the data folder."""
    return Sealing(settings.secret_keys or [kept_key(settings.data / SECRET_KEY)])


class Workbench:
    """Opens collections and rankers. One per process; safe to use from several threads."""

    def __init__(
        self,
        pool: Pool,
        index_folder: Path,
        memory: Memory | None = None,
        processes: Processes | None = None,
        sealing: Sealing | None = None,
    ) -> None:
        self.pool = pool
        self.processes = processes
        self.memory = memory or Memory()
        self.index_folder = index_folder
        self.profiles = Profiles(pool, self.memory)
        self._opened: dict[int, OpenCollection] = {}
        self._opening = Lock()
        self._joining: set[int] = set()
        self._holding = Lock()
        self._sealing = sealing

    @cached_property
    def sealing(self) -> Sealing:
        """Seals what is secret and has to be kept: by the settings' keys, else by one that lies beside the indexes."""
        return self._sealing or Sealing([kept_key(self.index_folder.parent / SECRET_KEY)])

    def with_collection(self, name: str, work: Callable[[OpenCollection], T]) -> T:
        """What `work` gives for the collection in its present state, done again if that changes meanwhile.

        Where it keeps changing, the next load has to wait until the work is done. Raises NotFound. Raises
        Unavailable where it still does.
        """
        for _ in range(_TRIES):
            with suppress(RecordsChanged):
                return work(self._open(name))
        # One at a time: whoever holds a connection here needs another one for the work.
        with self._holding, self.pool.connection() as connection:
            hold_still(connection, name)
            try:
                return work(self._open(name))
            except RecordsChanged as error:
                raise Unavailable(f'The records of "{name}" keep changing. Try again in a while.') from error

    def _open(self, name: str) -> OpenCollection:
        with self.pool.connection() as connection:
            collection = collection_named(connection, name)
        return self.opened_as(collection)

    def opened_as(self, collection: Collection) -> OpenCollection:
        """A collection opened as it stood when it was read. Raises RecordsChanged where it stands so no longer."""
        opened = self._opened.get(collection.id)
        if opened is None or not _is_of(opened, collection):
            with self._opening:
                opened = self._opened.get(collection.id)
                if opened is None or not _is_of(opened, collection):
                    opened = open_collection(
                        self.pool, self.index_folder, collection, opened, self.memory, self.processes
                    )
                    self._let_go(self._opened.get(collection.id))
                    self._opened[collection.id] = opened
                    # One at a time: records may change many times before it is done.
                    if wants_joining(opened) and collection.id not in self._joining:
                        self._joining.add(collection.id)
                        in_background("joining slabs", partial(self._join_slabs, opened))
        return opened

    def _join_slabs(self, opened: OpenCollection) -> None:
        """Joins large slabs while searches go on with the old ones: a job of its own, done by whoever opened them."""
        try:
            with self.pool.connection() as connection:
                forget_finished(connection, "joining", opened.collection.id)
                job_id = add_job(connection, "joining", opened.collection.id, by_server=False)
            do_job(self.pool, job_id, lambda _job, progress: self._do_join(opened, progress))
        finally:
            self._joining.discard(opened.collection.id)

    def _do_join(self, opened: OpenCollection, progress: Progress) -> None:
        progress.begin("joining", 0)
        fewer = with_joined_slabs(opened)
        with self._opening:
            now = self._opened.get(opened.collection.id)
            taken = fewer if now is opened else None if now is None else taken_over(now, opened, fewer)
            if taken is not None:
                self._opened[opened.collection.id] = taken
                self._let_go(now, keeping=taken)

    def _let_go(self, opened: OpenCollection | None, keeping: OpenCollection | None = None) -> None:
        """Lets go of what is in memory of a collection as it was; whoever still works on it makes it again."""
        if opened is None:
            return
        self.memory.forget_state(opened.state)
        kept = {live.slab.name for live in keeping.slabs} if keeping is not None else None
        for live in opened.slabs:
            if kept is not None and live.slab.name not in kept:
                self.memory.forget_folder(str(live.slab.folder))

    def spaces_of(self, connection: Connection[Any], collection_id: int) -> dict[str, OpenSpace]:
        """A collection's spaces by name, in their present state."""
        return {row.name: OpenSpace(self.pool, row, self.memory) for row in spaces_of(connection, collection_id)}

    def collections(self) -> list[Collection]:
        """Every collection, by name."""
        with self.pool.connection() as connection:
            return all_collections(connection)

    def make_collection(self, name: str) -> None:
        """Makes an empty collection. Raises BadInput where there is one of that name."""
        with self.pool.connection() as connection:
            if any(kept.name == name for kept in all_collections(connection)):
                raise BadInput(f'There is a collection "{name}" already. Choose another name.')
            make_collection(connection, name)

    def copy_collection(self, name: str, copy: str) -> None:
        """Copies a collection with all that belongs to it. Raises NotFound, BadInput where the name is taken."""
        with self.pool.connection() as connection:
            copy_collection(connection, collection_named(connection, name, lock=True), copy)

    def rename_collection(self, name: str, new: str) -> None:
        """Gives a collection another name. Raises NotFound, BadInput where the name is taken."""
        with self.pool.connection() as connection:
            rename_collection(connection, collection_named(connection, name, lock=True), new)

    def drop_collection(self, name: str) -> None:
        """Drops a collection, its index files included, and lets go of what a database keeps for it.

        Raises NotFound, BadInput where triggers would stay behind in that database.
        """
        end_before_dropping(self.pool, self.sealing, name)
        with self.pool.connection() as connection:
            collection = collection_named(connection, name, lock=True)
            drop_collection(connection, collection)
        self._let_go(self._opened.pop(collection.id, None))
        self.memory.forget_folder(str(self.index_folder / str(collection.uid)))
        shutil.rmtree(self.index_folder / str(collection.uid), ignore_errors=True)

    def change_field(
        self, name: str, field: str, kind: FieldKind, role: FieldRole | None, passages: dict[str, Any] | None
    ) -> None:
        """Sets what a field is. Raises NotFound, BadInput where the key would change."""
        with self.pool.connection() as connection:
            collection = collection_named(connection, name, lock=True)
            fields = fields_of(connection, collection.id)
            if not any(known.name == field for known in fields):
                raise NotFound(
                    f'"{name}" has no field "{field[:200]}". There are: {", ".join(f.name for f in fields)}.'
                )
            changed: list[CollectionField] = []
            for known in fields:
                if known.name == field:
                    if known.is_key != (role == "key"):
                        raise BadInput("The key of a collection is settled when its first records come in.")
                    changed.append(
                        CollectionField(name=field, kind=kind, several=known.several, role=role, passages=passages)
                    )
                elif role is not None and known.role == role:
                    # One field has a role at a time.
                    changed.append(
                        CollectionField(
                            name=known.name, kind=known.kind, several=known.several, role=None, passages=known.passages
                        )
                    )
                else:
                    changed.append(known)
            put_fields(connection, collection.id, changed)

    def change_display(self, name: str, display: DisplayDocument) -> DisplayDocument:
        """Sets how records are shown. Raises BadInput for fields that are not there."""
        with self.pool.connection() as connection:
            collection = collection_named(connection, name, lock=True)
            known = [field.name for field in fields_of(connection, collection.id)]
            named = [one for one in (display.title, display.picture, *(f.field for f in display.fields)) if one]
            problems = [(one, hint(nearest_name(one, known), known)) for one in named if one not in known]
            if problems:
                raise BadInput("These fields are not there.", problems)
            set_display(connection, collection.id, display.model_dump())
        return display

    def choose(self, collection: Collection, choice: RankerChoice) -> ChosenRanker:
        """The chosen ranker with its chains, read once for as long as nothing that it reads changes.

        Raises NotFound or BadInput.
        """
        if choice.name is not None:
            refuse_unstorable(choice.name)
        with self.pool.connection() as connection:
            # Asked for anew: an opened collection outlives a change of its default ranker.
            state = parts_state(connection, collection.id, choice.name)
        return self.chosen_as(Standing(collection=collection, parts=state), choice)

    def chosen_as(self, standing: Standing, choice: RankerChoice) -> ChosenRanker:
        """The chosen ranker of a collection as it stood when it was read. Raises NotFound or BadInput."""
        if choice.exactly:
            return self._chosen_exactly(standing, replace(choice, exactly=False))
        collection, state = standing.collection, standing.parts
        document = None if choice.document is None else choice.document.text
        key = (collection.uid, state, choice.name, choice.version, document)

        def make() -> ChosenRanker:
            with self.pool.connection() as connection:
                return self._chosen(connection, collection, choice, state)

        return self.memory.rankers.get_or_make(key, make)

    def _chosen_exactly(self, standing: Standing, choice: RankerChoice) -> ChosenRanker:
        chosen = self.chosen_as(standing, choice)
        if all(use.near_enough is None for use in chosen.ranker.spaces):
            return chosen
        whole = chosen.document.whole
        spaces = [one | {"near_enough": None} for one in whole["spaces"]]
        exact = ranker_document(whole | {"spaces": spaces})
        return self.chosen_as(standing, RankerChoice(choice.name, choice.version, exact))

    def ranker_with_lists(self, collection: Collection, choice: RankerChoice, lists: Mapping[str, WordList]) -> Ranker:
        """A draft's ranker that reads word lists which nobody kept. lists: by how the draft names them, `name:version`.

        Raises NotFound or BadInput.
        """
        assert choice.document is not None
        with self.pool.connection() as connection:
            parts = _parts(connection, collection, choice, lists)
            return self._ranker(connection, collection, choice.document, parts)

    def rankers_like(
        self, collection: Collection, choice: RankerChoice, documents: Sequence[RankerDocument]
    ) -> list[Ranker]:
        """Several drafts' rankers, which read saved chains and word lists as one choice reads them.

        Raises NotFound or BadInput.
        """
        if not documents:
            return []
        with self.pool.connection() as connection:
            parts = _parts(connection, collection, choice)
            fields = [field.name for field in fields_of(connection, collection.id)]
            spaces = [space.name for space in spaces_of(connection, collection.id)]
            return [_checked_ranker(document, parts, fields, spaces) for document in documents]

    def _chosen(
        self, connection: Connection[Any], collection: Collection, choice: RankerChoice, state: PartsState
    ) -> ChosenRanker:
        if choice.document is not None:
            parts = _parts(connection, collection, choice)
            ranker = self._ranker(connection, collection, choice.document, parts)
            return ChosenRanker(ranker, choice.document, None, _reads(parts))
        name = choice.name or state.default_ranker
        if name is None:
            raise NotFound(
                f'"{collection.name}" has no ranker yet. Keep one: ./paleharbor ranker put {collection.name} NAME FILE'
            )
        saved = ranker_named(connection, collection.id, name, choice.version)
        document = ranker_document(saved.document)
        parts = SavedParts(connection, collection.id, saved.chain_versions, saved.list_versions)
        ranker = self._ranker(connection, collection, document, parts)
        return ChosenRanker(ranker, document, saved, _reads(parts))

    def put_ranker(
        self,
        collection_name: str,
        name: str,
        document: RankerDocument,
        note: str = "",
        based_on: RankerChoice | None = None,
        newest_known: int | None = None,
        draft: int | None = None,
    ) -> SavedRanker:
        """Keeps a ranker as a new version; the first one of a collection becomes its default.

        Saved chains and word lists are kept in the versions of the ranker it is based on, where it is
        based on one, and in their newest versions otherwise. newest_known: the newest version of its name that whoever
        keeps it knows of; draft: the one that is kept by this, and is none any more. Raises BadInput.
        """
        with self.pool.connection() as connection:
            collection = collection_named(connection, collection_name)
            saved = self.put_ranker_within(connection, collection, name, document, note, based_on, newest_known)
            if draft is not None:
                drop_draft(connection, collection.id, draft)
            return saved

    def put_ranker_within(
        self,
        connection: Connection[Any],
        collection: Collection,
        name: str,
        document: RankerDocument,
        note: str = "",
        based_on: RankerChoice | None = None,
        newest_known: int | None = None,
    ) -> SavedRanker:
        """The same as `put_ranker`, as part of a transaction. Raises BadInput."""
        parts = _parts(connection, collection, based_on or RankerChoice())
        self._ranker(connection, collection, document, parts)
        saved = save_ranker(
            connection,
            collection.id,
            name,
            document.written,
            parts.used_chains,
            parts.lists.used,
            note,
            newest_known,
        )
        # The one that was made when the records came in gives way to the first one made by a person.
        if collection.default_ranker in (None, START_RANKER):
            set_default_ranker(connection, collection.id, name)
        return saved

    def put_chain(self, collection_name: str, name: str, notation: str) -> SavedChain:
        """Keeps a chain as a new version. Raises ChainError."""
        with self.pool.connection() as connection:
            collection = collection_named(connection, collection_name)
            chain = SavedParts(connection, collection.id).chain(notation)
            return save_chain(connection, collection.id, name, chain.notation)

    def chain(
        self,
        collection: Collection,
        text: str,
        without: frozenset[int] = frozenset(),
        read_by: RankerChoice | None = None,
    ) -> Chain:
        """The chain of a notation or of an @name. Raises ChainError or NotFound.

        without: numbers of stages that are left out for a look. read_by: the ranker in whose versions saved chains and
        lists are read that are named without one; in their newest without.
        """
        with self.pool.connection() as connection:
            return _parts(connection, collection, read_by or RankerChoice()).chain(text, without)

    def saved_notation(self, collection: Collection, named: NamedChain, read_by: RankerChoice | None = None) -> str:
        """What a saved chain says, in the version in which a ranker reads it. Raises NotFound."""
        with self.pool.connection() as connection:
            return _parts(connection, collection, read_by or RankerChoice()).notation(named)

    def _ranker(
        self, connection: Connection[Any], collection: Collection, document: RankerDocument, parts: SavedParts
    ) -> Ranker:
        fields = [field.name for field in fields_of(connection, collection.id)]
        return _checked_ranker(document, parts, fields, [one.name for one in spaces_of(connection, collection.id)])


def _checked_ranker(
    document: RankerDocument, parts: SavedParts, fields: Sequence[str], spaces: Sequence[str]
) -> Ranker:
    if fields:
        _check_fields(document, fields)
    _check_spaces(document, spaces)
    return ranker_of(document, parts.chain, parts.lists)


def display_of(collection: Collection, fields: Sequence[CollectionField]) -> DisplayDocument:
    """How a collection's records are shown: as somebody said, or by the roles of its fields."""
    if collection.display is None:
        return default_display([(field.name, field.kind, field.role) for field in fields])
    return display_document(collection.display)


def _is_of(opened: OpenCollection, collection: Collection) -> bool:
    kept = opened.collection
    return (kept.uid, kept.name, kept.revision) == (collection.uid, collection.name, collection.revision)


def _parts(
    connection: Connection[Any],
    collection: Collection,
    choice: RankerChoice,
    given_lists: Mapping[str, WordList] | None = None,
) -> SavedParts:
    """Saved chains and word lists in the versions that a draft takes over."""
    if choice.name is None:
        return SavedParts(connection, collection.id, given_lists=given_lists)
    kept = ranker_named(connection, collection.id, choice.name, choice.version)
    return SavedParts(connection, collection.id, kept.chain_versions, kept.list_versions, given_lists)


def _check_fields(document: RankerDocument, known: Sequence[str]) -> None:
    problems = [
        (where, f'the collection has no field "{name}". {hint(nearest_name(name, known), known)}')
        for where, name in named_fields(document)
        if name not in known
    ]
    if problems:
        raise BadInput(UNUSABLE, problems)


def _check_spaces(document: RankerDocument, known: Sequence[str]) -> None:
    problems = [
        (where, f'there is no space "{name}". {hint(nearest_name(name, known), known) if known else "Make one first."}')
        for where, name in named_spaces(document)
        if name not in known
    ]
    if problems:
        raise BadInput(UNUSABLE, problems)
