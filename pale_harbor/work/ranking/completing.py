"""Completions of a collection: suggestions gathered from its fields and past queries, none that leads to nothing."""

from collections.abc import Hashable
from dataclasses import dataclass, field, replace
from functools import partial
from time import perf_counter
from typing import Any, Final

import numpy as np
import structlog
from numpy.typing import NDArray

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.ranker import PLAIN_BLEND
from pale_harbor.core.text.chain_choice import ChainChoice, ChainsByLanguage
from pale_harbor.core.typing.completing import Completion, CompletionIndex, complete, completion_index, suggested
from pale_harbor.core.typing.recipe import (
    Completions,
    FieldPhrases,
    FieldValues,
    PastQueries,
    SuggestionSource,
)
from pale_harbor.store.collections.collections import Collection, collection_named, fields_of
from pale_harbor.store.database import Pool
from pale_harbor.store.ranking.past_queries import PastQueryList, past_query_list
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import answer, ask
from pale_harbor.work.ranking.suggestion_sources import MOST_READ, gathered_suggestions
from pale_harbor.work.running.aside import Told, UnderWay
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.workbench import display_of

# So many suggestions are tried at one key press, whether they lead somewhere; others wait for the next one.
MOST_TRIED: Final = 200
_DEFAULT_FIELDS: Final = 4
_NUMBERS: Final = ("number", "date", "flag")
_NO_TEXTS: Final = ("key", "picture", "places")


@dataclass(frozen=True, slots=True, kw_only=True)
class SuggestionsTold:
    """What suggestions there are.

    own: whether the ranker names sources, or the usual ones were taken; usual: these, as a ranker's document says them;
    entries: places at which what is typed may begin; bytes: in memory; too_long, withheld: suggestions that were left
    out; read: in how many of the records phrases were looked for; past: past queries that are known. gathering: how far
    they are, where they are still being gathered: there are none until then.
    """

    own: bool
    usual: list[dict[str, Any]]
    suggestions: int
    entries: int
    bytes: int
    too_long: int
    withheld: int
    read: int
    records: int
    past: PastQueryList | None
    gathering: UnderWay | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Completed:
    """Suggestions for what was typed. tried_all: False where more of them are still to be tried whether they lead
    anywhere, so that some may come the next time; gathering: how far they are, where they are still being gathered."""

    completions: list[Completion]
    tried_all: bool
    elapsed_ms: float
    gathering: UnderWay | None


@dataclass(eq=False)
class Ready:
    """Suggestions ready to be asked, and which of them lead somewhere: 0 not known, 1 yes, 2 no, by ranker."""

    index: CompletionIndex
    read: int
    leads: dict[Hashable, NDArray[np.uint8]] = field(default_factory=dict[Hashable, NDArray[np.uint8]])

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, a few rankers' knowledge reckoned in."""
        return self.index.size_bytes + 4 * len(self.index.suggested.suggestions)


def completions_for(
    opened: OpenCollection,
    ranker: Ranker,
    typed: str,
    wanted: int,
    language: str | None = None,
    patience_s: float | None = None,
) -> Completed:
    """The best suggestions for what was typed, of which each finds something with this ranker's words.

    patience_s: after so many seconds it is told how far the gathering is; None waits for it.
    """
    ready = ready_to_complete(opened, ranker, patience_s)
    if isinstance(ready, UnderWay):
        return Completed(completions=[], tried_all=False, elapsed_ms=0.0, gathering=ready)
    started = perf_counter()
    words_alone = _words_alone(ranker)
    found = ready.index.suggested.suggestions
    leads = ready.leads.get(words_alone)
    if leads is None:
        # Those of a few rankers are enough.
        if len(ready.leads) >= 8:
            ready.leads.clear()
        leads = ready.leads.setdefault(words_alone, np.zeros(len(found), np.uint8))
    trying = _Trying(opened, words_alone, leads)
    shown = complete(ready.index, typed, wanted, language, trying.leads_somewhere)
    trying.forget()
    return Completed(
        completions=shown,
        tried_all=trying.tried <= MOST_TRIED,
        elapsed_ms=round((perf_counter() - started) * 1000, 2),
        gathering=None,
    )


def suggestions_told(opened: OpenCollection, ranker: Ranker, patience_s: float | None = None) -> SuggestionsTold:
    """What there is to suggest, and what it takes. patience_s: as for `completions_for`."""
    ready = ready_to_complete(opened, ranker, patience_s)
    gathering = ready if isinstance(ready, UnderWay) else None
    index = None if isinstance(ready, UnderWay) else ready.index
    with opened.pool.connection() as connection:
        past = past_query_list(connection, opened.collection.id)
    return SuggestionsTold(
        own=ranker.completions is not None and bool(ranker.completions.sources),
        usual=[
            _document_of(one)
            for one in recipe_of(opened.pool, opened.collection, replace(ranker, completions=None)).sources
        ],
        suggestions=0 if index is None else len(index.suggested.suggestions),
        entries=0 if index is None else index.suggested.entries.size,
        bytes=0 if index is None else index.size_bytes,
        too_long=0 if index is None else index.suggested.suggestions.too_long,
        withheld=0 if index is None else index.suggested.suggestions.withheld,
        read=0 if isinstance(ready, UnderWay) else ready.read,
        records=opened.record_count,
        past=past,
        gathering=gathering,
    )


def recipe_of(pool: Pool, collection: Collection, ranker: Ranker) -> Completions:
    """What a ranker says of completions, with the usual sources where it names none: past queries, values of the title,
    phrases of the title and of other texts that it reads."""
    recipe = ranker.completions or Completions()
    if recipe.sources:
        return recipe
    by = next((one.chain.by for one in ranker.readings if isinstance(one.chain, ChainsByLanguage)), None)
    names = _texts_read(pool, collection, ranker)
    sources: list[SuggestionSource] = [PastQueries(asked=1), FieldValues(values=names[0])]
    sources += [FieldPhrases(phrases=name) for name in names[:_DEFAULT_FIELDS]]
    return replace(recipe, sources=tuple(sources), language=recipe.language or by)


def _texts_read(pool: Pool, collection: Collection, ranker: Ranker) -> list[str]:
    """The fields of texts that a ranker reads, the title first and the key left out; all where there are no others."""
    with pool.connection() as connection:
        fields = fields_of(connection, collection.id)
        collection = collection_named(connection, collection.name)
    title = display_of(collection, fields).title
    texts = {one.name for one in fields if one.kind not in _NUMBERS and one.role not in _NO_TEXTS}
    read = list(dict.fromkeys(one.field for one in ranker.readings))
    named = [one for one in read if one in texts]
    return sorted(named, key=lambda one: one != title) or read


def _document_of(source: SuggestionSource) -> dict[str, Any]:
    """A usual source as a document says it."""
    if isinstance(source, PastQueries):
        return {"asked": source.asked}
    return {"values": source.values} if isinstance(source, FieldValues) else {"phrases": source.phrases}


def _words_alone(ranker: Ranker) -> Ranker:
    """A ranker as it finds records by words: nothing else keeps a suggestion from leading to nothing."""
    return replace(
        ranker,
        spaces=(),
        blend=PLAIN_BLEND,
        second_stage=None,
        kinds=(),
        feedback=None,
        signals=(),
        completions=None,
        corrections=None,
    )


@dataclass(slots=True)
class _Trying:
    """Tries suggestions, a few at a key press, and keeps what it finds."""

    opened: OpenCollection
    ranker: Ranker
    leads: NDArray[np.uint8]
    tried: int = 0
    aside: OpenCollection | None = None

    def leads_somewhere(self, number: int, text: str) -> bool:
        known = int(self.leads[number])
        if known:
            return known == 1
        self.tried += 1
        if self.tried > MOST_TRIED:
            return False
        if self.aside is None:
            # Nobody asked for these: what is remembered of questions is not pushed out by them.
            self.aside = self.opened.unremembering()
        found = bool(answer(self.aside, ask(self.aside, self.ranker, Question(text)), 1).rows)
        self.leads[number] = 1 if found else 2
        return found

    def forget(self) -> None:
        if self.aside is not None:
            self.opened.memory.forget_state(self.aside.state)


def ready_to_complete(opened: OpenCollection, ranker: Ranker, patience_s: float | None = None) -> Ready | UnderWay:
    """The suggestions of a ranker's recipe, gathered where they are not known; or how far they are after so many
    seconds, where it is said how long they are waited for."""
    recipe = recipe_of(opened.pool, opened.collection, ranker)
    chain = _folding(ranker, recipe)
    past = None
    if any(isinstance(one, PastQueries) for one in recipe.sources):
        with opened.pool.connection() as connection:
            past = past_query_list(connection, opened.collection.id)
    name: tuple[str, Hashable] = (opened.state, (recipe, chain.identity, past and past.state))
    known = opened.memory.completions.get(name)
    return known or opened.memory.aside.made(name, partial(_kept, opened, recipe, chain, name), patience_s)


def _kept(
    opened: OpenCollection, recipe: Completions, chain: ChainChoice, name: tuple[str, Hashable], told: Told
) -> Ready:
    return opened.memory.completions.get_or_make(name, partial(_made, opened, recipe, chain, told))


def _folding(ranker: Ranker, recipe: Completions) -> ChainChoice:
    """The chain by which inflections are told: that of the first source's field, or of the first reading."""
    named = [
        one.values if isinstance(one, FieldValues) else one.phrases
        for one in recipe.sources
        if not isinstance(one, PastQueries)
    ]
    by_field = {one.field: one.chain for one in reversed(ranker.readings)}
    return next((by_field[name] for name in named if name in by_field), ranker.readings[0].chain)


def _made(opened: OpenCollection, recipe: Completions, chain: ChainChoice, told: Told) -> Ready:
    started = perf_counter()
    found = gathered_suggestions(opened, recipe, chain, told)
    check_wanted()
    told("sorting them", len(recipe.sources) + 1, len(recipe.sources) + 2)
    index = completion_index(suggested(found, recipe.begins), recipe)
    structlog.get_logger().info(
        "suggestions gathered",
        collection=opened.collection.name,
        suggestions=len(found),
        bytes=index.size_bytes,
        elapsed_ms=round((perf_counter() - started) * 1000),
    )
    reads = any(isinstance(one, FieldPhrases) for one in recipe.sources)
    return Ready(index, min(opened.record_count, MOST_READ) if reads else 0)
