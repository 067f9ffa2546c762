"""The token stage `word_grams`."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from pale_harbor.core.arrays import IntArray, distinct
from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.parameters import Between
from pale_harbor.core.text.stages.grams import check_lengths
from pale_harbor.core.text.tokens import Token, TokenTable

GramSize = Annotated[int, Between(2, 8)]


@dataclass(frozen=True, slots=True)
class WordGrams:
    """Neighbouring tokens joined to one, so many at a time; none reaches across a dropped token."""

    min: GramSize = 2
    max: GramSize = 2
    join: str = " "
    single: bool = True
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "word_grams(2, 2): fog bell rings gives fog, fog bell, bell, bell rings and rings"

    def __post_init__(self) -> None:
        check_lengths(self.min, self.max)

    def concerns(self, token: Token) -> bool:
        return True

    def __call__(self, tokens: Sequence[Token]) -> Iterator[Made]:
        at_position: dict[int, list[int]] = {}
        for number, token in enumerate(tokens):
            at_position.setdefault(token.position, []).append(number)
        for number, token in enumerate(tokens):
            if self.single or token.kept:
                yield token, number
            for path in self._paths(tokens, at_position, (number,)):
                yield _join([tokens[step] for step in path], self.join), number

    def _paths(
        self, tokens: Sequence[Token], at_position: dict[int, list[int]], path: tuple[int, ...]
    ) -> Iterator[tuple[int, ...]]:
        """Sequences of neighbours that begin with a path, shorter ones first along each way."""
        if len(path) >= self.min:
            yield path
        if len(path) < self.max:
            last = tokens[path[-1]]
            for following in at_position.get(last.position + last.span, ()):
                yield from self._paths(tokens, at_position, (*path, following))

    def plain_texts(self, table: TokenTable) -> IntArray:
        # Where synonyms stand beside each other there are several ways on, which columns do not know.
        same_text = table.text_ids[1:] == table.text_ids[:-1]
        beside = np.append(same_text & (table.positions[1:] <= table.positions[:-1]), False)
        special = np.array([token.kept for token in table.distinct], np.bool_)
        odd = (table.spans != 1) | beside[: table.spans.size]
        if special.any():
            odd |= special[table.term_ids]
        return distinct(table.text_ids[odd])

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        text_ids, positions = table.text_ids, table.positions
        if text_ids.size == 0:
            return table, np.zeros(0, np.int64)
        same_text = text_ids[1:] == text_ids[:-1]
        rows = np.arange(text_ids.size)
        follows = np.append(same_text & (positions[1:] == positions[:-1] + 1), False)
        sizes, starts_at = [np.ones(rows.size, np.int64)] * self.single, [rows] * self.single
        names: list[str] = list(table.terms)
        term_ids = [table.term_ids.astype(np.int64)] * self.single
        heads, head_ids = rows, table.term_ids.astype(np.int64)
        for size in range(2, self.max + 1):
            # A gram of n words is one of n − 1 and the word after it.
            goes_on = follows[heads + size - 2]
            heads, head_ids = heads[goes_on], head_ids[goes_on]
            pairs = head_ids * len(table.distinct) + table.term_ids[heads + size - 1]
            distinct, which = np.unique(pairs, return_inverse=True)
            before, after = np.divmod(distinct, max(len(table.distinct), 1))
            first = len(names)
            names += [
                names[one] + self.join + table.distinct[other].text
                for one, other in zip(before.tolist(), after.tolist(), strict=True)
            ]
            head_ids = first + which.astype(np.int64)
            if size >= self.min:
                sizes.append(np.full(heads.size, size, np.int64))
                starts_at.append(heads)
                term_ids.append(head_ids)
        empty = np.zeros(0, np.int64)
        size, source, ids = (np.concatenate([empty, *parts]) for parts in (sizes, starts_at, term_ids))
        order = np.lexsort((size, source))
        size, source, ids = size[order], source[order], ids[order]
        used, numbers = np.unique(ids, return_inverse=True)
        known = len(table.distinct)
        distinct_tokens = [
            table.distinct[one] if one < known else Token(names[one], 0, 0, 0, exact=False) for one in used.tolist()
        ]
        grams = TokenTable(
            distinct_tokens,
            text_ids[source],
            numbers.astype(np.int32),
            table.starts[source],
            table.ends[source + size - 1],
            positions[source],
            size.astype(np.int32),
        )
        return grams, source


def _join(tokens: Sequence[Token], join: str) -> Token:
    first, last = tokens[0], tokens[-1]
    return Token(
        join.join([token.text for token in tokens]),
        first.start,
        max([token.end for token in tokens]),
        first.position,
        last.position + last.span - first.position,
        exact=False,
    )
