"""Judging: tasks with their pools, what a judge sees, and what a judge says."""

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Final

import numpy as np
from psycopg import Connection

from pale_harbor.core.judging import PoolItem, draw_pool, shared_out
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.judged_sets import (
    JudgedSet,
    SetQuery,
    held_set,
    next_revision,
    queries_of,
    set_named,
    set_with_id,
)
from pale_harbor.store.judging.judging_tasks import (
    JudgingTask,
    OwnTask,
    TaskItem,
    close_task,
    drop_task,
    items_of,
    judge_who_is,
    judge_with_link,
    judges_of_tasks,
    make_task,
    set_link,
    task_with_id,
    tasks_of,
    tasks_of_person,
)
from pale_harbor.store.judging.judgments import (
    Judgment,
    judges_of,
    judgments_by,
    judgments_of,
    last_said_by,
    put_judgments,
)
from pale_harbor.store.records.records import all_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.settling import grades_to_change, resettle
from pale_harbor.work.measuring.compared import RankerSide, lists_of_side
from pale_harbor.work.people.asking import who_asks
from pale_harbor.work.people.tokens import hash_of, new_token
from pale_harbor.work.workbench import Workbench

MOST_JUDGES: Final = 30
MOST_ITEMS: Final = 50_000
# What stands in place of a link for whoever is signed in, with the task's number behind it.
OWN: Final = "own-"


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskWanted:
    """How a pool is made and shared out. others: records by chance for each query; twice: share judged by two.

    queries: by id, all where it is None; items: the records themselves, instead of a pool; then sides only tell the
    engineer what they are for. Judges see the name, and should not find a ranker's in it. same: judges who are those
    who judged the set under that name before.
    """

    name: str
    judges: tuple[str, ...]
    sides: tuple[RankerSide, ...] = ()
    depth: int = 10
    others: int = 0
    twice: float = 0.2
    leave_out_judged: bool = True
    tag: str | None = None
    queries: tuple[str, ...] | None = None
    items: tuple[PoolItem, ...] | None = None
    same: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgeProgress:
    """A judge of a task. items: to be judged; judged: of them, so far.

    path: the judge's link on this server, told once, when it is made. has_link: whether there is one that was not drawn
    back; link_ends_at: None where it does not end. person: the name by which the judge signs in, who then needs none.
    """

    judge: str
    path: str | None
    has_link: bool
    link_ends_at: datetime | None
    person: str | None
    items: int
    judged: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskStanding:
    """A task and how far its judges are. document: how its pool was made."""

    id: int
    name: str
    document: dict[str, Any]
    closed: bool
    made_at: datetime
    judges: list[JudgeProgress]


# Links just made: what each ends with, by task and judge.
Links = dict[tuple[int, str], str]


def new_task(bench: Workbench, collection_name: str, set_name: str, wanted: TaskWanted) -> Links:
    """Makes a judging task, and tells each judge's link this once. Raises BadInput where nothing is left to judge."""
    judges = checked_judges(bench, collection_name, set_name, wanted.judges, wanted.same)
    rng = np.random.default_rng(secrets.randbits(64))
    if wanted.items is None:
        items = _pool(bench, collection_name, set_name, wanted, rng)
    else:
        # Mixed like a pool: in which order they were named may tell something.
        items = [wanted.items[i] for i in rng.permutation(len(wanted.items))]
    if not items:
        raise BadInput(
            "Nothing is left to judge: everything that the rankers put first has a grade. Take more of each."
        )
    if len(items) > MOST_ITEMS:
        raise BadInput(
            f"The pool holds {len(items):,} records, {MOST_ITEMS:,} at most can be judged. Take fewer of each."
        )
    given = shared_out(items, judges, wanted.twice, rng)
    document = {
        "rankers": [side.name for side in wanted.sides],
        "depth": wanted.depth,
        "others": wanted.others,
        "twice": wanted.twice,
        "tag": wanted.tag,
        "records": len(items),
        "named": wanted.items is not None,
    }
    with bench.pool.connection() as connection:
        kept = held_set(connection, collection_named(connection, collection_name).id, set_name)
        known = {one.query_id for one in queries_of(connection, kept.id)}
        if strangers := [item.query for item in items if item.query not in known]:
            raise BadInput(f'"{set_name}" has no query "{strangers[0][:80]}".')
        links = {judge: new_token() for judge, own in given.items() if own}
        task_id = make_task(
            connection,
            kept.id,
            wanted.name,
            document,
            {judge: [TaskItem(item.query, item.record) for item in own] for judge, own in given.items() if own},
            {judge: hash_of(link) for judge, link in links.items()},
        )
        return {(task_id, judge): link for judge, link in links.items()}


def checked_judges(
    bench: Workbench, collection_name: str, set_name: str, names: Sequence[str], same: Sequence[str]
) -> list[str]:
    """Who judges, each once. same: judges who are those who judged the set under that name before.

    Raises BadInput where it is nobody, are too many, or somebody else's names.
    """
    judges = list(dict.fromkeys(name.strip() for name in names if name.strip()))
    if not judges or len(judges) > MOST_JUDGES:
        raise BadInput(f"Name who judges: one judge at least, {MOST_JUDGES} at most.")
    _check_names(bench, collection_name, set_name, [one for one in judges if one not in same])
    return judges


def _check_names(bench: Workbench, collection_name: str, set_name: str, names: Sequence[str]) -> None:
    """Raises BadInput where somebody of these names judged the set before, or was asked to."""
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection_name).id, set_name)
        ids = [task.id for task in tasks_of(connection, kept.id)]
        known = {*judges_of(connection, kept.id), *(one.judge for one in judges_of_tasks(connection, ids))}
    if taken := [one for one in names if one in known]:
        raise BadInput(
            f'"{taken[0]}" has judged "{set_name}" before, or was asked to. Say that it is the same person, whose '
            "judgments then count as one judge's; or give another name."
        )


def _pool(
    bench: Workbench, collection_name: str, set_name: str, wanted: TaskWanted, rng: np.random.Generator
) -> list[PoolItem]:
    if not wanted.sides and not wanted.others:
        raise BadInput("Choose at least one ranker whose first records are judged, or records at random.")

    def work(opened: OpenCollection) -> list[PoolItem]:
        with bench.pool.connection() as connection:
            kept = set_named(connection, opened.collection.id, set_name)
            queries = [
                one
                for one in queries_of(connection, kept.id)
                if (wanted.tag is None or wanted.tag in one.tags)
                and (wanted.queries is None or one.query_id in wanted.queries)
            ]
            judged: dict[str, set[str]] = {}
            for one in judgments_of(connection, kept.id) if wanted.leave_out_judged else ():
                judged.setdefault(one.query_id, set()).add(one.record_key)
            everything = list(all_keys(connection, opened.collection.id)) if wanted.others else []
        lists = [lists_of_side(bench, opened, side, set_name).keys for side in wanted.sides]
        ids = [one.query_id for one in queries]
        return draw_pool(ids, lists, wanted.depth, wanted.others, everything, judged, rng)

    return bench.with_collection(collection_name, work)


def tasks(bench: Workbench, collection_name: str, set_name: str, links: Links | None = None) -> list[TaskStanding]:
    """A set's tasks with their judges, the newest first. links: those that are just made, and told with them."""
    made = links or {}
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection_name).id, set_name)
        found = tasks_of(connection, kept.id)
        judges = judges_of_tasks(connection, [task.id for task in found])
    return [
        TaskStanding(
            id=task.id,
            name=task.name,
            document=task.document,
            closed=task.closed,
            made_at=task.made_at,
            judges=[
                JudgeProgress(
                    judge=one.judge,
                    path=f"/judge/{made[task.id, one.judge]}" if (task.id, one.judge) in made else None,
                    has_link=one.has_link,
                    link_ends_at=one.link_ends_at,
                    person=one.person,
                    items=one.items,
                    judged=one.judged,
                )
                for one in judges
                if one.task_id == task.id
            ],
        )
        for task in found
    ]


def change_task(bench: Workbench, collection_name: str, set_name: str, task_id: int, *, closed: bool | None) -> None:
    """Closes a task for its judges, opens it again, or drops it (None). Raises NotFound."""
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection_name).id, set_name)
        if not any(task.id == task_id for task in tasks_of(connection, kept.id)):
            raise NotFound(f'"{set_name}" has no judging task {task_id}.')
        if closed is None:
            drop_task(connection, task_id)
        else:
            close_task(connection, task_id, closed=closed)


def new_link(
    bench: Workbench, collection_name: str, set_name: str, task_id: int, judge: str, days: float | None = None
) -> Links:
    """Gives a judge another link, for so many days; the one before leads nowhere from then on. Raises NotFound."""
    link = new_token()
    _change_link(bench, collection_name, set_name, task_id, judge, link, days)
    return {(task_id, judge): link}


def draw_link_back(bench: Workbench, collection_name: str, set_name: str, task_id: int, judge: str) -> None:
    """A judge's link leads nowhere from now on. Raises NotFound."""
    _change_link(bench, collection_name, set_name, task_id, judge, None, None)


def _change_link(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    task_id: int,
    judge: str,
    link: str | None,
    days: float | None,
) -> None:
    ends_at = None if days is None else datetime.now(UTC) + timedelta(days=days)
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection_name).id, set_name)
        is_there = any(task.id == task_id for task in tasks_of(connection, kept.id))
        if not is_there or not set_link(connection, task_id, judge, None if link is None else hash_of(link), ends_at):
            raise NotFound(f'"{set_name}" has no judging task {task_id} with a judge "{judge[:100]}".')


def own_tasks(bench: Workbench, person_id: int) -> list[OwnTask]:
    """What somebody who signs in is asked to judge, the newest first."""
    with bench.pool.connection() as connection:
        return tasks_of_person(connection, person_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgeWork:
    """What a link leads to: the judge, the set, its queries with their records in order, what was said so far.

    asked: queries, in the order in which they come up; items: record keys by query; said: by query and record;
    last_said: when the judge last said something, by the judge's own clock.
    """

    judge: str
    task: JudgingTask
    judged_set: JudgedSet
    collection: str
    queries: list[SetQuery]
    items: dict[str, list[str]]
    said: list[Judgment]
    last_said: datetime | None


def work_of_judge(bench: Workbench, token: str) -> JudgeWork:
    """Everything that a judge needs to begin or to go on. Raises NotFound where the link leads nowhere."""
    with bench.pool.connection() as connection:
        in_one_state(connection)
        task, judge, kept, collection = _task_of(connection, token)
        items: dict[str, list[str]] = {}
        for item in items_of(connection, task.id, judge):
            items.setdefault(item.query_id, []).append(item.record_key)
        by_id = {query.query_id: query for query in queries_of(connection, kept.id)}
        # A query that was taken out of the set since is not asked any more.
        items = {query: keys for query, keys in items.items() if query in by_id}
        said = [
            one for one in judgments_by(connection, kept.id, judge) if one.record_key in items.get(one.query_id, ())
        ]
        last_said = last_said_by(connection, kept.id, judge)
    return JudgeWork(
        judge=judge,
        task=task,
        judged_set=kept,
        collection=collection,
        queries=[by_id[query] for query in items],
        items=items,
        said=said,
        last_said=last_said,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What a judge says: a grade, None for a pass, or that nothing was said (taken_back)."""

    query_id: str
    record_key: str
    grade: int | None
    note: str
    at: datetime
    taken_back: bool
    device: str | None = None
    order: int | None = None


def judge_says(bench: Workbench, token: str, said: Sequence[Said]) -> int:
    """Keeps what a judge says; returns how much of it is new. Said twice it is kept once.

    Raises NotFound, and BadInput where the task is closed or something else is judged than was asked.
    """
    with bench.pool.connection() as connection:
        task, judge, kept, collection = _task_of(connection, token)
        if task.closed:
            raise BadInput("This task is closed: nothing more is counted. Thank you for what you judged.")
        asked = {(item.query_id, item.record_key) for item in items_of(connection, task.id, judge)}
        for one in said:
            if (one.query_id, one.record_key) not in asked:
                raise BadInput(f'"{one.record_key[:80]}" is not among what you are asked to judge for this query.')
        return keep_judgments(
            connection,
            collection,
            kept.name,
            [
                Judgment(
                    query_id=one.query_id,
                    record_key=one.record_key,
                    judge=judge,
                    grade=one.grade,
                    note=one.note,
                    judged_at=one.at,
                    taken_back=one.taken_back,
                    device=one.device,
                    order=one.order,
                )
                for one in said
            ],
        )


def engineer_says(bench: Workbench, collection_name: str, set_name: str, judge: str, said: Sequence[Said]) -> int:
    """Keeps grades that are given outside of any task, such as from a complaint.

    Raises NotFound, BadInput for queries that the set does not have.
    """
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection_name).id, set_name)
        known = {one.query_id for one in queries_of(connection, kept.id)}
        for one in said:
            if one.query_id not in known:
                raise BadInput(f'"{set_name}" has no query "{one.query_id[:80]}".')
        return keep_judgments(
            connection,
            collection_name,
            set_name,
            [
                Judgment(
                    query_id=one.query_id,
                    record_key=one.record_key,
                    judge=judge,
                    grade=one.grade,
                    note=one.note,
                    judged_at=one.at,
                    taken_back=one.taken_back,
                )
                for one in said
            ],
        )


def keep_judgments(
    connection: Connection[Any], collection_name: str, set_name: str, judgments: Sequence[Judgment]
) -> int:
    """Keeps judgments and settles what they are about; a new revision only where a grade that counts changes."""
    collection = collection_named(connection, collection_name)
    kept = held_set(connection, collection.id, set_name)
    concerned = put_judgments(connection, collection.id, kept.id, judgments)
    if concerned and grades_to_change(connection, kept, concerned):
        resettle(connection, kept, next_revision(connection, kept, of_queries=False), concerned)
    return len(concerned)


def _given_to_visitor(connection: Connection[Any], token: str) -> tuple[int, str] | None:
    visitor, number = who_asks().visitor, token.removeprefix(OWN)
    if visitor is None or not number.isdecimal() or len(number) > 18:
        return None
    judge = judge_who_is(connection, int(number), visitor.person_id)
    return None if judge is None else (int(number), judge)


def _task_of(connection: Connection[Any], token: str) -> tuple[JudgingTask, str, JudgedSet, str]:
    found = (
        _given_to_visitor(connection, token) if token.startswith(OWN) else judge_with_link(connection, hash_of(token))
    )
    task = task_with_id(connection, found[0]) if found else None
    if found is None or task is None:
        raise NotFound("This link leads to no judging task. Ask whoever sent it for a new one.")
    return task, found[1], *set_with_id(connection, task.set_id)
