"""The tables `judging_tasks`, `task_judges` and `task_items`: pools shared out among judges."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgingTask:
    """document: how the pool was made."""

    id: int
    set_id: int
    name: str
    document: dict[str, Any]
    closed: bool
    made_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskJudge:
    """A judge of a task. items: to be judged in all; judged: of them, those that the judge has said something of.

    has_link: whether a link leads to it that was not drawn back; it may have ended. person: the name by which the judge
    signs in, None where nobody of that name is known.
    """

    task_id: int
    judge: str
    has_link: bool
    link_ends_at: datetime | None
    person: str | None
    items: int
    judged: int


@dataclass(frozen=True, slots=True)
class TaskItem:
    query_id: str
    record_key: str


def make_task(
    connection: Connection[Any],
    set_id: int,
    name: str,
    document: dict[str, Any],
    items: Mapping[str, Sequence[TaskItem]],
    links: Mapping[str, bytes],
) -> int:
    """Makes a task. items, links (their hashes): by judge. Judges who are members under that name need no link."""
    row = connection.execute(
        "insert into judging_tasks (set_id, name, document) values (%s, %s, %s) returning id",
        [set_id, name, Json(document)],
    ).fetchone()
    assert row is not None
    task_id = int(row[0])
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into task_judges (task_id, judge, link_hash, person_id) values (%(task)s, %(judge)s, %(link)s, (
                select people.id from people
                join members on members.person_id = people.id
                join judged_sets on judged_sets.collection_id = members.collection_id and judged_sets.id = %(set)s
                where people.shown = %(judge)s or people.name = %(judge)s order by people.id limit 1
            ))
            """,
            [{"task": task_id, "set": set_id, "judge": judge, "link": link} for judge, link in links.items()],
        )
        with cursor.copy("copy task_items (task_id, judge, place, query_id, record_key) from stdin") as copy:
            for judge, own in items.items():
                for place, item in enumerate(own):
                    copy.write_row((task_id, judge, place, item.query_id, item.record_key))
    return task_id


def tasks_of(connection: Connection[Any], set_id: int) -> list[JudgingTask]:
    """A set's tasks, the newest first."""
    with connection.cursor(row_factory=class_row(JudgingTask)) as cursor:
        return cursor.execute(
            "select id, set_id, name, document, closed, made_at from judging_tasks where set_id = %s order by id desc",
            [set_id],
        ).fetchall()


def task_with_id(connection: Connection[Any], task_id: int) -> JudgingTask | None:
    """A task, None where it was dropped."""
    with connection.cursor(row_factory=class_row(JudgingTask)) as cursor:
        return cursor.execute(
            "select id, set_id, name, document, closed, made_at from judging_tasks where id = %s", [task_id]
        ).fetchone()


def judges_of_tasks(connection: Connection[Any], task_ids: Sequence[int]) -> list[TaskJudge]:
    """The judges of some tasks, and how far each has come."""
    with connection.cursor(row_factory=class_row(TaskJudge)) as cursor:
        return cursor.execute(
            """
            select task_judges.task_id, task_judges.judge, link_hash is not null as has_link, link_ends_at,
                people.name as person, count(item.place) as items, count(judgments.judge) as judged
            from task_judges
            join judging_tasks on judging_tasks.id = task_judges.task_id
            left join people on people.id = task_judges.person_id
            left join task_items as item on item.task_id = task_judges.task_id and item.judge = task_judges.judge
            left join judgments on judgments.set_id = judging_tasks.set_id and judgments.query_id = item.query_id
                and judgments.record_key = item.record_key and judgments.judge = item.judge and not taken_back
            where task_judges.task_id = any(%s::bigint[])
            group by task_judges.task_id, task_judges.judge, people.name
            order by task_judges.task_id, task_judges.judge
            """,
            [list(task_ids)],
        ).fetchall()


def judge_with_link(connection: Connection[Any], link: bytes) -> tuple[int, str] | None:
    """The task and the judge that a link (its hash) is for, as long as it leads there."""
    row = connection.execute(
        """
        select task_id, judge from task_judges
        where link_hash = %s and (link_ends_at is null or link_ends_at > now())
        """,
        [link],
    ).fetchone()
    return (int(row[0]), str(row[1])) if row else None


def judge_who_is(connection: Connection[Any], task_id: int, person_id: int) -> str | None:
    """As whom somebody judges a task, None where it is not given to them."""
    row = connection.execute(
        "select judge from task_judges where task_id = %s and person_id = %s", [task_id, person_id]
    ).fetchone()
    return str(row[0]) if row else None


def set_link(
    connection: Connection[Any], task_id: int, judge: str, link: bytes | None, ends_at: datetime | None
) -> bool:
    """From now on this link (its hash) leads a judge to a task, and no other; none where it is None.

    False where the task has no such judge.
    """
    changed = connection.execute(
        "update task_judges set link_hash = %s, link_ends_at = %s where task_id = %s and judge = %s",
        [link, ends_at, task_id, judge],
    )
    return changed.rowcount > 0


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnTask:
    """A task that is given to somebody who signs in."""

    task_id: int
    name: str
    collection: str
    judged_set: str
    closed: bool
    items: int
    judged: int


def tasks_of_person(connection: Connection[Any], person_id: int) -> list[OwnTask]:
    """What somebody is asked to judge, the newest first."""
    with connection.cursor(row_factory=class_row(OwnTask)) as cursor:
        return cursor.execute(
            """
            select task_judges.task_id, judging_tasks.name, collections.name as collection,
                judged_sets.name as judged_set, closed, count(item.place) as items, count(judgments.judge) as judged
            from task_judges
            join judging_tasks on judging_tasks.id = task_judges.task_id
            join judged_sets on judged_sets.id = judging_tasks.set_id
            join collections on collections.id = judged_sets.collection_id
            join members on members.collection_id = collections.id and members.person_id = task_judges.person_id
            left join task_items as item on item.task_id = task_judges.task_id and item.judge = task_judges.judge
            left join judgments on judgments.set_id = judging_tasks.set_id and judgments.query_id = item.query_id
                and judgments.record_key = item.record_key and judgments.judge = item.judge and not taken_back
            where task_judges.person_id = %s
            group by task_judges.task_id, judging_tasks.name, collections.name, judged_sets.name, closed
            order by task_judges.task_id desc
            """,
            [person_id],
        ).fetchall()


def items_of(connection: Connection[Any], task_id: int, judge: str) -> list[TaskItem]:
    """What a judge judges, in the order in which it is shown."""
    with connection.cursor(row_factory=class_row(TaskItem)) as cursor:
        return cursor.execute(
            "select query_id, record_key from task_items where task_id = %s and judge = %s order by place",
            [task_id, judge],
        ).fetchall()


def close_task(connection: Connection[Any], task_id: int, *, closed: bool) -> None:
    """Closes a task for its judges, or opens it again."""
    connection.execute("update judging_tasks set closed = %s where id = %s", [closed, task_id])


def drop_task(connection: Connection[Any], task_id: int) -> None:
    """Drops a task with its links; what was judged stays."""
    connection.execute("delete from judging_tasks where id = %s", [task_id])
