"""Suggestions as a collection's fields and past queries offer them."""

from collections import Counter
from collections.abc import Hashable, Iterator, Sequence
from itertools import islice, pairwise
from math import isnan
from typing import Any, Final

import numpy as np

from pale_harbor.core.fields import FieldColumn
from pale_harbor.core.text.chain_choice import Chain, ChainChoice, forgetful
from pale_harbor.core.text.languages import language_of
from pale_harbor.core.text.stages.stopwords import STOP_WORDS
from pale_harbor.core.typing.letters import whole_letters_of
from pale_harbor.core.typing.phrases import phrases_of
from pale_harbor.core.typing.recipe import Completions, FieldPhrases, FieldValues, PastQueries, SuggestionSource
from pale_harbor.core.typing.suggestions import Offered, Suggestions, suggestions_of
from pale_harbor.store.ranking.past_queries import past_queries_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.records.values import language_in, texts_of
from pale_harbor.work.running.aside import Told, untold
from pale_harbor.work.running.wanted import check_wanted

# Of more records phrases are looked for in the first so many.
MOST_READ: Final = 200_000
_LOOKED_AT_FOR_LANGUAGE: Final = 200
# A language is spoken in a field where such a share of its first texts seems to be in it.
_SPOKEN: Final = 0.03
_BETWEEN_LOOKS: Final = 500


def gathered_suggestions(
    opened: OpenCollection, recipe: Completions, chain: ChainChoice, told: Told = untold
) -> Suggestions:
    """The suggestions of all of a recipe's sources. chain: by which inflections are told; told: hears of each source,
    of which two steps more are counted: telling inflections, and sorting."""
    steps = len(recipe.sources) + 2
    languages = [] if recipe.language is None else [_language(one) for one in _values(opened, recipe.language)]

    def telling(number: int, source: SuggestionSource) -> Iterator[Offered]:
        told(_said(source), number, steps)
        yield from _offered(opened, source, languages)

    def read_alike(texts: Sequence[str], own: Sequence[str]) -> list[Hashable]:
        told("telling inflections", steps - 2, steps)
        return _read_alike(forgetful(chain), texts, own)

    offered = [(one.worth, telling(number, one)) for number, one in enumerate(recipe.sources)]
    withheld = frozenset[str]() if recipe.withhold is None else recipe.withhold.words.words
    return suggestions_of(offered, read_alike if recipe.fold else None, withheld)


def _said(source: SuggestionSource) -> str:
    if isinstance(source, PastQueries):
        return "past queries"
    return f"values of {source.values}" if isinstance(source, FieldValues) else f"phrases of {source.phrases}"


def _language(value: Any) -> str:
    return language_in(value) or ""


def _values(opened: OpenCollection, name: str) -> Iterator[Any]:
    """A field's value of every record in turn, None for what lives no more."""
    for slab in range(len(opened.slabs)):
        for number, value in enumerate(opened.values(slab, name)):
            if number % _BETWEEN_LOOKS == 0:
                check_wanted()
            yield value


def _offered(opened: OpenCollection, source: SuggestionSource, languages: Sequence[str]) -> Iterator[Offered]:
    """languages: of every record, empty where they are not told."""
    if isinstance(source, PastQueries):
        with opened.pool.connection() as connection:
            for one in past_queries_of(connection, opened.collection.id, source.asked):
                yield Offered(one.query, one.asked, one.language)
    elif isinstance(source, FieldValues):
        yield from _field_values(opened, source, languages)
    else:
        yield from _field_phrases(opened, source, languages)


def _field_values(opened: OpenCollection, source: FieldValues, languages: Sequence[str]) -> Iterator[Offered]:
    first = 0
    for slab, live in enumerate(opened.slabs):
        column = opened.column(slab, source.values)
        numbers = None if source.by is None else opened.column(slab, source.by).first_numbers()
        weights = _weights(column, numbers, live.alive)
        if not languages:
            for code in np.flatnonzero(weights >= 0).tolist():
                yield Offered(column.texts[code], float(weights[code]))
        else:
            for record in range(column.record_count):
                number = 1.0 if numbers is None else float(numbers[record])
                for code in column.codes[column.firsts[record] : column.firsts[record + 1]].tolist():
                    if live.lives(record):
                        weight = 0.0 if isnan(number) else number
                        yield Offered(column.texts[code], weight, languages[first + record])
        first += column.record_count


def _weights(column: FieldColumn, numbers: Any, alive: Any) -> Any:
    """Of each distinct value the sum of the numbers of living records that have it, −1 where none lives."""
    owners = np.repeat(np.arange(column.record_count), np.diff(column.firsts))
    lives = np.ones(owners.size, np.bool_) if alive is None else alive[owners]
    codes, owners = column.codes[lives], owners[lives]
    own = np.ones(owners.size) if numbers is None else np.nan_to_num(np.maximum(numbers[owners], 0.0))
    weights = np.bincount(codes, weights=own, minlength=len(column.texts))
    weights[np.bincount(codes, minlength=len(column.texts)) == 0] = -1
    return weights


def _field_phrases(opened: OpenCollection, source: FieldPhrases, languages: Sequence[str]) -> Iterator[Offered]:
    """Phrases of each language by themselves, since its small words are its own."""
    values = [texts_of(value) for value in islice(_values(opened, source.phrases), MOST_READ)]
    for language in dict.fromkeys(languages) or [""]:
        own = (
            values if not languages else [value for value, of in zip(values, languages, strict=False) if of == language]
        )
        for one in phrases_of(own, source.fewest, source.words, source.records, _small_words(language, own)):
            yield Offered(one.text, one.weight, language)


def _small_words(language: str, values: Sequence[list[str]]) -> frozenset[str]:
    """The small words of a language; where it is not known, of those that the first texts seem to be in."""
    by_code = {one.value: words for one, words in STOP_WORDS.items()}
    known = language[:2].lower()
    if known in by_code:
        spoken = [known]
    else:
        first = [" ".join(own) for own in values[:_LOOKED_AT_FOR_LANGUAGE]]
        seems = Counter(language_of(text) for text in first)
        spoken = [code for code, times in seems.items() if code in by_code and times >= _SPOKEN * len(first)]
    return frozenset(whole_letters_of(word) for code in spoken for word in by_code[code])


def _read_alike(chain: ChainChoice, texts: Sequence[str], languages: Sequence[str]) -> list[Hashable]:
    """What the chain reads of each text, in order."""
    table = (
        chain.read(list(texts)) if isinstance(chain, Chain) else chain.read(texts, [one or None for one in languages])
    )
    terms = table.terms
    bounds = np.searchsorted(table.text_ids, np.arange(len(texts) + 1)).tolist()
    ids = table.term_ids.tolist()
    return [tuple(terms[one] for one in ids[first:last]) for first, last in pairwise(bounds)]
