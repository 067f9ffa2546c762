"""The knobs that a ranker can be tuned by, as they are offered to whoever tunes: the usual ones, and those that take
new lists or new indexes."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.knobs import dotted
from pale_harbor.core.tuning.dials import Dial
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.tuning_plan import written_values
from pale_harbor.work.chains.uses import chains_in_use
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.stages_of_readings import StageTold, stages_told
from pale_harbor.work.tuning.dials import Path, dials_of
from pale_harbor.work.tuning.reporting import knob_name
from pale_harbor.work.workbench import RankerChoice, Workbench

# Each takes an index.
_MOST_CHAINS: Final = 12
_NEEDS: Final = ("any", "all")


@dataclass(frozen=True, slots=True)
class KnobOffer:
    """A knob. place: in the document, as it is written; values: likewise; standing: as the ranker has it; is_usual:
    whether it is tuned where nobody says otherwise."""

    name: str
    place: str
    values: str
    standing: str
    is_usual: bool


def offered_knobs(bench: Workbench, collection_name: str, choice: RankerChoice) -> list[KnobOffer]:
    """Knobs of a ranker: the usual ones in the order of its document, then words needed and chains. Raises NotFound,
    BadInput where there is none to tune."""

    def work(opened: OpenCollection) -> tuple[RankerDocument, list[Dial]]:
        document = bench.choose(opened.collection, choice).document
        return document, dials_of(document, None)

    document, usual = bench.with_collection(collection_name, work)
    stages = stages_told(bench, collection_name, choice)
    saved = [f"@{one.name}" for one in chains_in_use(bench, collection_name)]
    others = [
        Dial(path, (standing, *values), 0, False)
        for path, standing, values in _others(document.whole, stages, saved)
        if values
    ]
    return [
        KnobOffer(
            name=knob_name(document, dial),
            place=dotted(dial.path),
            values=written_values(dial.values),
            standing=written_values([dial.values[dial.standing]]),
            is_usual=number < len(usual),
        )
        for number, dial in enumerate([*usual, *others])
    ]


def _others(
    whole: dict[str, Any], stages: list[StageTold], saved: list[str]
) -> Iterator[tuple[Path, Any, tuple[Any, ...]]]:
    """Places that are not usual, with what stands there and what else could."""
    if whole["need"] in _NEEDS:
        yield ("need",), whole["need"], tuple(one for one in _NEEDS if one != whole["need"])
    places = dict.fromkeys(one.path for one in stages if one.path[2] == "chain")
    for path in places:
        reading: Any = whole["readings"][path[1]]
        standing = reading["chain"] if len(path) == 3 else reading["chain"][path[3]]
        # A query chain of its own would meet the terms of another record chain by chance only.
        if not reading["weight"] or reading["query_chain"] is not None:
            continue
        without = [one.rest for one in stages if one.path == path and one.rest is not None]
        # A bar divides the values that are written.
        found = [one for one in dict.fromkeys([*without, *saved]) if one != standing and "|" not in one]
        yield path, standing, tuple(found[: _MOST_CHAINS - 1]) if "|" not in standing else ()
