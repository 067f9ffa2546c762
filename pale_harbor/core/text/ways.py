"""Which tokens of a text stand beside what was said: the ways of saying it otherwise that synonyms add."""

from collections.abc import Sequence
from dataclasses import dataclass

from pale_harbor.core.text.chain import Chain, StageTrace
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.stages.synonyms import SynonymStage
from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Way:
    """Another way of saying a stretch of the text.

    start, end: of what it says otherwise, in code points. words: for each of its words the numbers of the tokens that
    the chain's further stages made of it; a word of which nothing is left has none. instead: whether it took the place
    of what was said.
    """

    start: int
    end: int
    words: tuple[tuple[int, ...], ...]
    instead: bool


def ways_of(chain: Chain, text: str) -> list[Way]:
    """The ways that the chain's synonyms add to a text; numbers are those of `chain.run(text)`'s tokens."""
    stages = chain.bound(StageKind.TOKEN)
    if not any(isinstance(bound.stage, SynonymStage) for bound in stages):
        return []
    traces = chain.trace(text)[-len(stages) - 1 :]
    added: list[tuple[int, int, int, bool]] = []
    # For each token the way and the word of it that it belongs to.
    belongs: list[tuple[int, int] | None] = [None] * len(traces[0].tokens)
    before = traces[0].tokens
    for bound, trace in zip(stages, traces[1:], strict=True):
        inherited = [belongs[parent] for parent in trace.parents]
        if isinstance(bound.stage, SynonymStage):
            for numbers in _added_ways(before, trace, bound.stage.beside):
                # What stands beside a word of a way is one more way of saying that word.
                if inherited[numbers[0]] is None:
                    first = trace.tokens[numbers[0]]
                    for word, number in enumerate(numbers):
                        inherited[number] = len(added), word
                    added.append((first.start, first.end, len(numbers), not bound.stage.beside))
        belongs, before = inherited, trace.tokens
    return [
        Way(
            start,
            end,
            tuple(tuple(n for n, own in enumerate(belongs) if own == (way, word)) for word in range(words)),
            instead,
        )
        for way, (start, end, words, instead) in enumerate(added)
    ]


def _added_ways(before: Sequence[Token], trace: StageTrace, beside: bool) -> list[list[int]]:
    """The ways that one stage added, each as the numbers of its tokens, in the order of its words."""
    by_parent: dict[int, list[int]] = {}
    for number, parent in enumerate(trace.parents):
        by_parent.setdefault(parent, []).append(number)
    ways: list[list[int]] = []
    for parent, numbers in by_parent.items():
        first = trace.tokens[numbers[0]]
        said = before[parent]
        # The token itself comes before the ways that begin with it; where ways take its place it is gone.
        stayed = beside or (len(numbers) == 1 and (first.text, first.end) == (said.text, said.end))
        new = numbers[1:] if stayed else numbers
        at = {trace.tokens[number].position: number for number in new}
        for start in (number for number in new if trace.tokens[number].position == first.position):
            way = [start]
            # Only one word of a way begins where another of it ends.
            while (following := at.get(trace.tokens[way[-1]].position + trace.tokens[way[-1]].span)) is not None:
                way.append(following)
            ways.append(way)
    return ways
