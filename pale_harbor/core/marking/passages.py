"""The best passages of a text: whole sentences that hold the query's rarest words together.

Source: A. Tombros and M. Sanderson, "Advantages of query biased summaries in information retrieval", 1998: a passage
counts the square of the query's words that it holds, over all of them. Here each word counts by how rare it is:

    score = (Σ idf of the words in the passage)² / Σ idf of all words of the query
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import regex

from pale_harbor.core.stretch import Stretch
from pale_harbor.core.text.sentence_boundaries import sentence_bounds

_WORD = regex.compile(r"\S+\s*")
_GRAPHEME = regex.compile(r"\X")


@dataclass(frozen=True, slots=True)
class MarkedWord:
    """Letters that a query matched, in code points. bits: the words of the query that match there."""

    start: int
    end: int
    bits: int


@dataclass(frozen=True, slots=True)
class TextPassage:
    """A stretch of a text in code points. score: as above; share: idf of its words over that of all words, 0 to 1."""

    start: int
    end: int
    score: float
    share: float


def best_passages(
    text: str, marked: Sequence[MarkedWord], weights: Mapping[int, float], length: int, most: int
) -> list[TextPassage]:
    """The best passages of so many code points each, in the order of the text; those that touch are one.

    marked: in order, each counted where it begins; weights: idf by word of the query. A passage is of whole sentences;
    of one that is longer it is of whole words, and never cuts a letter from its accents. Of equal ones the one with
    more marks, then the first. Where nothing is marked it is the beginning of the text.

    >>> note = "Fog came. It stayed for days. The bell rang in the fog."
    >>> marked = [MarkedWord(0, 3, 1), MarkedWord(34, 38, 2), MarkedWord(51, 54, 1)]
    >>> best_passages(note, marked, {0: 1.0, 1: 2.0}, 30, 1)
    [TextPassage(start=30, end=55, score=3.0, share=1.0)]
    """
    pieces = _pieces(text, length)
    if not pieces or most < 1:
        return []
    total = sum(weights.values())
    windows = _windows(pieces, marked, length)
    if not windows:
        return [TextPassage(*_trimmed(text, *_grown(pieces, 0, length)), score=0.0, share=0.0)]
    scored: list[tuple[float, int, Stretch]] = []
    for start, end in windows:
        inside = [one for one in marked if start <= one.start < end]
        held = _weight_of(inside, weights)
        scored.append((held * held / total if total else 0.0, len(inside), (start, end)))
    scored.sort(key=lambda one: (-one[0], -one[1], one[2]))
    chosen: list[tuple[float, Stretch]] = []
    for score, _, (start, end) in scored:
        if len(chosen) == most:
            break
        if all(end <= other[0] or other[1] <= start for _, other in chosen):
            chosen.append((score, (start, end)))
    return _joined(text, sorted(chosen, key=lambda one: one[1]), marked, weights, total)


def _pieces(text: str, length: int) -> list[Stretch]:
    """Sentences one after the other; the words of those that are longer than a passage, and letters of such words."""
    found: list[Stretch] = []
    for start, end in pairwise(sentence_bounds(text)):
        if end - start <= length:
            found.append((start, end))
            continue
        for word in _WORD.finditer(text, start, end):
            if word.end() - word.start() <= length:
                found.append(word.span())
            else:
                found += [sign.span() for sign in _GRAPHEME.finditer(text, *word.span())]
    return [piece for piece in found if text[slice(*piece)].strip()]


def _windows(pieces: Sequence[Stretch], marked: Sequence[MarkedWord], length: int) -> list[Stretch]:
    """From each piece in which a mark begins on as many pieces as a passage has room for."""
    found: dict[Stretch, None] = {}
    at = 0
    for one in marked:
        while at < len(pieces) - 1 and pieces[at][1] <= one.start:
            at += 1
        found[_grown(pieces, at, length)] = None
    return list(found)


def _grown(pieces: Sequence[Stretch], first: int, length: int) -> Stretch:
    """A piece with those that follow it as far as there is room, and then with those before it."""
    start, end = pieces[first]
    last = first + 1
    while last < len(pieces) and pieces[last][1] - start <= length:
        end = pieces[last][1]
        last += 1
    while first > 0 and last == len(pieces) and end - pieces[first - 1][0] <= length:
        first -= 1
        start = pieces[first][0]
    return start, end


def _joined(
    text: str,
    chosen: Sequence[tuple[float, Stretch]],
    marked: Sequence[MarkedWord],
    weights: Mapping[int, float],
    total: float,
) -> list[TextPassage]:
    stretches: list[list[int]] = []
    for _, (start, end) in chosen:
        if stretches and not text[stretches[-1][1] : start].strip():
            stretches[-1][1] = end
        else:
            stretches.append([start, end])
    found: list[TextPassage] = []
    for start, end in stretches:
        held = _weight_of([one for one in marked if start <= one.start < end], weights)
        first, last = _trimmed(text, start, end)
        found.append(TextPassage(first, last, held * held / total if total else 0.0, held / total if total else 0.0))
    return found


def _weight_of(marked: Sequence[MarkedWord], weights: Mapping[int, float]) -> float:
    bits = 0
    for one in marked:
        bits |= one.bits
    return sum(weight for bit, weight in weights.items() if bits >> bit & 1)


def _trimmed(text: str, start: int, end: int) -> Stretch:
    """Without blanks at its ends."""
    own = text[start:end]
    return start + len(own) - len(own.lstrip()), start + len(own.rstrip())
