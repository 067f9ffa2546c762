"""Judging over HTTP: tasks, a judge's link, agreement, conflicts, stale judgments."""

from typing import Annotated

from fastapi import Path, Query, Response

from pale_harbor.api.judging.judged import SetName
from pale_harbor.api.judging.models import (
    CloseRequest,
    ConfirmRequest,
    LinkRequest,
    SaidAnswer,
    SaidRequest,
    SettleRequest,
    SideModel,
    TaskRequest,
)
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.records.models import RecordPageModel
from pale_harbor.api.records.pictures import as_answer
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.core.judging import PoolItem
from pale_harbor.store.judging.judging_tasks import OwnTask
from pale_harbor.work.judging import tasks
from pale_harbor.work.judging.judges_page import JudgedRecord, JudgesPage, judge_records, judged_in, judges_page
from pale_harbor.work.judging.standing import JudgingStanding, confirm, settle, standing_of
from pale_harbor.work.judging.tasks import TaskStanding
from pale_harbor.work.measuring.compared import RankerSide
from pale_harbor.work.people.asking import who_asks
from pale_harbor.work.records.pages import page_of_record, picture_of_record

router = guarded_router()

JudgeToken = Annotated[str, Path(max_length=100)]


@router.get("/collections/{collection}/judged/{name}/tasks")
def judging_tasks(collection: str, name: SetName, bench: Bench) -> list[TaskStanding]:
    """A set's judging tasks with their judges, the newest first."""
    return tasks.tasks(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/tasks")
def make_task(collection: str, name: SetName, request: TaskRequest, bench: Bench) -> list[TaskStanding]:
    """Makes a judging task, each judge with a link of their own, which is told this once."""
    wanted = tasks.TaskWanted(
        name=request.name,
        judges=tuple(request.judges),
        sides=tuple(side_of(side) for side in request.sides),
        depth=request.depth,
        others=request.others,
        twice=request.twice,
        leave_out_judged=request.leave_out_judged,
        tag=request.tag,
        same=tuple(request.same),
        queries=None if request.queries is None else tuple(request.queries),
        items=None if request.items is None else tuple(PoolItem(one.query_id, one.record_key) for one in request.items),
    )
    return tasks.tasks(bench, collection, name, tasks.new_task(bench, collection, name, wanted))


@router.post("/collections/{collection}/judged/{name}/tasks/{task}/close")
def close_task(collection: str, name: SetName, task: int, request: CloseRequest, bench: Bench) -> list[TaskStanding]:
    """Closes a task for its judges, or opens it again."""
    tasks.change_task(bench, collection, name, task, closed=request.closed)
    return tasks.tasks(bench, collection, name)


@router.delete("/collections/{collection}/judged/{name}/tasks/{task}")
def drop_task(collection: str, name: SetName, task: int, bench: Bench) -> list[TaskStanding]:
    """Drops a task with its links; what was judged stays."""
    tasks.change_task(bench, collection, name, task, closed=None)
    return tasks.tasks(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/tasks/{task}/links")
def new_link(collection: str, name: SetName, task: int, request: LinkRequest, bench: Bench) -> list[TaskStanding]:
    """Gives a judge another link, which is told this once; the one before leads nowhere from then on."""
    links = tasks.new_link(bench, collection, name, task, request.judge, request.days)
    return tasks.tasks(bench, collection, name, links)


@router.delete("/collections/{collection}/judged/{name}/tasks/{task}/links")
def draw_link_back(
    collection: str, name: SetName, task: int, bench: Bench, judge: Annotated[str, Query(max_length=200)]
) -> list[TaskStanding]:
    """A judge's link leads nowhere from now on."""
    tasks.draw_link_back(bench, collection, name, task, judge)
    return tasks.tasks(bench, collection, name)


@router.get("/me/tasks")
def own_tasks(bench: Bench) -> list[OwnTask]:
    """What whoever is signed in is asked to judge; each is judged at /judge/own-NUMBER."""
    visitor = who_asks().visitor
    return [] if visitor is None else tasks.own_tasks(bench, visitor.person_id)


@router.get("/collections/{collection}/judged/{name}/standing")
def judging_standing(collection: str, name: SetName, bench: Bench) -> JudgingStanding:
    """How far judges agree, where they do not, and what has gone stale."""
    return standing_of(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/settle")
def settle_grade(collection: str, name: SetName, request: SettleRequest, bench: Bench) -> JudgingStanding:
    """Settles a record's grade by hand."""
    settle(bench, collection, name, request.query_id, request.record_key, request.grade, request.note)
    return standing_of(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/confirm")
def confirm_stale(collection: str, name: SetName, request: ConfirmRequest, bench: Bench) -> JudgingStanding:
    """Says that what was judged of a changed record still holds."""
    confirm(bench, collection, name, request.query_id, request.record_key)
    return standing_of(bench, collection, name)


@router.get("/judge/{token}")
def judge(token: JudgeToken, bench: Bench) -> JudgesPage:
    """What a judge's link leads to: the queries to be judged, how far it is, what the grades mean."""
    return judges_page(bench, token)


@router.get("/judge/{token}/queries/{query_id}")
def judge_query(token: JudgeToken, query_id: str, bench: Bench) -> list[JudgedRecord]:
    """The records of one query in the order in which this judge sees them, with what the query matched marked."""
    return judge_records(bench, token, query_id)


@router.get("/judge/{token}/page")
def judge_page(token: JudgeToken, key: Annotated[str, Query(max_length=500)], bench: Bench) -> RecordPageModel:
    """A record that is to be judged as the page that a machine read."""
    return RecordPageModel.of(page_of_record(bench.pool, judged_in(bench, token, key), key))


@router.get("/judge/{token}/picture", response_class=Response)
def judge_picture(
    token: JudgeToken, key: Annotated[str, Query(max_length=500)], bench: Bench, small: bool = False
) -> Response:
    """The picture that a record that is to be judged names."""
    return as_answer(picture_of_record(bench.pool, judged_in(bench, token, key), key, small=small))


@router.post("/judge/{token}/said")
def judge_said(token: JudgeToken, request: SaidRequest, bench: Bench) -> SaidAnswer:
    """Keeps what a judge says. Sent twice it is kept once."""
    said = [
        tasks.Said(
            query_id=one.query_id,
            record_key=one.record_key,
            grade=one.grade,
            note=one.note,
            at=one.at,
            taken_back=one.taken_back,
            device=one.device,
            order=one.order,
        )
        for one in request.said
    ]
    return SaidAnswer(new=tasks.judge_says(bench, token, said))


def side_of(model: SideModel) -> RankerSide:
    """One side of a comparison, as the layers below take it."""
    return RankerSide(choice_of(model.ranker), model.outside)
