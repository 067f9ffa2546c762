"""Where the terms of a query meet the terms of a record, and why those left over met nobody."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Final
from unicodedata import normalize

from pale_harbor.core.text.outer_signs import without_outer_signs
from pale_harbor.core.text.stages.accents import Accents
from pale_harbor.core.text.stages.latin import latin
from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Mooring:
    """One query token and the record tokens with the same text.

    query_token: index among the query's tokens; record_tokens: indices among the record's.
    reason: a plain sentence where it met nobody, else None.
    bare: what met where the token as it is meets nobody here: the token without the punctuation around it. A query
    is looked up so where no record has it as typed.
    """

    query_token: int
    record_tokens: tuple[int, ...]
    reason: str | None
    bare: str | None = None


def moorings(record_tokens: Sequence[Token], query_tokens: Sequence[Token]) -> list[Mooring]:
    """For each query token the record tokens it meets.

    >>> tokens = [Token("harbor", 0, 7, 0), Token("light", 8, 14, 1)]
    >>> moorings(tokens, [Token("light", 0, 5, 0)])[0].record_tokens
    (1,)
    """
    by_text: dict[str, list[int]] = {}
    for index, token in enumerate(record_tokens):
        by_text.setdefault(token.text, []).append(index)
    return [_mooring(index, token.text, by_text) for index, token in enumerate(query_tokens)]


def _mooring(index: int, term: str, by_text: Mapping[str, list[int]]) -> Mooring:
    bare = without_outer_signs(term)
    if term in by_text:
        return Mooring(index, tuple(by_text[term]), None)
    if bare in by_text:
        return Mooring(index, tuple(by_text[bare]), None, bare)
    return Mooring(index, (), _reason(term, list(by_text)))


def _reason(term: str, record_terms: list[str]) -> str:
    if not record_terms:
        return "The record's text gives no terms at all."
    for fold, difference in _FOLDS:
        for other in record_terms:
            if fold(other) == fold(term):
                return f"“{other}” in the record differs only in {difference}."
    alike = [other for other in record_terms if other.startswith(term) or term.startswith(other)]
    if alike:
        nearest = min(alike, key=lambda other: abs(len(other) - len(term)))
        return f"The record has “{nearest}”, which begins alike; no stage brings the two together."
    near = get_close_matches(term, record_terms, n=1, cutoff=0.7)
    if near:
        return f"The nearest term of the record is “{near[0]}”."
    return "No term of the record comes near it."


def _one_form(text: str) -> str:
    return normalize("NFKC", text)


def _bare(text: str) -> str:
    """Without capitals and accents, in one form."""
    (token,) = Accents()(Token(_one_form(text).lower(), 0, 0, 0))
    return token.text


def _letters_only(text: str) -> str:
    return "".join(character for character in _bare(text) if character.isalnum())


def _in_latin(text: str) -> str:
    return _letters_only(latin(text))


# From the smallest difference to the greatest: the first fold that brings two terms together names it.
_FOLDS: Final = (
    (str.lower, "capitals"),
    (_one_form, "the form of its characters, which nfkc makes one"),
    (_bare, "accents or capitals"),
    (_letters_only, "punctuation"),
    (_in_latin, "its script, which latin makes one"),
)
