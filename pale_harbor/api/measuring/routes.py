"""Rankers compared over HTTP, outside rankers among them; the owner's page."""

from pale_harbor.api.judging.judged import SetName
from pale_harbor.api.judging.models import (
    AskRequest,
    CompareRequest,
    MovedRequest,
    OverviewRequest,
    OwnerPageAnswer,
    QualityRequest,
    RunFileAnswer,
    RunFileRequest,
    ServiceRequest,
    SetLettersRequest,
    TurnsRequest,
    measures_of,
)
from pale_harbor.api.judging.tasks import side_of
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench
from pale_harbor.core.measures import measure
from pale_harbor.formats.owner_page import owner_page
from pale_harbor.work.measuring import outside
from pale_harbor.work.measuring.comparing import HeadToHead, Overview, head_to_head, overview
from pale_harbor.work.measuring.letters import SetTyped, type_set
from pale_harbor.work.measuring.moved import MovedOnQuery, moved_on_query
from pale_harbor.work.measuring.outside_told import OutsideTold, outside_told
from pale_harbor.work.measuring.owner_facts import owner_facts
from pale_harbor.work.measuring.quality import QualityTold, quality_over_time
from pale_harbor.work.measuring.turning import Turns, turns_on_set

router = guarded_router()


@router.post("/collections/{collection}/judged/{name}/overview")
def overview_of_rankers(collection: str, name: SetName, request: OverviewRequest, bench: Bench) -> Overview:
    """Several rankers by their measures; the first is what the others are compared with."""
    sides = [side_of(side) for side in request.sides]
    return overview(bench, collection, name, sides, measures_of(request.measures), request.how.how())


@router.post("/collections/{collection}/judged/{name}/compare")
def compare(collection: str, name: SetName, request: CompareRequest, bench: Bench) -> HeadToHead:
    """Two rankers head to head."""
    return head_to_head(
        bench,
        collection,
        name,
        side_of(request.first),
        side_of(request.second),
        measure(request.measure),
        request.how.how(),
    )


@router.post("/collections/{collection}/judged/{name}/turns")
def turns(collection: str, name: SetName, request: TurnsRequest, bench: Bench) -> Turns:
    """What turns of a ranker's knobs would do to a judged set's queries, each by itself. Nothing is kept of it."""
    wanted = [turn.turn() for turn in request.turns]
    choice = choice_of(request.ranker)
    return turns_on_set(bench, collection, choice, name, measure(request.measure), wanted, request.how.how())


@router.post("/collections/{collection}/judged/{name}/letters")
def letters_of_set(collection: str, name: SetName, request: SetLettersRequest, bench: Bench) -> SetTyped:
    """A judged set typed letter by letter: after how many a relevant record of each query is found. Nothing is kept."""
    against = None if request.against is None else choice_of(request.against)
    return type_set(bench, collection, name, choice_of(request.ranker), against, request.first)


@router.post("/collections/{collection}/judged/{name}/quality")
def quality(collection: str, name: SetName, request: QualityRequest, bench: Bench) -> QualityTold:
    """Every kept version of every ranker on the judgments of today, and the checks that were made."""
    return quality_over_time(bench, collection, name, measure(request.measure), request.how.how())


@router.post("/collections/{collection}/judged/{name}/moved")
def moved(collection: str, name: SetName, request: MovedRequest, bench: Bench) -> MovedOnQuery:
    """Which records came into the first results of one query, and which went. Nothing is kept of it."""
    choices = choice_of(request.before), choice_of(request.after)
    return moved_on_query(bench, collection, name, request.query_id, choices, request.depth)


@router.post("/collections/{collection}/judged/{name}/owner-page")
def page_for_owner(collection: str, name: SetName, request: CompareRequest, bench: Bench) -> OwnerPageAnswer:
    """The owner's page: what it says, and the whole as Markdown."""
    found = compare(collection, name, request, bench)
    facts = owner_facts(bench, collection, name, found)
    return OwnerPageAnswer(names=found.names, facts=facts, markdown=owner_page(facts))


@router.get("/collections/{collection}/outside")
def outside_rankers(collection: str, bench: Bench) -> list[OutsideTold]:
    """Rankers that are not ours. What their headers hold is never told."""
    return outside_told(bench, collection)


@router.put("/collections/{collection}/outside/{name}")
def put_outside_service(collection: str, name: str, request: ServiceRequest, bench: Bench) -> list[OutsideTold]:
    """Says how a search is asked, over HTTP or by SQL."""
    outside.put_service(bench, collection, name, request.document, request.secrets)
    return outside_told(bench, collection)


@router.delete("/collections/{collection}/outside/{name}", status_code=204)
def drop_outside_ranker(collection: str, name: str, bench: Bench) -> None:
    """Drops an outside ranker with its lists."""
    outside.drop(bench, collection, name)


@router.put("/collections/{collection}/outside/{name}/run")
@largest_body(64_000_000)
def bring_run_file(collection: str, name: str, request: RunFileRequest, bench: Bench) -> RunFileAnswer:
    """Keeps the lists of a run file for a judged set."""
    lists, strangers = outside.bring_run(bench, collection, name, request.judged_set, request.text, request.file)
    return RunFileAnswer(lists=lists, unknown_queries=strangers[:100])


@router.post("/collections/{collection}/outside/{name}/ask")
def ask_outside(collection: str, name: str, request: AskRequest, bench: Bench) -> list[OutsideTold]:
    """Begins to ask a service or a database for every query of a judged set."""
    outside.begin(bench, collection, name, request.judged_set, by_server=True)
    return outside_told(bench, collection)


@router.post("/collections/{collection}/outside/{name}/cancel")
def cancel_asking(collection: str, name: str, bench: Bench) -> list[OutsideTold]:
    """Ends an asking; nothing of it is kept."""
    outside.cancel(bench, collection, name)
    return outside_told(bench, collection)
