"""The way of columns through token stages: many texts at once, each distinct token worked on once."""

from collections.abc import Sequence
from itertools import chain, islice
from typing import Final, Protocol, cast

import numpy as np

from pale_harbor.core.arrays import IntArray, distinct
from pale_harbor.core.text.binding import BoundStage
from pale_harbor.core.text.errors import TooManyTokens
from pale_harbor.core.text.kinds import Made, QuickSequenceStage, SequenceStage, TokenStage, is_quick, is_sequence
from pale_harbor.core.text.tokens import Token, TokenTable, prototype, told

# Of tokens that are read for an index, and of words of queries, which a chain that lasts hears for years.
_MOST_REMEMBERED: Final = 1_000_000
MOST_OF_QUERIES: Final = 5_000
# Of one text by one stage: so many, and so many more for each token it had before.
MOST_TOKENS: Final = 500_000
_MOST_OF_ONE: Final = 100


class Step(Protocol):
    """One or more token stages that are gone through together."""

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        """The new table, and for each of its rows the row it came from."""
        ...


class EachToken:
    """Token stages one after another; what they make of a token is remembered."""

    def __init__(self, stages: Sequence[BoundStage]) -> None:
        self.stages = tuple(stages)
        self._remembered: dict[Token | str, tuple[Token, ...]] = {}

    def outcome(self, token: Token) -> tuple[Token, ...]:
        """What becomes of a token without a place, as `prototype` gives it."""
        # Nearly all tokens are told apart by their text, which is found far quicker than a whole token.
        name = token.text if token.exact and not token.kept else token
        outcome = self._remembered.get(name)
        if outcome is None:
            outcome = (token,)
            for bound in self.stages:
                outcome = each(bound, outcome)
            if len(self._remembered) >= _MOST_REMEMBERED:
                self._remembered.clear()
            self._remembered[name] = outcome
        return outcome

    def text_outcome(self, text: str) -> tuple[Token, ...]:
        """What becomes of a token that is its text and nothing else."""
        outcome = self._remembered.get(text)
        if outcome is not None:
            return outcome
        if len(self._remembered) >= MOST_OF_QUERIES:
            self._remembered.clear()
        return self.outcome(Token(text, 0, len(text), 0))

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        outcomes = [self.outcome(token) for token in table.distinct]
        made = [token for outcome in outcomes for token in outcome]
        distinct, term_numbers = _number(made)
        first_letters = np.array([token.start for token in made], np.int32)
        # Counted from the token's own start; -1 where the whole stretch stays.
        last_letters = np.array(
            [
                token.end if before.exact else -1
                for before, outcome in zip(table.distinct, outcomes, strict=True)
                for token in outcome
            ],
            np.int32,
        )
        firsts = np.cumsum([0, *map(len, outcomes)], dtype=np.int64)
        ids = table.term_ids
        makes = np.diff(firsts)[ids] if ids.size else np.zeros(0, np.int64)
        source = np.repeat(np.arange(ids.size), makes)
        # For the j-th token made of one source: the j-th place in its outcome.
        nth = np.arange(source.size) - np.repeat(np.cumsum(makes) - makes, makes)
        place = firsts[ids[source]] + nth
        starts = table.starts[source]
        read = TokenTable(
            distinct,
            table.text_ids[source],
            term_numbers[place],
            starts + first_letters[place],
            np.where(last_letters[place] < 0, table.ends[source], starts + last_letters[place]).astype(np.int32),
            table.positions[source],
            table.spans[source],
        )
        return read, source


def _number(tokens: Sequence[Token]) -> tuple[list[Token], IntArray]:
    """The distinct ones among tokens, without their places, and which of them each is."""
    numbers: dict[Token | str, int] = {}
    distinct: list[Token] = []
    found: list[int] = []
    for token in tokens:
        name = told(token)
        number = numbers.get(name)
        if number is None:
            number = numbers[name] = len(distinct)
            distinct.append(prototype(token))
        found.append(number)
    return distinct, np.array(found, np.int32)


class Together:
    """One sequence stage; texts that it does not concern pass it by."""

    def __init__(self, bound: BoundStage) -> None:
        self.bound = bound

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        stage = cast(SequenceStage, self.bound.stage)
        quick = cast(QuickSequenceStage, stage) if is_quick(type(stage)) else None
        concerned = self._texts_concerned(table) if quick is None else quick.plain_texts(table)
        if concerned.size == 0:
            return quick.read(table) if quick is not None else (table, np.arange(table.term_ids.size))
        others, rows = table.rows(np.flatnonzero(~np.isin(table.text_ids, concerned)))
        if quick is not None:
            others, own_rows = quick.read(others)
            rows = rows[own_rows]
        return self._with_plainly_read(table, concerned, others, rows)

    def _texts_concerned(self, table: TokenTable) -> IntArray:
        stage = cast(SequenceStage, self.bound.stage)
        concerns = np.array([stage.concerns(token) for token in table.distinct], np.bool_)
        return distinct(table.text_ids[concerns[table.term_ids]]) if concerns.any() else np.zeros(0, np.int32)

    def _with_plainly_read(
        self, table: TokenTable, concerned: IntArray, others: TokenTable, rows: IntArray
    ) -> tuple[TokenTable, IntArray]:
        """The texts that are concerned read one by one, put between the others, which are read already."""
        numbers = {_without_place(token): number for number, token in enumerate(others.distinct)}
        distinct = list(others.distinct)
        columns: list[tuple[int, int, int, int, int, int, int]] = []
        bounds = np.searchsorted(table.text_ids, [concerned, concerned + 1])
        for text_id, first, last in zip(concerned.tolist(), *bounds.tolist(), strict=True):
            for token, parent in together(self.bound, table.tokens_between(first, last)):
                name = _without_place(token)
                number = numbers.get(name)
                if number is None:
                    number = numbers[name] = len(distinct)
                    distinct.append(prototype(token))
                columns.append((text_id, number, token.start, token.end, token.position, token.span, first + parent))
        made = np.array(columns, np.int32).reshape(-1, 7).T
        old = (others.text_ids, others.term_ids, others.starts, others.ends, others.positions, others.spans, rows)
        joined = [np.concatenate([column, new]) for column, new in zip(old, made, strict=True)]
        order = np.argsort(joined[0], kind="stable")
        text_ids, term_ids, starts, ends, positions, spans, source = (column[order] for column in joined)
        return TokenTable(distinct, text_ids, term_ids, starts, ends, positions, spans).compact(), source


def _without_place(token: Token) -> tuple[str, bool, bool]:
    """What tells distinct tokens apart; found quicker than the token itself."""
    return token.text, token.kept, token.exact


def each(bound: BoundStage, tokens: Sequence[Token]) -> tuple[Token, ...]:
    """What a stage makes of tokens one by one; kept tokens pass it by. Raises TooManyTokens."""
    stage = cast(TokenStage, bound.stage)
    parts = ((token,) if token.kept else stage(token) for token in tokens)
    made = tuple(islice(chain.from_iterable(parts), MOST_TOKENS + 1))
    if len(made) > MOST_TOKENS:
        raise TooManyTokens(bound.call.name, bound.call.place, MOST_TOKENS)
    return made


def together(bound: BoundStage, tokens: Sequence[Token]) -> list[Made]:
    """What a sequence stage makes of a text's tokens. Raises TooManyTokens."""
    most = MOST_TOKENS + _MOST_OF_ONE * len(tokens)
    made = list(islice(cast(SequenceStage, bound.stage)(tokens), most + 1))
    if len(made) > most:
        raise TooManyTokens(bound.call.name, bound.call.place, most)
    return made


def made_by(bound: BoundStage, tokens: Sequence[Token]) -> list[Made]:
    """What a token stage of either kind makes of a text's tokens, each with where it came from: the plain way.

    Raises TooManyTokens.
    """
    if is_sequence(type(bound.stage)):
        return together(bound, tokens)
    made = [(new, parent) for parent, token in enumerate(tokens) for new in each(bound, (token,))]
    most = MOST_TOKENS + _MOST_OF_ONE * len(tokens)
    if len(made) > most:
        raise TooManyTokens(bound.call.name, bound.call.place, most)
    return made


def steps_of(stages: Sequence[BoundStage]) -> tuple[Step, ...]:
    """Token stages gathered into as few steps as can be."""
    steps: list[Step] = []
    run: list[BoundStage] = []
    for bound in stages:
        if is_sequence(type(bound.stage)):
            if run:
                steps.append(EachToken(run))
                run = []
            steps.append(Together(bound))
        else:
            run.append(bound)
    if run:
        steps.append(EachToken(run))
    return tuple(steps)
