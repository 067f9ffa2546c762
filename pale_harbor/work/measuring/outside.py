"""Rankers that are not ours: the search in production as a baseline, from its run file or asked over HTTP."""

import itertools
import threading
from collections.abc import Callable
from typing import Any, Final
from urllib.parse import urlsplit

import httpx
import orjson

from pale_harbor import __version__
from pale_harbor.core.measures import in_list_order
from pale_harbor.errors import BadInput, HarborError, NotFound, Unavailable
from pale_harbor.formats.outside_document import AskedService, RunFile, address_for, found_at, outside_document
from pale_harbor.formats.trec import run_in
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.judged_sets import SetQuery, queries_of, set_named
from pale_harbor.store.measuring.outside_rankers import (
    OutsideRanker,
    begin_asking,
    drop_outside,
    end_asking,
    end_cut_off,
    note_asked,
    outside_named,
    outside_rankers_of,
    put_outside,
    want_end,
)
from pale_harbor.store.measuring.runs import RunList, save_outside_run
from pale_harbor.work.running.background import in_background
from pale_harbor.work.workbench import Workbench

LARGEST_ANSWER: Final = 20_000_000
LONGEST_HEADER: Final = 4_000
_TRIES: Final = 3
_LATER: Final = (408, 425, 429, 500, 502, 503, 504)
# What a run needs and nobody sent.
_QUIET: Final = "Pale Harbor"


class Cancelled(HarborError):
    """Somebody wanted the asking to end."""


def bring_run(
    bench: Workbench, collection_name: str, name: str, set_name: str, text: str, file: str
) -> tuple[int, list[str]]:
    """Keeps a run file's lists as those of an outside ranker for a set.

    Returns how many of the set's queries have a list, and the file's queries that the set does not know.
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
            raise BadInput(f'"{name}" is asked over HTTP. Choose another name for the run file.')
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
        end_asking(connection, outside.id, "done")
    return len(lists), strangers


def put_service(
    bench: Workbench, collection_name: str, name: str, document: dict[str, Any], secrets: dict[str, str]
) -> None:
    """Keeps how a service is asked. secrets: header values; those left out stay, unless another host is asked now."""
    service = outside_document(document)
    if not isinstance(service, AskedService):
        raise BadInput("Bring the lists of a run file with the file itself.")
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        before = next((one for one in outside_rankers_of(connection, collection.id) if one.name == name), None)
        # A value that was meant for one host is never sent to another one.
        same = before is not None and _host(before.document.get("address", "")) == _host(service.address)
        known = (before.secrets if before is not None and same else {}) | secrets
        for header in service.headers:
            value = known.get(header, "")
            if not value or len(value) > LONGEST_HEADER or not value.isascii() or not value.isprintable():
                raise BadInput(f"Say what the header {header} holds: plain letters on one line.")
        kept = {header: known[header] for header in service.headers}
        put_outside(connection, collection.id, name, service.model_dump(), kept)


def drop(bench: Workbench, collection_name: str, name: str) -> None:
    with bench.pool.connection() as connection:
        drop_outside(connection, outside_named(connection, collection_named(connection, collection_name).id, name).id)


def cancel(bench: Workbench, collection_name: str, name: str) -> None:
    """Ends an asking; nothing of it is kept."""
    with bench.pool.connection() as connection:
        want_end(connection, outside_named(connection, collection_named(connection, collection_name).id, name).id)


def begin(bench: Workbench, collection_name: str, name: str, set_name: str) -> Callable[[], int]:
    """Makes ready to ask a service for all queries of a set; what is returned does the asking.

    Raises NotFound, and Unavailable where it is being asked already.
    """
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = set_named(connection, collection.id, set_name)
        outside = outside_named(connection, collection.id, name)
        service = outside_document(outside.document)
        if not isinstance(service, AskedService):
            raise BadInput(f'"{name}" stands in a run file: there is nobody to ask. Bring a newer file instead.')
        queries = queries_of(connection, kept.id)
        if not queries:
            raise NotFound(f"{set_name} has no query yet.")
        if not begin_asking(connection, outside.id, kept.id, len(queries)):
            raise Unavailable(f'"{name}" is being asked already.')
    state = (collection.revision, collection.fingerprint)
    return lambda: _ask_all(bench, outside, service, queries, kept.id, state, kept.queries_revision)


def _ask_all(
    bench: Workbench,
    outside: OutsideRanker,
    service: AskedService,
    queries: list[SetQuery],
    set_id: int,
    state: tuple[int, str],
    queries_revision: int,
) -> int:
    """Asks for every query and keeps the lists, all of them or none; returns how many."""
    try:
        with httpx.Client(
            timeout=service.seconds,
            follow_redirects=False,
            headers={"Accept": "application/json", "User-Agent": _QUIET, **outside.secrets},
        ) as client:
            asking = _Asking(bench, outside.id, service, client)
            lists = [asking.ranked(query, done) for done, query in enumerate(queries)]
        with bench.pool.connection() as connection:
            save_outside_run(connection, outside.id, set_id, state, queries_revision, __version__, lists)
            note_asked(connection, outside.id, len(lists))
            end_asking(connection, outside.id, "done")
        return len(lists)
    except Cancelled as error:
        _end(bench, outside.id, "cancelled", str(error))
        raise
    except HarborError as error:
        _end(bench, outside.id, "failed", str(error))
        raise
    except Exception:
        _end(bench, outside.id, "failed", "Something went wrong on our side; the server's log has the details.")
        raise


def _end(bench: Workbench, outside_id: int, state: str, problem: str) -> None:
    with bench.pool.connection() as connection:
        end_asking(connection, outside_id, state, problem)


class _Asking:
    """One asking of a service: its pace, its tries, its progress."""

    def __init__(self, bench: Workbench, outside_id: int, service: AskedService, client: httpx.Client) -> None:
        self._bench, self._id, self._service, self._client = bench, outside_id, service, client
        self._pause = threading.Event()

    def ranked(self, query: SetQuery, done: int) -> RunList:
        """The list for one query. Raises Unavailable with the query and what was wrong, Cancelled."""
        with self._bench.pool.connection() as connection:
            if note_asked(connection, self._id, done):
                raise Cancelled("The asking was ended; nothing of it was kept.")
        if done:
            self._pause.wait(1 / self._service.pace)
        try:
            answer = self._tried(query.query)
            keys = [_key(value) for value in found_at(answer, self._service.keys)][: self._service.top]
            scores = self._scores(answer, len(keys))
        except Unavailable as error:
            raise Unavailable(f'For "{query.query[:80]}": {error}') from error
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
        for attempt in range(1, _TRIES + 1):
            try:
                return self._once(query)
            except _Later as error:
                if attempt == _TRIES:
                    raise Unavailable(f"{error} It was asked {attempt} times.") from error
                self._pause.wait(error.wait if error.wait is not None else 0.25 * 2**attempt)
        raise AssertionError

    def _once(self, query: str) -> Any:
        service = self._service
        body = None
        if service.body is not None:
            inside = orjson.dumps(query).decode()[1:-1]
            body = service.body.replace("{top}", str(service.top)).replace("{query}", inside)
        try:
            with self._client.stream(
                "GET" if body is None else "POST",
                address_for(service, query),
                content=body,
                headers={} if body is None else {"Content-Type": "application/json"},
            ) as answer:
                if answer.status_code >= 300:
                    after = answer.headers.get("Retry-After", "")
                    words = f"it refuses with {answer.status_code} {answer.reason_phrase}."
                    if answer.status_code in _LATER:
                        raise _Later(words, min(30.0, float(after)) if after.isdecimal() else None)
                    raise Unavailable(words)
                pieces = bytearray()
                for piece in answer.iter_bytes():
                    pieces += piece
                    if len(pieces) > LARGEST_ANSWER:
                        raise Unavailable(f"its answer is longer than {LARGEST_ANSWER:,} bytes.")
            return orjson.loads(pieces)
        except httpx.TimeoutException as error:
            raise _Later(f"it did not answer within {service.seconds:g} s.") from error
        except httpx.HTTPError as error:
            raise _Later("it cannot be reached.") from error
        except orjson.JSONDecodeError as error:
            raise Unavailable("its answer is no JSON.") from error


class _Later(Unavailable):
    """What may succeed if it is asked again. wait: seconds that the service asks for."""

    def __init__(self, message: str, wait: float | None = None) -> None:
        super().__init__(message)
        self.wait = wait


def _host(address: str) -> tuple[str, str]:
    parts = urlsplit(address)
    return parts.scheme, parts.netloc


def _key(value: Any) -> str:
    if isinstance(value, bool) or not isinstance(value, str | int) or value == "":
        raise Unavailable(f"a record key is a text or a whole number, not {str(value)[:40]!r}.")
    return str(value)


def end_cut_off_askings(bench: Workbench) -> None:
    """Says of askings that a crash cut off that they failed. For a server that begins."""
    with bench.pool.connection() as connection:
        end_cut_off(connection)


def ask_in_background(work: Callable[[], int]) -> None:
    """Does an asking beside everything else; how it goes stands in the outside ranker's row."""
    in_background("outside", work)
