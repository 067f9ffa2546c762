"""Whose a piece of long work is."""

from typing import Final

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import all_collections
from pale_harbor.store.database import Pool
from pale_harbor.store.running.jobs import job_with_id
from pale_harbor.work.people.asking import who_asks

# Of PostgreSQL's bigint.
_LARGEST_ID: Final = 2**63 - 1


def collection_of_job(pool: Pool, job_id: str) -> str | None:
    """The collection that a job is of; None where it is still to be made, by whoever asks.

    Raises NotFound where there is no such job, or where its collection is to be made by somebody else.
    """
    gone = NotFound(f"There is no job {job_id[:40]}; perhaps what it was for was dropped.")
    if not job_id.isdecimal() or int(job_id) > _LARGEST_ID:
        if who_asks().is_keeper:
            # What is wrong with the number is told by whoever reads it.
            return None
        raise gone
    with pool.connection() as connection:
        job = job_with_id(connection, int(job_id))
        if job.collection_id is not None:
            name = next(one.name for one in all_collections(connection) if one.id == job.collection_id)
            if not who_asks().sees(name):
                raise gone
            return name
    if who_asks().is_keeper:
        return None
    visitor = who_asks().visitor
    if visitor is None or job.person_id != visitor.person_id:
        raise gone
    return None
