"""Judged sets that nobody judged: made up from the records, one good record for each query."""

from typing import Final

from pale_harbor.store.judging.judgments import judgments_of
from pale_harbor.work.workbench import Workbench

# Who is said to have judged what was made up.
MADE_UP: Final = "made up"


def people_in(bench: Workbench, set_id: int) -> list[str]:
    """Who judged anything in a set, what was made up left out; "" where nobody said who."""
    with bench.pool.connection() as connection:
        said = judgments_of(connection, set_id)
    return sorted({one.judge for one in said} - {MADE_UP})


def is_made_up(bench: Workbench, set_id: int) -> bool:
    """Whether all that was judged was made up: then an unjudged record is none that somebody has yet to look at."""
    with bench.pool.connection() as connection:
        said = judgments_of(connection, set_id)
    return bool(said) and all(one.judge == MADE_UP for one in said)
