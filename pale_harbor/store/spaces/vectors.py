"""The table `vectors`: those that cannot be made again for nothing."""

from collections.abc import Mapping, Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from psycopg import Connection

About = Literal["text", "query", "record"]


def keep_vectors(
    connection: Connection[Any], space_id: int, about: About, vectors: Mapping[str, NDArray[np.float32]]
) -> None:
    """Keeps vectors by name; one that is there is replaced. Each (dimensions,)."""
    own = {name: (vector.astype("<f4").tobytes(), None) for name, vector in vectors.items()}
    _keep(connection, space_id, about, own)


def vectors_named(
    connection: Connection[Any], space_id: int, about: About, names: Sequence[str]
) -> dict[str, NDArray[np.float32]]:
    """Those of the names that there are. Each (dimensions,)."""
    rows = connection.execute(
        """
        select name, vector from vectors
        where space_id = %s and about = %s and name = any(%s) and vector is not null order by name
        """,
        [space_id, about, list(names)],
    )
    return {name: np.frombuffer(vector, "<f4").astype(np.float32) for name, vector in rows}


def names_known(connection: Connection[Any], space_id: int, about: About, names: Sequence[str]) -> set[str]:
    """Those of the names that have a vector."""
    rows = connection.execute(
        """
        select name from vectors
        where space_id = %s and about = %s and name = any(%s) and vector is not null order by name
        """,
        [space_id, about, list(names)],
    )
    return {name for (name,) in rows}


def keep_faults(connection: Connection[Any], space_id: int, about: About, faults: Mapping[str, int]) -> None:
    """Keeps in place of vectors why there are none."""
    _keep(connection, space_id, about, {name: (None, fault) for name, fault in faults.items()})


def faults_named(connection: Connection[Any], space_id: int, about: About, names: Sequence[str]) -> dict[str, int]:
    """Why those of the names have no vector of which that is known."""
    rows = connection.execute(
        """
        select name, fault from vectors
        where space_id = %s and about = %s and name = any(%s) and fault is not null order by name
        """,
        [space_id, about, list(names)],
    )
    return dict(rows)


def _keep(
    connection: Connection[Any], space_id: int, about: About, contents: Mapping[str, tuple[bytes | None, int | None]]
) -> None:
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into vectors (space_id, about, name, vector, fault) values (%s, %s, %s, %s, %s)
            on conflict (space_id, about, name) do update set vector = excluded.vector, fault = excluded.fault
            """,
            [(space_id, about, name, vector, fault) for name, (vector, fault) in contents.items()],
        )
