"""Forgets what was asked once its days are over: only numbers are left."""

import structlog

from pale_harbor.store.database import Pool
from pale_harbor.store.delivery.asked import count_and_forget
from pale_harbor.store.delivery.settings import days_kept


def forget_past(pool: Pool) -> int:
    """Of every collection what is older than it is kept; returns how many queries were counted and forgotten."""
    with pool.connection() as connection:
        kept = days_kept(connection)
    forgotten = 0
    for collection_id, days in kept:
        # Each by itself: one that has much to forget holds up no other.
        with pool.connection() as connection:
            forgotten += count_and_forget(connection, collection_id, days)
    if forgotten:
        structlog.get_logger().info("past queries forgotten", count=forgotten)
    return forgotten
