"""A chain: text stages, a tokenizer, token stages, and what they make of a text.

Two ways lead to the same tokens. `run` and `trace` go stage by stage and token by token: the plain
path, for looking. `read` takes many texts at once, works on each distinct token once, and gives
columns: the fast path, for building an index.
"""

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import Final, cast

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.text.binding import BoundStage, bind, list_names
from pale_harbor.core.text.errors import TooManyTokens, WrongOrder
from pale_harbor.core.text.interning import distinct_stretches
from pale_harbor.core.text.kinds import Cuts, StageKind, TextStage, Tokenizer, codes_of, text_firsts_of
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.notation import StageCall, format_notation, parse
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.steps import MOST_TOKENS, EachToken, Step, made_by, steps_of
from pale_harbor.core.text.tokens import Token, TokenTable, prototype, told
from pale_harbor.core.text.word_lists import NO_LISTS, WordList

# Words of queries that a chain remembers, and how long they may be.
_MOST_REMEMBERED: Final = 1_000
_LONGEST_REMEMBERED: Final = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class StageTrace:
    """What one stage left behind.

    text: after a text stage, else None. tokens: after a tokenizer or token stage, else empty.
    parents: for each token the index of the token before the stage that it came from; empty for
    a tokenizer, whose tokens come from the text. dropped: indices of the tokens that left nothing.
    """

    stage: str
    kind: StageKind
    text: str | None
    tokens: tuple[Token, ...]
    parents: tuple[int, ...]
    dropped: tuple[int, ...]
    changed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class StageRead:
    """What one stage made of many texts.

    texts: after a text stage; table: after any other, and source: for each of its rows the row it
    came from (None for a tokenizer). changed: how many texts came out other than they went in.
    """

    call: StageCall
    kind: StageKind
    changed: int
    texts: list[str] | None = None
    table: TokenTable | None = None
    source: IntArray | None = None


@dataclass(frozen=True)
class Chain:
    """A chain ready to run. Equal chains have equal notation, and word lists that say the same.

    >>> chain = chain_of("words > lower > stem(en)")
    >>> [token.text for token in chain.run("Harpoons rusting")]
    ['harpoon', 'rust']
    """

    calls: tuple[StageCall, ...]
    list_digests: tuple[tuple[str, str], ...]
    stages: tuple[BoundStage, ...] = field(compare=False)

    @cached_property
    def notation(self) -> str:
        """The chain on one line."""
        return format_notation(self.calls)

    @cached_property
    def identity(self) -> str:
        """What the chain does, in one line: its notation, and what its word lists say."""
        lists = "".join(f" @{name}={digest}" for name, digest in self.list_digests)
        return self.notation + lists

    @cached_property
    def text_stages(self) -> tuple[TextStage, ...]:
        """The stages before the tokenizer."""
        return tuple(cast(TextStage, bound.stage) for bound in self.bound(StageKind.TEXT))

    @cached_property
    def tokenizer(self) -> Tokenizer:
        """The stage that cuts the text."""
        return cast(Tokenizer, self.bound(StageKind.TOKENIZER)[0].stage)

    def bound(self, kind: StageKind) -> list[BoundStage]:
        """The stages of a kind, in order."""
        return [bound for bound in self.stages if bound.kind is kind]

    def run(self, text: str) -> list[Token]:
        """The tokens of one text, each with the stretch of `text` that it came from."""
        tokens = self.cut(text)
        for bound in self.bound(StageKind.TOKEN):
            tokens = [token for token, _ in made_by(bound, tokens)]
        return tokens

    def run_on_word(self, text: str) -> tuple[Token, ...]:
        """The tokens of a word of a query, as `run`: the same words are asked over and over, so the last ones are
        remembered."""
        return self._words_lately(text) if len(text) <= _LONGEST_REMEMBERED else tuple(self.run(text))

    def __getstate__(self) -> dict[str, object]:
        # What is remembered stays here when a chain goes to another process.
        return {name: value for name, value in vars(self).items() if name != "_words_lately"}

    @cached_property
    def _words_lately(self) -> Callable[[str], tuple[Token, ...]]:
        def read(text: str) -> tuple[Token, ...]:
            return tuple(self.run(text))

        return lru_cache(_MOST_REMEMBERED)(read)

    def cut(self, text: str) -> list[Token]:
        """The tokens of one text before any token stage."""
        return self._cut(self._before_cutting(text))

    def terms(self, text: str) -> list[str]:
        """The texts of `run`'s tokens, found quicker: what a query needs."""
        steps = self._steps
        if len(steps) > 1 or (steps and not isinstance(steps[0], EachToken)):
            return [token.text for token in self.run(text)]
        mapped = self._before_cutting(text)
        cuts = self.tokenizer.cut(codes_of(mapped.text), np.array([0, len(mapped.text)], np.int64))
        surfaces = [mapped.text[start:end] for start, end in zip(cuts.starts.tolist(), cuts.ends.tolist(), strict=True)]
        if not steps:
            return surfaces
        step = cast(EachToken, steps[0])
        return [token.text for surface in surfaces for token in step.text_outcome(surface)]

    def trace(self, text: str) -> list[StageTrace]:
        """What every stage makes of one text, in order; the last one's tokens are those of `run`."""
        traces: list[StageTrace] = []
        mapped = MappedText(text)
        for bound, stage in zip(self.bound(StageKind.TEXT), self.text_stages, strict=True):
            rewritten = stage(mapped)
            changed = rewritten.text != mapped.text
            traces.append(
                StageTrace(
                    stage=str(bound.call),
                    kind=StageKind.TEXT,
                    text=rewritten.text,
                    tokens=(),
                    parents=(),
                    dropped=(),
                    changed=changed,
                )
            )
            mapped = rewritten
        tokens = tuple(self._cut(mapped))
        cutting = str(self.bound(StageKind.TOKENIZER)[0].call)
        traces.append(
            StageTrace(
                stage=cutting, kind=StageKind.TOKENIZER, text=None, tokens=tokens, parents=(), dropped=(), changed=True
            )
        )
        for bound in self.bound(StageKind.TOKEN):
            made = made_by(bound, tokens)
            after = tuple(new for new, _ in made)
            parents = tuple(parent for _, parent in made)
            dropped = tuple(sorted(set(range(len(tokens))).difference(parents)))
            traces.append(
                StageTrace(
                    stage=str(bound.call),
                    kind=StageKind.TOKEN,
                    text=None,
                    tokens=after,
                    parents=parents,
                    dropped=dropped,
                    changed=after != tokens,
                )
            )
            tokens = after
        return traces

    def read(self, texts: Sequence[str]) -> TokenTable:
        """The tokens of many texts as columns; the same tokens that `run` gives text by text."""
        table = self._cut_all([self._before_cutting(text) for text in texts] if self.text_stages else texts)
        for step in self._steps:
            table, _ = step.read(table)
        return table

    def read_by_stage(self, texts: Sequence[str]) -> Iterator[StageRead]:
        """What every stage makes of many texts, in order; the last one's table is that of `read`."""
        mapped = [MappedText(text) for text in texts]
        for bound, stage in zip(self.bound(StageKind.TEXT), self.text_stages, strict=True):
            rewritten = [stage(text) for text in mapped]
            changed = sum(after.text != before.text for before, after in zip(mapped, rewritten, strict=True))
            yield StageRead(
                call=bound.call, kind=StageKind.TEXT, changed=changed, texts=[text.text for text in rewritten]
            )
            mapped = rewritten
        table = self._cut_all(mapped)
        yield StageRead(
            call=self.bound(StageKind.TOKENIZER)[0].call, kind=StageKind.TOKENIZER, changed=len(texts), table=table
        )
        for bound, (step,) in zip(self.bound(StageKind.TOKEN), self._single_steps, strict=True):
            after, source = step.read(table)
            yield StageRead(
                call=bound.call,
                kind=StageKind.TOKEN,
                changed=_changed_texts(table, after, source, len(texts)),
                table=after,
                source=source,
            )
            table = after

    @cached_property
    def _steps(self) -> tuple[Step, ...]:
        return steps_of(self.bound(StageKind.TOKEN))

    @cached_property
    def _single_steps(self) -> list[tuple[Step, ...]]:
        return [steps_of([bound]) for bound in self.bound(StageKind.TOKEN)]

    def _before_cutting(self, text: str) -> MappedText:
        mapped = MappedText(text)
        for stage in self.text_stages:
            mapped = stage(mapped)
        return mapped

    def _cut(self, mapped: MappedText) -> list[Token]:
        firsts = text_firsts_of([mapped.text])
        cuts = self.tokenizer.cut(codes_of(mapped.text), firsts)
        self._check_count(cuts, firsts)
        positions = range(cuts.starts.size) if cuts.positions is None else cuts.positions.tolist()
        return [
            Token(mapped.text[start:end], *mapped.origin(start, end), position, exact=mapped.exact(start, end))
            for position, start, end in zip(positions, cuts.starts.tolist(), cuts.ends.tolist(), strict=True)
        ]

    def _check_count(self, cuts: Cuts, firsts: IntArray) -> None:
        """Raises TooManyTokens where the tokenizer made too much of one text."""
        if cuts.starts.size > MOST_TOKENS:
            most = MOST_TOKENS + np.diff(firsts)
            if (np.bincount(cuts.text_ids, minlength=most.size) > most).any():
                call = self.bound(StageKind.TOKENIZER)[0].call
                raise TooManyTokens(call.name, call.place, MOST_TOKENS)

    def _cut_all(self, given: Sequence[MappedText] | Sequence[str]) -> TokenTable:
        """All texts cut at once, each distinct stretch made a token once. given: as they are, or rewritten."""
        texts = [text if isinstance(text, str) else text.text for text in given]
        mapped = [text for text in given if not isinstance(text, str)]
        whole = "".join(texts)
        codes = codes_of(whole)
        firsts = text_firsts_of(texts)
        cuts = self.tokenizer.cut(codes, firsts)
        self._check_count(cuts, firsts)
        ids = np.empty(cuts.starts.size, np.int32)
        first_seen = np.empty(cuts.starts.size, np.int32)
        count = distinct_stretches(codes, cuts.starts, cuts.ends, ids, first_seen)
        seen_at = first_seen[:count]
        surfaces = [
            whole[start:end]
            for start, end in zip(cuts.starts[seen_at].tolist(), cuts.ends[seen_at].tolist(), strict=True)
        ]
        starts, ends, exact = _origins(mapped, firsts, cuts)
        distinct = [Token(surface, 0, len(surface), 0) for surface in surfaces]
        loose = np.flatnonzero(~exact)
        if loose.size:
            # The same letters off their place are another token: no part of it has letters of its own.
            which, back = np.unique(ids[loose], return_inverse=True)
            ids[loose] = len(distinct) + back
            distinct += [prototype(Token(surfaces[one], 0, 0, 0, exact=False)) for one in which.tolist()]
        positions = _count_up(cuts.text_ids) if cuts.positions is None else cuts.positions
        return TokenTable(distinct, cuts.text_ids, ids, starts, ends, positions, np.ones(ids.size, np.int32))


def chain_of(notation: str, lists: Mapping[str, WordList] = NO_LISTS, without: Collection[int] = ()) -> Chain:
    """The chain that a notation describes. Raises ChainError with the place of what is wrong.

    lists: the word lists there are, by name. without: numbers of stages, from 0, that are left out for a look. A
    chain whose every stage is left out is a WrongOrder.
    """
    calls = tuple(call for number, call in enumerate(parse(notation)) if number not in without)
    written = len(notation.rstrip())
    end = place_of(notation, written, written)
    if not calls:
        raise WrongOrder(end, "every stage is switched off.", ["tokenizer"])
    return _chain(calls, bind(calls, end, lists), lists)


def _chain(calls: tuple[StageCall, ...], stages: tuple[BoundStage, ...], lists: Mapping[str, WordList]) -> Chain:
    return Chain(calls, tuple((name, lists[name].digest) for name in list_names(calls)), stages)


def _count_up(text_ids: IntArray) -> IntArray:
    """0, 1, 2 … within each text."""
    first_of_text = np.searchsorted(text_ids, text_ids, side="left")
    return (np.arange(text_ids.size) - first_of_text).astype(np.int32)


def _origins(
    mapped: Sequence[MappedText], firsts: IntArray, cuts: Cuts
) -> tuple[IntArray, IntArray, NDArray[np.bool_]]:
    """Stretches of the texts laid end to end as stretches of each original value, and which are exact."""
    base = firsts[cuts.text_ids]
    own_starts, own_ends = (cuts.starts - base).astype(np.int32), (cuts.ends - base).astype(np.int32)
    exact = np.ones(own_starts.size, np.bool_)
    for text_id, text in enumerate(mapped):
        if text.origin_starts is not None and text.origin_ends is not None:
            first, last = np.searchsorted(cuts.text_ids, [text_id, text_id + 1])
            rows = slice(first, last)
            # How many letters so far do not come from one letter right after the one before.
            odd_letter = text.origin_ends != text.origin_starts + 1
            odd_step = np.append(False, np.diff(text.origin_starts) != 1)
            letters, steps = (np.append(0, np.cumsum(odd)) for odd in (odd_letter, odd_step))
            starts, ends = own_starts[rows], own_ends[rows]
            exact[rows] = (letters[ends] == letters[starts]) & (steps[ends] == steps[starts + 1])
            own_ends[rows] = text.origin_ends[ends - 1]
            own_starts[rows] = text.origin_starts[starts]
    return own_starts, own_ends, exact


def _changed_texts(before: TokenTable, after: TokenTable, source: IntArray, texts: int) -> int:
    """How many texts a token stage changed."""
    changed = np.zeros(texts, np.bool_)
    gone = np.bincount(source, minlength=before.term_ids.size) != 1
    changed[before.text_ids[gone]] = True
    same = np.zeros(source.size, np.bool_)
    numbers: dict[Token | str, int] = {}
    # A sequence stage may have made equal tokens under several numbers.
    first = np.array(
        [numbers.setdefault(told(token), number) for number, token in enumerate(before.distinct)], np.int32
    )
    as_before = np.array([numbers.get(told(token), -1) for token in after.distinct], np.int32)
    if source.size:
        same = as_before[after.term_ids] == first[before.term_ids[source]]
        same &= after.positions == before.positions[source]
        same &= after.spans == before.spans[source]
    changed[after.text_ids[~same]] = True
    return int(np.count_nonzero(changed))
