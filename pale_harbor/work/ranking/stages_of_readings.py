"""The stages of a ranker's chains, each with its chain as it would be without it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text import Chain, ChainChoice
from pale_harbor.core.text.errors import ChainError
from pale_harbor.core.text.notation import format_notation, parse
from pale_harbor.errors import BadInput
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.work.chains.saved_parts import SavedParts
from pale_harbor.work.workbench import RankerChoice, Workbench


@dataclass(frozen=True, slots=True)
class StageInReading:
    """A stage. path: where its chain stands in the document; rest: the chain without it."""

    path: tuple[str | int, ...]
    stage: str
    rest: str

    @property
    def where(self) -> str:
        """Which of the reading's chains, after its name; nothing where it has but one."""
        _, _, key, *language = self.path
        return "".join(f", {one}" for one in (*(["query"] if key == "query_chain" else []), *language))


@dataclass(frozen=True, slots=True)
class StageTold:
    """A stage of a reading. path: where its chain stands in the document; where: which of the reading's chains that is,
    nothing where there is but one; rest: the chain without it, None where there is none."""

    path: tuple[str | int, ...]
    where: str
    stage: str
    rest: str | None


def stages_of(whole: Mapping[str, Any], number: int, ranker: Ranker) -> Iterator[StageInReading]:
    """The stages of a reading's chains. whole: the document; ranker: the one that it describes.

    What the record chain reads the query chain reads too, unless it is another one.
    """
    reading, own = whole["readings"][number], ranker.readings[number]
    for key, choice in (("chain", own.chain), ("query_chain", own.query_chain)):
        if reading[key] is None:
            continue
        for language, chain in _chains_of(choice):
            calls = parse(chain.notation)
            for at, call in enumerate(calls):
                if rest := format_notation((*calls[:at], *calls[at + 1 :])):
                    yield StageInReading(("readings", number, key, *language), str(call), rest)


def _chains_of(choice: ChainChoice) -> Iterator[tuple[tuple[str, ...], Chain]]:
    if isinstance(choice, Chain):
        yield (), choice
        return
    for language, chain in choice.chains:
        yield (language,), chain
    yield ("else",), choice.otherwise


def stages_told(bench: Workbench, collection_name: str, choice: RankerChoice) -> list[StageTold]:
    """The stages of all readings of a ranker. Raises NotFound, BadInput."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
    chosen = bench.choose(collection, choice)
    whole = chosen.document.whole
    with bench.pool.connection() as connection:
        saved = SavedParts(connection, collection.id)

        def can_be(notation: str) -> bool:
            try:
                saved.chain(notation)
            except (BadInput, ChainError):
                return False
            return True

        return [
            StageTold(one.path, one.where.removeprefix(", "), one.stage, one.rest if can_be(one.rest) else None)
            for number in range(len(whole["readings"]))
            for one in stages_of(whole, number, chosen.ranker)
        ]
