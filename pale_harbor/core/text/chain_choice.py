"""Chains chosen record by record: each language of a collection read in its own way."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from pale_harbor.core.text.chain import Chain
from pale_harbor.core.text.languages import language_of
from pale_harbor.core.text.tokens import TokenTable


@dataclass(frozen=True)
class ChainsByLanguage:
    """A chain for each language that a field of the records names, and one for all others.

    by: the field; chains: language and chain, in order.
    """

    by: str
    chains: tuple[tuple[str, Chain], ...]
    otherwise: Chain

    @cached_property
    def notation(self) -> str:
        """All of it on one line, for people."""
        own = "; ".join(f"{language}: {chain.notation}" for language, chain in self.chains)
        return f"by {self.by}: {own}; else: {self.otherwise.notation}"

    @cached_property
    def identity(self) -> str:
        """The same for all choices that read every text alike."""
        own = "; ".join(f"{language}: {chain.identity}" for language, chain in self.chains)
        return f"by {self.by}: {own}; else: {self.otherwise.identity}"

    @cached_property
    def _by_language(self) -> Mapping[str, Chain]:
        return dict(self.chains)

    def chain_for(self, language: str | None) -> Chain:
        """The chain for a record of a language, or of none that is named."""
        return self._by_language.get(language or "", self.otherwise)

    def chain_for_query(self, query: str, language: str | None = None) -> Chain:
        """The chain for a query: by its language where that is given, or can be told from its words."""
        return self.chain_for(language or language_of(query))

    def chains_for_query(self, query: str, language: str | None = None) -> tuple[Chain, ...]:
        """The chains for a query: that of its language, or where that cannot be told every one that records are read
        by, each for its own records."""
        known = language or language_of(query)
        if known is not None:
            return (self.chain_for(known),)
        return tuple(dict.fromkeys([*(chain for _, chain in self.chains), self.otherwise]))

    def read(self, texts: Sequence[str], languages: Sequence[str | None]) -> TokenTable:
        """The tokens of many texts, each read by the chain for its language."""
        by_chain: dict[Chain, list[int]] = {}
        for text_id, language in enumerate(languages):
            by_chain.setdefault(self.chain_for(language), []).append(text_id)
        tables = [_renumber(chain.read([texts[text_id] for text_id in own]), own) for chain, own in by_chain.items()]
        return _join(tables)


ChainChoice = Chain | ChainsByLanguage


def query_chain_of(choice: ChainChoice, query: str, language: str | None = None) -> Chain:
    """The chain that reads a query."""
    return choice if isinstance(choice, Chain) else choice.chain_for_query(query, language)


def query_chains_of(choice: ChainChoice, query: str, language: str | None = None) -> tuple[Chain, ...]:
    """The chains that read a query: several where it may be of any language that records are in."""
    return (choice,) if isinstance(choice, Chain) else choice.chains_for_query(query, language)


def record_chain_of(choice: ChainChoice, language: str | None) -> Chain:
    """The chain that reads a record of a language."""
    return choice if isinstance(choice, Chain) else choice.chain_for(language)


def forgetful(choice: ChainChoice) -> ChainChoice:
    """The same choice, with nothing remembered of what was read by it: for whoever reads very much once, so that it is
    let go of with them. The chains of a ranker last as long as it is of use."""
    if isinstance(choice, Chain):
        return replace(choice)
    own = tuple((language, replace(chain)) for language, chain in choice.chains)
    return replace(choice, chains=own, otherwise=replace(choice.otherwise))


def _renumber(table: TokenTable, text_ids: Sequence[int]) -> TokenTable:
    return replace(table, text_ids=np.array(text_ids, np.int32)[table.text_ids])


def _join(tables: Sequence[TokenTable]) -> TokenTable:
    """Tables of different texts as one, in order of text."""
    distinct = [token for table in tables for token in table.distinct]
    firsts = np.cumsum([0, *(len(table.distinct) for table in tables)])
    columns = [
        (t.text_ids, t.term_ids + np.int32(first), t.starts, t.ends, t.positions, t.spans)
        for t, first in zip(tables, firsts.tolist(), strict=False)
    ]
    if not columns:
        empty = np.zeros(0, np.int32)
        return TokenTable([], empty, empty, empty, empty, empty, empty)
    joined = [np.concatenate(column) for column in zip(*columns, strict=True)]
    order = np.argsort(joined[0], kind="stable")
    return TokenTable(distinct, *(column[order].astype(np.int32) for column in joined))
