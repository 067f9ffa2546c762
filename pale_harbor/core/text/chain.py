"""A chain: text stages, a tokenizer, token stages, and what they make of a text.

Two ways lead to the same tokens. `run` and `trace` go stage by stage and token by token: the plain
path, for looking. `read` takes many texts at once, works on each distinct token once, and gives
columns: the fast path, for building an index.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import cast

import numpy as np

from pale_harbor.core.text.binding import bind, check_order
from pale_harbor.core.text.interning import distinct_stretches
from pale_harbor.core.text.kinds import Kind, TextStage, Tokenizer, TokenStage, codes_of, text_firsts_of
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.notation import StageCall, format_notation, parse
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.stages import kind_of
from pale_harbor.core.text.tokens import IntArray, Token, TokenTable

_MOST_REMEMBERED = 1_000_000


@dataclass(frozen=True, slots=True)
class StageTrace:
    """What one stage left behind.

    text: after a text stage, else None. tokens: after a tokenizer or token stage, else empty.
    parents: for each token the index of the token before the stage that it came from; empty for
    a tokenizer, whose tokens come from the text. dropped: indices of the tokens that left nothing.
    """

    stage: str
    kind: Kind
    text: str | None
    tokens: tuple[Token, ...]
    parents: tuple[int, ...]
    dropped: tuple[int, ...]
    changed: bool


@dataclass(frozen=True)
class Chain:
    """A chain ready to run. Equal chains have equal notation.

    >>> chain = chain_of("words > lower > stem(en)")
    >>> [token.text for token in chain.run("Harpoons rusting")]
    ['harpoon', 'rust']
    """

    calls: tuple[StageCall, ...]

    def __post_init__(self) -> None:
        # Per distinct token, what the token stages make of it. Never seen from outside.
        object.__setattr__(self, "_remembered", {})

    @cached_property
    def notation(self) -> str:
        """The chain on one line; it names the chain wherever an index is built from it."""
        return format_notation(self.calls)

    @cached_property
    def text_stages(self) -> tuple[TextStage, ...]:
        return tuple(cast(TextStage, bind(call)) for call in self._calls_of(Kind.TEXT))

    @cached_property
    def tokenizer(self) -> Tokenizer:
        return cast(Tokenizer, bind(self._calls_of(Kind.TOKENIZER)[0]))

    @cached_property
    def token_stages(self) -> tuple[TokenStage, ...]:
        return tuple(cast(TokenStage, bind(call)) for call in self._calls_of(Kind.TOKEN))

    def run(self, text: str) -> list[Token]:
        """The tokens of one text, each with the stretch of `text` that it came from."""
        mapped = self._before_cutting(text)
        tokens: Iterable[Token] = self._cut(mapped)
        for stage in self.token_stages:
            tokens = [new for token in tokens for new in stage(token)]
        return list(tokens)

    def terms(self, text: str) -> list[str]:
        """The texts of `run`'s tokens, found quicker: what a query needs."""
        mapped = self._before_cutting(text).text
        cuts = self.tokenizer.cut(codes_of(mapped), np.array([0, len(mapped)], np.int64))
        stretches = zip(cuts.starts.tolist(), cuts.ends.tolist(), strict=True)
        return [token.text for start, end in stretches for token in self._outcome(mapped[start:end])]

    def trace(self, text: str) -> list[StageTrace]:
        """What every stage makes of one text, in order; the last one's tokens are those of `run`."""
        traces: list[StageTrace] = []
        mapped = MappedText(text)
        for call, stage in zip(self._calls_of(Kind.TEXT), self.text_stages, strict=True):
            rewritten = stage(mapped)
            changed = rewritten.text != mapped.text
            traces.append(StageTrace(str(call), Kind.TEXT, rewritten.text, (), (), (), changed))
            mapped = rewritten
        tokens = tuple(self._cut(mapped))
        cutting = str(self._calls_of(Kind.TOKENIZER)[0])
        traces.append(StageTrace(cutting, Kind.TOKENIZER, None, tokens, (), (), changed=True))
        for call, stage in zip(self._calls_of(Kind.TOKEN), self.token_stages, strict=True):
            made = [(new, parent) for parent, token in enumerate(tokens) for new in stage(token)]
            after = tuple(new for new, _ in made)
            parents = tuple(parent for _, parent in made)
            dropped = tuple(sorted(set(range(len(tokens))).difference(parents)))
            traces.append(StageTrace(str(call), Kind.TOKEN, None, after, parents, dropped, after != tokens))
            tokens = after
        return traces

    def read(self, texts: Sequence[str]) -> TokenTable:
        """The tokens of many texts as columns; the same tokens that `run` gives text by text."""
        mapped = [self._before_cutting(text) for text in texts]
        whole = "".join(text.text for text in mapped)
        codes = codes_of(whole)
        firsts = text_firsts_of([text.text for text in mapped])
        cuts = self.tokenizer.cut(codes, firsts)
        ids = np.empty(cuts.starts.size, np.int32)
        first_seen = np.empty(cuts.starts.size, np.int32)
        count = distinct_stretches(codes, cuts.starts, cuts.ends, ids, first_seen)
        seen_at = first_seen[:count]
        surfaces = [
            whole[start:end]
            for start, end in zip(cuts.starts[seen_at].tolist(), cuts.ends[seen_at].tolist(), strict=True)
        ]
        starts, ends = _origins(mapped, firsts, cuts.text_ids, cuts.starts, cuts.ends)
        positions = _positions(cuts.text_ids)
        return self._with_token_stages(surfaces, ids, cuts.text_ids, starts, ends, positions)

    def _calls_of(self, kind: Kind) -> list[StageCall]:
        return [call for call in self.calls if kind_of(call.name) is kind]

    def _before_cutting(self, text: str) -> MappedText:
        mapped = MappedText(text)
        for stage in self.text_stages:
            mapped = stage(mapped)
        return mapped

    def _cut(self, mapped: MappedText) -> list[Token]:
        cuts = self.tokenizer.cut(codes_of(mapped.text), text_firsts_of([mapped.text]))
        return [
            Token(mapped.text[start:end], *mapped.origin(start, end), position)
            for position, (start, end) in enumerate(zip(cuts.starts.tolist(), cuts.ends.tolist(), strict=True))
        ]

    def _outcome(self, surface: str) -> tuple[Token, ...]:
        """What the token stages make of a token text, its own position and start counted as 0."""
        remembered: dict[str, tuple[Token, ...]] = self._remembered  # pyright: ignore[reportAttributeAccessIssue]
        outcome = remembered.get(surface)
        if outcome is None:
            tokens: Iterable[Token] = (Token(surface, 0, 0, 0),)
            for stage in self.token_stages:
                tokens = [new for token in tokens for new in stage(token)]
            outcome = tuple(tokens)
            if len(remembered) >= _MOST_REMEMBERED:
                remembered.clear()
            remembered[surface] = outcome
        return outcome

    def _with_token_stages(
        self,
        surfaces: list[str],
        ids: IntArray,
        text_ids: IntArray,
        starts: IntArray,
        ends: IntArray,
        positions: IntArray,
    ) -> TokenTable:
        """Every token replaced by the outcome of its surface, found once per distinct surface."""
        outcomes = [self._outcome(surface) for surface in surfaces]
        made = [token for outcome in outcomes for token in outcome]
        texts = [token.text for token in made]
        term_numbers = {text: number for number, text in enumerate(dict.fromkeys(texts))}
        outcome_terms = np.array([term_numbers[text] for text in texts], np.int32)
        outcome_spans = np.array([token.span for token in made], np.int32)
        outcome_firsts = np.cumsum([0, *map(len, outcomes)], dtype=np.int64)
        makes = np.diff(outcome_firsts)[ids] if ids.size else np.zeros(0, np.int64)
        source = np.repeat(np.arange(ids.size), makes)
        # For the j-th token made of one source: the j-th place in its surface's outcome.
        nth = np.arange(source.size) - np.repeat(np.cumsum(makes) - makes, makes)
        place = outcome_firsts[ids[source]] + nth
        return TokenTable(
            list(term_numbers),
            text_ids[source],
            outcome_terms[place],
            starts[source],
            ends[source],
            positions[source],
            outcome_spans[place],
        )


def chain_of(notation: str) -> Chain:
    """The chain that a notation describes. Raises ChainError with the place of what is wrong."""
    calls = parse(notation)
    for call in calls:
        bind(call)
    check_order(calls, place_of(notation, len(notation.rstrip()), len(notation.rstrip())))
    return Chain(calls)


def _positions(text_ids: IntArray) -> IntArray:
    """0, 1, 2 … within each text."""
    first_of_text = np.searchsorted(text_ids, text_ids, side="left")
    return (np.arange(text_ids.size) - first_of_text).astype(np.int32)


def _origins(
    mapped: Sequence[MappedText], firsts: IntArray, text_ids: IntArray, starts: IntArray, ends: IntArray
) -> tuple[IntArray, IntArray]:
    """Stretches of the texts laid end to end as stretches of each original value."""
    base = firsts[text_ids]
    own_starts, own_ends = (starts - base).astype(np.int32), (ends - base).astype(np.int32)
    for text_id, text in enumerate(mapped):
        if text.origin_starts is not None and text.origin_ends is not None:
            first, last = np.searchsorted(text_ids, [text_id, text_id + 1])
            own_ends[first:last] = text.origin_ends[own_ends[first:last] - 1]
            own_starts[first:last] = text.origin_starts[own_starts[first:last]]
    return own_starts, own_ends
