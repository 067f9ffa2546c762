"""What visitors asked at the search endpoint, over HTTP."""

from typing import Annotated

from fastapi import Query

from pale_harbor.api.delivery.models import ConfirmingRequest, LogRequest, OfferRequest, SampleRequest
from pale_harbor.api.models import LONGEST_QUERY
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench
from pale_harbor.core.traffic.rewriting import Rewriting
from pale_harbor.store.delivery.past_told import PastOrder
from pale_harbor.work.delivery import confirming, offering, past_told, sampling
from pale_harbor.work.delivery.logs import LogLoaded, load_log
from pale_harbor.work.delivery.past_told import CandidateTold, PastTold, SampledQuery, SuggestedGrade
from pale_harbor.work.judging import tasks
from pale_harbor.work.judging.tasks import TaskStanding
from pale_harbor.work.ranking.past_queries import PastQueriesTold

router = guarded_router()

Days = Annotated[int, Query(ge=1, le=past_told.MOST_DAYS)]
Count = Annotated[int, Query(ge=1, le=past_told.MOST_QUERIES)]


@router.get("/collections/{collection}/delivery/past")
def asked_by_visitors(
    collection: str, bench: Bench, order: PastOrder = "frequent", days: Days = 7, count: Count = 100
) -> PastTold:
    """Queries of so many days, by what is wanted to be known of them, and all that was asked by day."""
    return past_told.past_told(bench, collection, order, days, count)


@router.post("/collections/{collection}/delivery/past/log")
@largest_body(100_000_000)
def load_asked_log(collection: str, request: LogRequest, bench: Bench) -> LogLoaded:
    """Takes in the log of another search; what is loaded twice counts once. Every line that is wrong is told."""
    return load_log(bench, collection, request.text, request.source)


@router.post("/collections/{collection}/delivery/past/offered")
def offer_asked(collection: str, request: OfferRequest, bench: Bench) -> PastQueriesTold:
    """Puts what visitors asked in the place of the past queries, which completions and corrections read."""
    return offering.offer_asked(bench, collection, request.days, request.visitors)


@router.get("/collections/{collection}/delivery/rewritings")
def rewritten_by_visitors(collection: str, bench: Bench, days: Days = 30) -> list[Rewriting]:
    """What visitors typed next where the first words found them nothing that they wanted."""
    return past_told.rewritings_told(bench, collection, days)


@router.get("/collections/{collection}/delivery/suggested-grades")
def grades_by_clicks(
    collection: str,
    bench: Bench,
    days: Days = 30,
    query: Annotated[str | None, Query(max_length=LONGEST_QUERY)] = None,
) -> list[SuggestedGrade]:
    """What clicks say of how good records are for queries, with how sure that is: for judges to confirm."""
    return past_told.suggested_grades(bench, collection, days, query)


@router.post("/collections/{collection}/delivery/suggested-grades/task")
def confirm_clicks(collection: str, request: ConfirmingRequest, bench: Bench) -> list[TaskStanding]:
    """Makes a judging task of what clicks suggest, each judge with a link, which is told this once. Judges do not see
    what is suggested."""
    wanted = confirming.ConfirmingWanted(
        name=request.name,
        judges=tuple(request.judges),
        days=request.days,
        twice=request.twice,
        queries=None if request.queries is None else tuple(request.queries),
        same=tuple(request.same),
    )
    links = confirming.confirming_task(bench, collection, request.judged_set, wanted)
    return tasks.tasks(bench, collection, request.judged_set, links)


@router.get("/collections/{collection}/delivery/candidate")
def candidate_standing(collection: str, bench: Bench) -> CandidateTold | None:
    """How the candidate fares against what is live, by what visitors clicked in lists of both; null where there is
    none."""
    return past_told.candidate_told(bench, collection)


@router.post("/collections/{collection}/delivery/sample")
def sample_of_asked(collection: str, request: SampleRequest, bench: Bench) -> list[SampledQuery]:
    """Makes a judged set of a sample of what was asked, from head to tail."""
    return sampling.sample_to_set(
        bench,
        collection,
        request.judged_set,
        request.days,
        request.count,
        request.seed,
        request.locked_share,
    )
