"""The knobs that a ranker is usually tuned by, as they are offered to whoever tunes."""

from dataclasses import dataclass

from pale_harbor.formats.tuning_plan import written_values
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.tuning.dials import dials_of
from pale_harbor.work.tuning.reporting import knob_name
from pale_harbor.work.workbench import RankerChoice, Workbench


@dataclass(frozen=True, slots=True)
class KnobOffer:
    """A knob. place: in the document, as it is written; values: likewise; standing: as the ranker has it."""

    name: str
    place: str
    values: str
    standing: str


def offered_knobs(bench: Workbench, collection_name: str, choice: RankerChoice) -> list[KnobOffer]:
    """Knobs of a ranker, in the order of its document. Raises NotFound, BadInput where there is none to tune."""

    def work(opened: OpenCollection) -> list[KnobOffer]:
        document = bench.choose(opened.collection, choice).document
        return [
            KnobOffer(
                knob_name(document, dial),
                dial.name,
                written_values(dial.values),
                written_values([dial.values[dial.standing]]),
            )
            for dial in dials_of(document, None)
        ]

    return bench.with_collection(collection_name, work)
