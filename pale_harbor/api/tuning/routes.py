"""Tunings over HTTP: begun, followed, stopped, forgotten; and which knobs there are to turn."""

from pydantic import BaseModel

from pale_harbor.api.judging.judged import SetName
from pale_harbor.api.models import RankerChoiceModel
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.formats.tuning_plan import RankerPlan, TuningPlan
from pale_harbor.formats.tuning_report import tuning_page
from pale_harbor.work.growing.estimating import GrowthTold, begin_growth, end_growth, growths_told
from pale_harbor.work.tuning import tuning
from pale_harbor.work.tuning.ledger import LedgerTold, begin_ledger, end_ledger, ledgers_told
from pale_harbor.work.tuning.offering import KnobOffer, offered_knobs
from pale_harbor.work.tuning.remedies import RemediesTold, begin_remedies, end_remedies, remedies_told
from pale_harbor.work.tuning.simulating import FirstTuningTold, begin_first_tuning, first_tunings_told
from pale_harbor.work.tuning.tuning import TuningTold

router = guarded_router()


class TuningPage(BaseModel):
    """The report as Markdown; empty while there is none."""

    markdown: str


@router.post("/collections/{collection}/tuning-knobs")
def knobs_to_tune(collection: str, request: RankerChoiceModel, bench: Bench) -> list[KnobOffer]:
    """The knobs that a ranker is usually tuned by, each with its values as they are written."""
    return offered_knobs(bench, collection, choice_of(request))


@router.post("/collections/{collection}/judged/{name}/tunings")
def begin_tuning(collection: str, name: SetName, plan: TuningPlan, bench: Bench) -> TuningTold:
    """Begins to tune a ranker, kept or draft, on the open queries of a judged set."""
    return tuning.told(bench, collection, tuning.begin(bench, collection, name, plan, by_server=True))


@router.get("/collections/{collection}/tunings")
def all_tunings(collection: str, bench: Bench) -> list[TuningTold]:
    """A collection's tunings, the newest first, without their reports."""
    return tuning.all_told(bench, collection)


@router.get("/collections/{collection}/tunings/{number}")
def one_tuning(collection: str, number: int, bench: Bench) -> TuningTold:
    """A tuning with its report, or how far it is."""
    return tuning.told(bench, collection, number)


@router.get("/collections/{collection}/tunings/{number}/page")
def tuning_as_page(collection: str, number: int, bench: Bench) -> TuningPage:
    """A tuning's report as Markdown."""
    report = tuning.told(bench, collection, number).report
    return TuningPage(markdown="" if report is None else tuning_page(report))


@router.post("/collections/{collection}/tunings/{number}/stop")
def stop_tuning(collection: str, number: int, bench: Bench) -> TuningTold:
    """Ends a tuning with what it has found."""
    return tuning.stop(bench, collection, number)


@router.delete("/collections/{collection}/tunings/{number}", status_code=204)
def forget_tuning(collection: str, number: int, bench: Bench) -> None:
    """Ends a tuning, or forgets one that ended."""
    tuning.forget(bench, collection, number)


@router.post("/collections/{collection}/judged/{name}/ledgers")
def begin_ledger_of(collection: str, name: SetName, plan: RankerPlan, bench: Bench) -> list[LedgerTold]:
    """Begins to tell what each part of a ranker earns on the open queries of a judged set."""
    begin_ledger(bench, collection, name, plan, by_server=True)
    return ledgers_told(bench, collection)


@router.get("/collections/{collection}/ledgers")
def all_ledgers(collection: str, bench: Bench) -> list[LedgerTold]:
    """A collection's ledgers, the newest first, each as far as it is."""
    return ledgers_told(bench, collection)


@router.post("/collections/{collection}/ledgers/{number}/cancel")
def cancel_ledger(collection: str, number: int, bench: Bench) -> list[LedgerTold]:
    """Ends a ledger; what it has told so far stays."""
    end_ledger(bench, collection, number)
    return ledgers_told(bench, collection)


@router.post("/collections/{collection}/judged/{name}/growth")
def begin_growth_of(collection: str, name: SetName, plan: RankerPlan, bench: Bench) -> list[GrowthTold]:
    """Begins to estimate what the collection would be at 10, 100 and 1,000 times its records."""
    begin_growth(bench, collection, name, plan, by_server=True)
    return growths_told(bench, collection)


@router.get("/collections/{collection}/growth")
def all_growths(collection: str, bench: Bench) -> list[GrowthTold]:
    """A collection's estimates of its growth, the newest first."""
    return growths_told(bench, collection)


@router.post("/collections/{collection}/growth/{number}/cancel")
def cancel_growth(collection: str, number: int, bench: Bench) -> list[GrowthTold]:
    """Ends an estimate; nothing of it is kept."""
    end_growth(bench, collection, number)
    return growths_told(bench, collection)


@router.post("/collections/{collection}/judged/{name}/remedies")
def begin_remedies_of(collection: str, name: SetName, plan: RankerPlan, bench: Bench) -> list[RemediesTold]:
    """Begins to look for what would help a ranker on the open queries of a judged set."""
    begin_remedies(bench, collection, name, plan, by_server=True)
    return remedies_told(bench, collection)


@router.get("/collections/{collection}/remedies")
def all_remedies(collection: str, bench: Bench) -> list[RemediesTold]:
    """What was found to help a collection's rankers, the newest first, each as far as it is."""
    return remedies_told(bench, collection)


@router.post("/collections/{collection}/remedies/{number}/cancel")
def cancel_remedies(collection: str, number: int, bench: Bench) -> list[RemediesTold]:
    """Ends the looking; what was found so far stays."""
    end_remedies(bench, collection, number)
    return remedies_told(bench, collection)


@router.post("/collections/{collection}/first-tuning")
def begin_tuning_of_first_ranker(collection: str, bench: Bench) -> TuningTold:
    """Makes queries up from the records, as a judged set, and begins to tune the ranker that the records came with."""
    return tuning.told(bench, collection, begin_first_tuning(bench, collection, by_server=True))


@router.get("/collections/{collection}/first-tuning")
def first_tunings(collection: str, bench: Bench) -> list[FirstTuningTold]:
    """The first tunings that imports asked for, the newest first."""
    return first_tunings_told(bench, collection)
