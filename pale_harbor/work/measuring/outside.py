"""Rankers that are not ours: the search in production as a baseline, from its run file or asked over HTTP."""

import itertools
import math
from collections.abc import Generator, Sequence
from contextlib import contextmanager
from decimal import Decimal
from typing import Any, Final, Protocol
from urllib.parse import urlsplit

import orjson

from pale_harbor import __version__
from pale_harbor.core.measures import in_list_order
from pale_harbor.errors import BadInput, Cancelled, NotFound, Unavailable
from pale_harbor.formats.outside_document import (
    AskedDatabase,
    AskedService,
    RunFile,
    address_for,
    found_at,
    outside_document,
)
from pale_harbor.formats.trec import run_in
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.following.connections import connection_called
from pale_harbor.store.following.live.rows import Bounds, LiveDatabase, SourceAway, key_text
from pale_harbor.store.judging.judged_sets import SetQuery, queries_of, set_named, set_with_id
from pale_harbor.store.measuring.outside_rankers import (
    OutsideRanker,
    add_asking,
    all_secrets,
    drop_outside,
    outside_named,
    outside_rankers_of,
    outside_with_id,
    put_outside,
    set_secrets,
)
from pale_harbor.store.measuring.runs import RunList, save_outside_run
from pale_harbor.store.running.jobs import Job, end_job, is_held, job_with_id, want_cancel
from pale_harbor.work.following.reaching import reach
from pale_harbor.work.running.asking import Asking, NotAnswered, with_retries
from pale_harbor.work.running.sealing import is_sealed
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.workbench import Workbench

LARGEST_ANSWER: Final = 20_000_000
LONGEST_HEADER: Final = 4_000
_TRIES: Final = 3
_FIRST_WAIT: Final = 0.5
# What a run needs and nobody sent.
_QUIET: Final = "Pale Harbor"
# A statement is tried with it before it is kept.
_TRIED_WITH: Final = "harbour"


def bring_run(
    bench: Workbench, collection_name: str, name: str, set_name: str, text: str, file: str
) -> tuple[int, list[str]]:
    """Keeps a run file's lists as those of an outside ranker for a set.

    Returns how many of the set's queries have a list, and the file's queries that the set does not know. Raises
    NotFound, BadInput where none of the lists is of the set.
    """
    scored = run_in(text, file)
    if not scored:
        raise BadInput(f"{file} holds no line of a run: query, Q0, record, rank, score, tag.")
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        known = {query.query_id for query in queries_of(connection, kept.id)}
        strangers = sorted(scored.keys() - known)
        if not known & scored.keys():
            raise BadInput(
                f"{file} has lists for none of the queries of {set_name}. Its queries are called "
                f"{', '.join(strangers[:5])}; those of the set {', '.join(sorted(known)[:5])}."
            )
        existing = next((one for one in outside_rankers_of(connection, collection.id) if one.name == name), None)
        if existing is not None and existing.document.get("kind") != "file":
            raise BadInput(f'"{name}" is asked for its lists. Choose another name for the run file.')
        put_outside(connection, collection.id, name, RunFile().model_dump(), {})
        lists = [
            RunList(query, keys, [own[key] for key in keys], len(keys))
            for query, own in scored.items()
            if query in known
            for keys in [in_list_order(own)]
        ]
        outside = outside_named(connection, collection.id, name)
        state = (collection.revision, collection.fingerprint)
        save_outside_run(connection, outside.id, kept.id, state, kept.queries_revision, __version__, lists)
    return len(lists), strangers


def put_service(
    bench: Workbench, collection_name: str, name: str, document: dict[str, Any], secrets: dict[str, str]
) -> None:
    """Keeps how a service or a database is asked. secrets: header values of a service; those left out stay, unless
    another host is asked now.

    Raises NotFound, BadInput for what cannot be asked.
    """
    service = outside_document(document)
    if isinstance(service, AskedDatabase):
        _put_database(bench, collection_name, name, service)
        return
    if not isinstance(service, AskedService):
        raise BadInput("Bring the lists of a run file with the file itself.")
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        before = next((one for one in outside_rankers_of(connection, collection.id) if one.name == name), None)
        # A value that was meant for one host is never sent to another one.
        same = before is not None and _host(before.document.get("address", "")) == _host(service.address)
        known = (bench.sealing.opened(before.secrets) if before is not None and same else {}) | secrets
        for header in service.headers:
            value = known.get(header, "")
            if not value or len(value) > LONGEST_HEADER or not value.isascii() or not value.isprintable():
                raise BadInput(f"Say what the header {header} holds: plain letters on one line.")
        kept = bench.sealing.sealed({header: known[header] for header in service.headers})
        put_outside(connection, collection.id, name, service.model_dump(), kept)


def _put_database(bench: Workbench, collection_name: str, name: str, asked: AskedDatabase) -> None:
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = connection_called(connection, collection.id, asked.connection)
    # What is wrong with the statement is told now, and not at the first query of a set.
    with reach(kept, bench.sealing, Bounds(statement_s=asked.seconds)) as live:
        _keys_and_scores(live.ranked(asked.statement, _TRIED_WITH, asked.top))
    with bench.pool.connection() as connection:
        put_outside(connection, collection.id, name, asked.model_dump(), {})


def seal_secrets(bench: Workbench) -> None:
    """Seals what was kept before there was a key."""
    with bench.pool.connection() as connection:
        for outside_id, secrets in all_secrets(connection).items():
            open_ones = {name: value for name, value in secrets.items() if not is_sealed(value)}
            if open_ones:
                set_secrets(connection, outside_id, secrets | bench.sealing.sealed(open_ones))


def drop(bench: Workbench, collection_name: str, name: str) -> None:
    """Drops an outside ranker with its lists."""
    with bench.pool.connection() as connection:
        drop_outside(connection, outside_named(connection, collection_named(connection, collection_name).id, name).id)


def cancel(bench: Workbench, collection_name: str, name: str) -> None:
    """Ends an asking; nothing of it is kept."""
    with bench.pool.connection() as connection:
        outside = outside_named(connection, collection_named(connection, collection_name).id, name)
        if outside.job is not None:
            want_cancel(connection, outside.job)


def begin(bench: Workbench, collection_name: str, name: str, set_name: str, *, by_server: bool) -> int:
    """Notes that a service is to be asked for all queries of a set; returns the job's id.

    Raises NotFound, and Unavailable where it is being asked already. Raises BadInput where it is no service.
    """
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        outside = outside_named(connection, collection.id, name)
        if isinstance(outside_document(outside.document), RunFile):
            raise BadInput(f'"{name}" stands in a run file: there is nobody to ask. Bring a newer file instead.')
        queries = queries_of(connection, kept.id)
        if not queries:
            raise NotFound(f"{set_name} has no query yet.")
        if outside.job is not None and is_held(connection, outside.job):
            raise Unavailable(f'"{name}" is being asked already.')
        return add_asking(connection, outside, kept.id, len(queries), by_server=by_server)


def ask_now(bench: Workbench, collection_name: str, name: str, set_name: str) -> int:
    """Asks a service for all queries of a set, here and now; returns how many lists it gave."""
    job_id = begin(bench, collection_name, name, set_name, by_server=False)
    do_job(bench.pool, job_id, askings_done(bench))
    with bench.pool.connection() as connection:
        return job_with_id(connection, job_id).done


def askings_done(bench: Workbench) -> Doing:
    """How services are asked: for every query, and the lists are kept, all of them or none.

    The doing raises Cancelled where it was dropped, Unavailable where a server stopped amid it.
    """

    def doing(job: Job, progress: Progress) -> None:
        if job.state == "running":
            raise Unavailable("The server stopped while it asked. Ask again: what it had was not kept.")
        with bench.pool.connection() as connection:
            outside = outside_with_id(connection, job.outside_id)
            if outside is None or job.set_id is None:
                raise Cancelled("What was to be asked was dropped.")
            kept, collection_name = set_with_id(connection, job.set_id)
            collection = collection_named(connection, collection_name)
            queries = queries_of(connection, kept.id)
        state = (collection.revision, collection.fingerprint)
        asked = outside_document(outside.document)
        assert not isinstance(asked, RunFile)
        progress.begin("asking", len(queries))
        with _asking_around(bench, outside, asked, progress) as asking:
            try:
                lists = [asking.rank(query) for query in queries]
                progress.note()
            except Cancelled:
                raise Cancelled("The asking was ended; nothing of it was kept.") from None
        with bench.pool.connection() as connection:
            save_outside_run(connection, outside.id, kept.id, state, kept.queries_revision, __version__, lists)
            end_job(connection, job.id, "done")

    return doing


class _Asks(Protocol):
    """Whoever is asked for lists."""

    def rank(self, query: SetQuery) -> RunList:
        """The list for one query. Raises Unavailable with the query and what was wrong, Cancelled."""
        ...


@contextmanager
def _asking_around(
    bench: Workbench, outside: OutsideRanker, asked: AskedService | AskedDatabase, progress: Progress
) -> Generator[_Asks]:
    if isinstance(asked, AskedDatabase):
        with bench.pool.connection() as connection:
            kept = connection_called(connection, outside.collection_id, asked.connection)
        with reach(kept, bench.sealing, Bounds(statement_s=asked.seconds)) as live:
            yield _AskingDatabase(asked, live, progress)
        return
    headers = {"Accept": "application/json", "User-Agent": _QUIET}
    with Asking(asked.seconds, headers, bench.sealing.opened(outside.secrets), progress.is_wanted) as own:
        yield _AskingAround(asked, own, progress)


class _AskingDatabase:
    """One asking of a database, at its pace."""

    def __init__(self, asked: AskedDatabase, live: LiveDatabase, progress: Progress) -> None:
        self._asked, self._live, self._progress = asked, live, progress
        self._begun = False

    def rank(self, query: SetQuery) -> RunList:
        """The list for one query. Raises Unavailable with the query and what was wrong, Cancelled."""
        if self._begun:
            self._progress.wait(1 / self._asked.pace)
        self._begun = True
        try:
            rows = self._live.ranked(self._asked.statement, query.query, self._asked.top)
            kept = _keys_and_scores(rows)
        except (SourceAway, BadInput) as error:
            raise Unavailable(f'For "{query.query[:80]}": {error}') from error
        self._progress.more(1)
        return RunList(query.query_id, list(kept), list(kept.values()), len(kept))


def _keys_and_scores(rows: Sequence[tuple[Any, ...]]) -> dict[str, float]:
    """The list that rows are, each record where it stands first: with the scores that they give, or falling by one.

    Raises BadInput.
    """
    if rows and len(rows[0]) > 2:
        raise BadInput(f"The statement gives {len(rows[0])} columns: a key, and a score if there is one.")
    kept: dict[str, float] = {}
    before = math.inf
    for place, row in enumerate(rows):
        key = key_text(row[0])
        if key is None:
            raise BadInput("The statement gives a row without a key in its first column.")
        score = float(len(rows) - place)
        if len(row) == 2:
            if isinstance(row[1], bool) or not isinstance(row[1], int | float | Decimal):
                raise BadInput(f"The second column is a score, a number: here it is {str(row[1])[:40]!r}.")
            score = float(row[1])
            if score > before:
                raise BadInput("The scores do not fall along the list: order the rows by them, the greatest first.")
            before = score
        kept.setdefault(key, score)
    return kept


class _AskingAround:
    """One asking of a service: its pace, its tries, its progress."""

    def __init__(self, service: AskedService, own: Asking, progress: Progress) -> None:
        self._service, self._own, self._progress = service, own, progress
        self._begun = False

    def rank(self, query: SetQuery) -> RunList:
        """The list for one query. Raises Unavailable with the query and what was wrong, Cancelled."""
        if self._begun:
            self._progress.wait(1 / self._service.pace)
        self._begun = True
        try:
            answer = self._tried(query.query)
            keys = [_key(value) for value in found_at(answer, self._service.keys)][: self._service.top]
            scores = self._scores(answer, len(keys))
        except Unavailable as error:
            raise Unavailable(f'For "{query.query[:80]}": {error}') from error
        self._progress.more(1)
        # A record that stands twice counts where it stands first.
        kept = dict(reversed(list(zip(keys, scores, strict=True))))
        ordered = list(dict.fromkeys(keys))
        return RunList(query.query_id, ordered, [kept[key] for key in ordered], len(ordered))

    def _scores(self, answer: Any, count: int) -> list[float]:
        """Scores as the answer gives them, where they fall along the list; else falling by one."""
        by_place = [float(count - i) for i in range(count)]
        if self._service.scores is None:
            return by_place
        found = found_at(answer, self._service.scores)[:count]
        if len(found) != count or not all(isinstance(one, int | float) and not isinstance(one, bool) for one in found):
            raise Unavailable(f"the answer has {count} keys, but not as many numbers at {self._service.scores}.")
        scores = [float(one) for one in found]
        if any(later > earlier for earlier, later in itertools.pairwise(scores)):
            raise Unavailable(f"the scores at {self._service.scores} do not fall along the list. Leave them out.")
        return scores

    def _tried(self, query: str) -> Any:
        try:
            return with_retries(lambda: self._once(query), _TRIES, self._progress.wait, _FIRST_WAIT)
        except _Failed as error:
            again = f" It was asked {_TRIES} times." if error.later else ""
            raise Unavailable(f"{error}{again}") from error

    def _once(self, query: str) -> Any:
        service = self._service
        body = None
        if service.body is not None:
            inside = orjson.dumps(query).decode()[1:-1]
            body = service.body.replace("{top}", str(service.top)).replace("{query}", inside)
        method = "GET" if body is None else "POST"
        try:
            return orjson.loads(self._own.answer(method, address_for(service, query), body, LARGEST_ANSWER))
        except NotAnswered as error:
            raise _Failed(_words(error, service.seconds), later=error.later, wait=error.wait) from error
        except orjson.JSONDecodeError as error:
            raise Unavailable("its answer is no JSON.") from error


class _Failed(Unavailable):
    """No usable answer, in words that say nothing of the address: what is kept of it may be read by others."""

    def __init__(self, message: str, *, later: bool, wait: float | None) -> None:
        super().__init__(message)
        self.later = later
        self.wait = wait


def _words(error: NotAnswered, seconds: float) -> str:
    match error.how:
        case "late":
            return f"it did not answer within {seconds:g} s."
        case "too long":
            return f"its answer is longer than {LARGEST_ANSWER:,} bytes."
        case "refused":
            return f"it refuses with {error}."
        case "closed":
            return f"it is not asked: {error}."
        case "broken" if "secret" in str(error):
            return f"{error}."
        case _:
            return "it cannot be reached."


def _host(address: str) -> tuple[str, str]:
    parts = urlsplit(address)
    return parts.scheme, parts.netloc


def _key(value: Any) -> str:
    if isinstance(value, bool) or not isinstance(value, str | int) or value == "":
        raise Unavailable(f"a record key is a text or a whole number, not {str(value)[:40]!r}.")
    return str(value)
