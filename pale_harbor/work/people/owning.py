"""What is somebody's own, and how they end it."""

from pale_harbor.store.database import Pool
from pale_harbor.store.people.visits import end_numbered


def end_own(pool: Pool, person_id: int, number: str) -> bool:
    """Signs one of somebody's browsers out, or ends a key; False where it is no more."""
    with pool.connection() as connection:
        return end_numbered(connection, person_id, number)
