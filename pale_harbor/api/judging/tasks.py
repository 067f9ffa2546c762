"""Judging over HTTP: tasks, a judge's link, agreement, conflicts, stale judgments."""

from typing import Annotated

from fastapi import Path

from pale_harbor.api.judging.judged import SetName
from pale_harbor.api.judging.models import (
    CloseRequest,
    ConfirmRequest,
    SaidAnswer,
    SaidRequest,
    SettleRequest,
    SideModel,
    TaskRequest,
)
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.core.judging import PoolItem
from pale_harbor.work.judging import tasks
from pale_harbor.work.judging.judges_page import JudgedRecord, JudgesPage, judge_records, judges_page
from pale_harbor.work.judging.standing import JudgingStanding, confirm, settle, standing_of
from pale_harbor.work.judging.tasks import TaskStanding
from pale_harbor.work.measuring.compared import RankerSide

router = guarded_router()

JudgeToken = Annotated[str, Path(max_length=100)]


@router.get("/collections/{collection}/judged/{name}/tasks")
def judging_tasks(collection: str, name: SetName, bench: Bench) -> list[TaskStanding]:
    """A set's judging tasks with their judges' links, the newest first."""
    return tasks.tasks(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/tasks")
def make_task(collection: str, name: SetName, request: TaskRequest, bench: Bench) -> list[TaskStanding]:
    """Makes a judging task, each judge with a link of their own."""
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
    tasks.new_task(bench, collection, name, wanted)
    return tasks.tasks(bench, collection, name)


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
