"""Made-up visitors of a collection: they ask the search endpoint over HTTP as people do, who type, click and give up.

What they want comes from a judged set: a query, and how good each record is for it. They click by the model that clicks
are read by (core/traffic/taste.py), so that what is read from their clicks can be held against what they wanted.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from random import Random
from secrets import token_hex
from time import monotonic, sleep
from typing import Any, Final

import httpx
import numpy as np

from pale_harbor.core.simulating.slips import ONE_WORD_SLIPS, slipped_word
from pale_harbor.core.traffic.taste import USUAL_TASTE, Taste, clicks_on
from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.asked import asked_in_sessions, spread_sessions
from pale_harbor.store.judging.judged_sets import grades_of, queries_of, set_named
from pale_harbor.work.workbench import Workbench

# What is asked is kept a little behind.
_SECONDS_TO_KEEP: Final = 10.0
_TOO_OFTEN: Final = 429
_ROWS: Final = 10
# Of visitors, so many type at first what they do not mean; and type on letter by letter.
_SLIPS: Final = 0.12
_TYPES: Final = 0.5
# Of those who found nothing that they wanted, so many try once more.
_TRIES_AGAIN: Final = 0.5
_LEAST_LETTERS: Final = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Want:
    """What a visitor may want. grades: by record, unjudged ones left out; often: how often it is wanted, against
    others."""

    query: str
    grades: dict[str, int]
    language: str = ""
    often: int = 1


@dataclass(slots=True)
class Visited:
    """What visitors did."""

    visitors: int = 0
    requests: int = 0
    letters: int = 0
    lists: int = 0
    clicks: int = 0
    successes: int = 0
    given_up: int = 0
    refused: int = 0


class Visitors:
    """Visitors of one collection. client: asks the endpoint; address: up to `/v1/COLLECTION`."""

    def __init__(
        self, client: httpx.Client, address: str, key: str, wants: Sequence[Want], taste: Taste = USUAL_TASTE
    ) -> None:
        self._client, self._address = client, address
        self._headers = {"Authorization": f"Bearer {key}"}
        self._wants, self._taste = wants, taste
        # What their sessions begin with, others than those who came before.
        self.beginning = f"made-up-{token_hex(4)}-"
        self.done = Visited()

    def come(self, count: int, random: Random, told: Callable[[Visited], object] = lambda _: None) -> Visited:
        """So many visitors come, one after the other. Raises Unavailable where the endpoint does not answer."""
        weights = [want.often for want in self._wants]
        for _ in range(count):
            self._visit(random.choices(self._wants, weights)[0], random)
            self.done.visitors += 1
            told(self.done)
        return self.done

    def _visit(self, want: Want, random: Random) -> None:
        session = f"{self.beginning}{random.getrandbits(96):024x}"
        query = want.query
        if random.random() < _SLIPS:
            query = _with_a_slip(query, random)
        if random.random() < _TYPES:
            self._type(query, want, session)
        found = self._looked_at(query, want, session, random)
        if not found and random.random() < _TRIES_AGAIN:
            again = want.query if query != want.query else _shorter(want.query)
            if again != query:
                found = self._looked_at(again, want, session, random)
        self.done.given_up += not found

    def _type(self, query: str, want: Want, session: str) -> None:
        """Letter by letter, as far as the word before the last is whole."""
        for end in range(2, len(query), 2):
            self.done.letters += 1
            self._ask("typed", {"query": query[:end], "session": session, "language": want.language})

    def _looked_at(self, query: str, want: Want, session: str, random: Random) -> bool:
        """Whether they found what they wanted in a query's list."""
        asked = {"query": query, "session": session, "language": want.language, "top": str(_ROWS)}
        told = self._ask("search", asked)
        if told is None:
            return False
        self.done.lists += 1
        keys = [str(row["key"]) for row in told["results"]]
        clicks = clicks_on([want.grades.get(key, 0) for key in keys], self._taste, random)
        for place in clicks.places:
            self._tell(told["query_id"], "click", keys[place])
            self.done.clicks += 1
        if clicks.is_satisfied:
            self._tell(told["query_id"], "success", keys[clicks.places[-1]])
            self.done.successes += 1
        return clicks.is_satisfied

    def _ask(self, what: str, said: dict[str, str]) -> dict[str, Any] | None:
        answer = self._sent("GET", what, params={name: value for name, value in said.items() if value})
        if answer.status_code == _TOO_OFTEN:
            self.done.refused += 1
            return None
        if not answer.is_success:
            raise Unavailable(f"The endpoint answers with {answer.status_code}: {_detail(answer)}")
        return answer.json()

    def _tell(self, query_id: str, kind: str, key: str) -> None:
        self._sent("POST", "events", json={"query_id": query_id, "kind": kind, "record": key})

    def _sent(self, method: str, what: str, **more: Any) -> httpx.Response:
        self.done.requests += 1
        try:
            return self._client.request(method, f"{self._address}/{what}", headers=self._headers, **more)
        except httpx.HTTPError as error:
            raise Unavailable(f"The endpoint at {self._address} does not answer: {error}.") from error


def _with_a_slip(query: str, random: Random) -> str:
    """One of its longer words typed badly; as it is where it has none."""
    words = query.split()
    longer = [place for place, word in enumerate(words) if len(word) >= _LEAST_LETTERS and word.isalpha()]
    if not longer:
        return query
    place = random.choice(longer)
    generator = np.random.default_rng(random.getrandbits(32))
    words[place] = slipped_word(words[place], random.choice(ONE_WORD_SLIPS), generator)
    return " ".join(words)


def _shorter(query: str) -> str:
    """Without its last word, where there are several."""
    words = query.split()
    return " ".join(words[:-1]) if len(words) > 1 else query


def _detail(answer: httpx.Response) -> str:
    try:
        return str(answer.json().get("detail"))
    except ValueError:
        return answer.reason_phrase


def wants_of(bench: Workbench, collection: str, set_name: str) -> list[Want]:
    """What the queries of a judged set want, as often as they are asked. Raises NotFound; BadInput where nothing is
    judged."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        kept = set_named(connection, own.id, set_name)
        queries, grades = queries_of(connection, kept.id), grades_of(connection, kept.id)
    wants = [
        Want(query=one.query, grades=grades.get(one.query_id, {}), language=one.language or "", often=one.asked or 1)
        for one in queries
        if not one.filters
    ]
    if not any(want.grades for want in wants):
        raise BadInput(f'Nothing in "{set_name}" is judged, so nobody knows what a visitor would be glad of.')
    return wants


def spread(bench: Workbench, collection: str, visitors: Visitors, days: int) -> None:
    """What they did is moved back in time, as if they had come in so many days."""
    until = monotonic() + _SECONDS_TO_KEEP
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection).id
    while monotonic() < until:
        with bench.pool.connection() as connection:
            if asked_in_sessions(connection, own, visitors.beginning) >= visitors.done.lists:
                break
        sleep(0.1)
    with bench.pool.connection() as connection:
        spread_sessions(connection, own, visitors.beginning, days)
