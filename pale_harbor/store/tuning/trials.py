"""The table `tuning_trials`: what the settings that a tuning tried came to."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json


@dataclass(frozen=True, slots=True)
class Trial:
    """setting: the number of each dial's value; values: by measure and, in it, by query; broken: expectations."""

    setting: list[int]
    values: list[float]
    broken: int


def add_trials(connection: Connection[Any], job_id: int, first: int, trials: Sequence[Trial]) -> None:
    """Keeps what settings came to; the first one has that number."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into tuning_trials (job_id, number, setting, values, broken) values (%s, %s, %s, %s, %s)",
            [[job_id, first + i, one.setting, one.values, one.broken] for i, one in enumerate(trials)],
        )


def trials_of(connection: Connection[Any], job_id: int) -> list[Trial]:
    """What a tuning found out, in order."""
    with connection.cursor(row_factory=class_row(Trial)) as cursor:
        return cursor.execute(
            "select setting, values, broken from tuning_trials where job_id = %s order by number", [job_id]
        ).fetchall()


def want_stop(connection: Connection[Any], job_id: int) -> None:
    """Says that a tuning is to end with what it has."""
    connection.execute(
        """
        update jobs set details = (details::jsonb || '{"stop": true}')::json
        where id = %s and kind = 'tuning' and state in ('waiting', 'running')
        """,
        [job_id],
    )


def stop_wanted(connection: Connection[Any], job_id: int) -> bool:
    """Whether it is."""
    row = connection.execute("select details::jsonb ? 'stop' from jobs where id = %s", [job_id]).fetchone()
    return row is not None and bool(row[0])


def note_details(connection: Connection[Any], job_id: int, details: dict[str, Any]) -> None:
    """Notes more of what a tuning knows of itself."""
    connection.execute(
        "update jobs set details = (details::jsonb || %s::jsonb)::json where id = %s", [Json(details), job_id]
    )


def forget_trials(connection: Connection[Any], job_id: int) -> None:
    """Forgets what it found out."""
    connection.execute("delete from tuning_trials where job_id = %s", [job_id])
