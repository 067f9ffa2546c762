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
    """A judge of a task. items: to be judged in all; judged: of them, those that the judge has said something of."""

    task_id: int
    judge: str
    token: str
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
    tokens: Mapping[str, str],
) -> int:
    """Makes a task. items, tokens: by judge."""
    row = connection.execute(
        "insert into judging_tasks (set_id, name, document) values (%s, %s, %s) returning id",
        [set_id, name, Json(document)],
    ).fetchone()
    assert row is not None
    task_id = int(row[0])
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into task_judges (task_id, judge, token) values (%s, %s, %s)",
            [(task_id, judge, token) for judge, token in tokens.items()],
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
            select task_judges.task_id, task_judges.judge, token, count(item.place) as items,
                count(judgments.judge) as judged
            from task_judges
            join judging_tasks on judging_tasks.id = task_judges.task_id
            left join task_items as item on item.task_id = task_judges.task_id and item.judge = task_judges.judge
            left join judgments on judgments.set_id = judging_tasks.set_id and judgments.query_id = item.query_id
                and judgments.record_key = item.record_key and judgments.judge = item.judge and not taken_back
            where task_judges.task_id = any(%s::bigint[])
            group by task_judges.task_id, task_judges.judge, token
            order by task_judges.task_id, task_judges.judge
            """,
            [list(task_ids)],
        ).fetchall()


def judge_with_token(connection: Connection[Any], token: str) -> tuple[int, str] | None:
    """The task and the judge that a link is for."""
    row = connection.execute("select task_id, judge from task_judges where token = %s", [token]).fetchone()
    return (int(row[0]), str(row[1])) if row else None


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
