"""What is written while a server is killed, and what has to be there afterwards: ferries, their riders and judges."""

import json
import random
import threading
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

import httpx

from tests.endurance.harbor import until

HOME = "/api/collections/ferries"
SET = f"{HOME}/judged/riders"
ROWS_OF_IMPORT = 150
RECORDS_EDITED = 7
UNFINISHED = ("waiting", "running")
_SECONDS_TO_END = 90
_MOST_CLICKED = 700
_PLACES = ("Tidewick", "Hallow", "Kestrel Ness", "the Swash", "Orde", "Marram")


def first_rows() -> list[dict[str, Any]]:
    """The timetable that is there before anything is killed."""
    return [
        {
            "id": f"f{number:03d}",
            "route": f"{_PLACES[number % 6]} to {_PLACES[(number * 5 + 2) % 6]}",
            "remarks": "when the tide allows" if number % 3 else "by day only, no carts",
            "turn": 0,
        }
        for number in range(120)
    ]


@dataclass
class Written:
    """What was acknowledged, and what was sent without being heard of again, in their order."""

    edits: dict[str, list[int]] = field(default_factory=lambda: defaultdict(list))
    edits_unheard: dict[str, list[int]] = field(default_factory=lambda: defaultdict(list))
    imports: dict[int, int] = field(default_factory=dict)  # job by number
    imports_unheard: set[int] = field(default_factory=set)
    said: dict[tuple[str, str], int] = field(default_factory=dict)
    said_unheard: dict[tuple[str, str], set[int]] = field(default_factory=lambda: defaultdict(set))
    settled: dict[tuple[str, str], int] = field(default_factory=dict)
    settled_unheard: dict[tuple[str, str], set[int]] = field(default_factory=lambda: defaultdict(set))
    fillings: int = 0
    # By the query that was asked, which nobody else asks.
    clicked: set[str] = field(default_factory=set)
    clicked_unheard: set[str] = field(default_factory=set)


class Ferries:
    """Somebody who goes on writing until nobody answers any more, and looks afterwards."""

    def __init__(self, address: str, seed: int) -> None:
        self.address = address
        self.written = Written()
        self._random = random.Random(seed)
        self._number = 0
        self._lock = threading.Lock()
        self._judge = ""
        self._pairs: list[tuple[str, str]] = []
        self.wrong: list[str] = []

    def begin(self) -> None:
        """Has a collection, a judged set, a task with a judge's link and a space there."""
        with self._client() as client:
            _import(client, "timetable.jsonl", first_rows(), asked=lambda job: _done(client, f"/api/imports/{job}"))
            queries = "".join(f"{n}\t{one.casefold()}\n" for n, one in enumerate(_PLACES, start=1))
            grades = "".join(f"{n} 0 f{n:03d} {n % 4}\n" for n in range(1, 7))
            _well(client.put(f"{SET}/files", json={"queries": queries, "judgments": grades}))
            self._pairs = [(str(n), f"f{record:03d}") for n in range(1, 7) for record in range(10, 20)]
            items = [{"query_id": query, "record_key": record} for query, record in self._pairs]
            task = {"name": "rides", "judges": ["Ada"], "items": items, "twice": 0}
            made = _well(client.post(f"{SET}/tasks", json=task))[0]
            self._judge = f"/api{made['judges'][0]['path']}"
            # By somebody else, so that there is something to settle.
            settle = "".join(f"{query} 0 {record} 2\n" for query, record in self._pairs)
            _well(client.put(f"{SET}/files", json={"queries": queries, "judgments": grades + settle}))
            space = {"document": {"source": {"kind": "packaged"}, "fields": ["route"]}}
            _well(client.put(f"{HOME}/spaces/routes", json=space))
            _well(client.post(f"{HOME}/delivery/live", json={"ranker": "start"}))
            made = {"label": "the quay", "terms": {"per_minute": 1_000_000, "per_minute_each": 1_000_000}}
            self._key = _well(client.post(f"{HOME}/delivery/keys/visitors", json=made))["shown"]

    def write(self, ended: threading.Event) -> list[threading.Thread]:
        """Begins to write in all ways at once, each in a thread, until told or cut off."""
        ways = (self._edit, self._load, self._say, self._settle, self._fill, self._click)
        threads = [threading.Thread(target=self._on_and_on, args=(way, ended), daemon=True) for way in ways]
        for one in threads:
            one.start()
        return threads

    def _on_and_on(self, way: Callable[[httpx.Client], None], ended: threading.Event) -> None:
        with self._client() as client:
            while not ended.is_set():
                try:
                    way(client)
                except (httpx.HTTPError, Unheard) as error:
                    # Whoever is told to ask again, does.
                    if "Ask again" not in str(error):
                        return
                except Exception as error:
                    self.wrong.append(repr(error))
                    return

    def _client(self) -> httpx.Client:
        return httpx.Client(base_url=self.address, timeout=60)

    def _next(self) -> int:
        with self._lock:
            self._number += 1
            return self._number

    def _edit(self, client: httpx.Client) -> None:
        number = self._next()
        key = f"f{number % RECORDS_EDITED:03d}"
        self.written.edits_unheard[key].append(number)
        kept = _well(client.get(f"{HOME}/record", params={"key": key}))["field_values"]
        _well(client.post(f"{HOME}/records", json={"records": [kept | {"id": key, "turn": number}]}))
        self.written.edits_unheard[key].remove(number)
        self.written.edits[key].append(number)

    def _load(self, client: httpx.Client) -> None:
        number = self._next()
        rows = [{"id": f"i{number}-{row}", "route": f"Run {number}", "turn": row} for row in range(ROWS_OF_IMPORT)]
        self.written.imports_unheard.add(number)

        def heard(job: int) -> None:
            self.written.imports_unheard.discard(number)
            self.written.imports[number] = job

        _import(client, f"run-{number}.jsonl", rows, asked=heard)

    def _say(self, client: httpx.Client) -> None:
        pair, grade = self._random.choice(self._pairs), self._next() % 4
        self.written.said_unheard[pair].add(grade)
        said = {"query_id": pair[0], "record_key": pair[1], "grade": grade, "at": datetime.now(UTC).isoformat()}
        _well(client.post(f"{self._judge}/said", json={"said": [said]}))
        self.written.said[pair] = grade
        self.written.said_unheard[pair] = set()

    def _settle(self, client: httpx.Client) -> None:
        pair, grade = self._random.choice(self._pairs), self._next() % 4
        self.written.settled_unheard[pair].add(grade)
        asked = {"query_id": pair[0], "record_key": pair[1], "grade": grade}
        _well(client.post(f"{SET}/settle", json=asked))
        self.written.settled[pair] = grade
        self.written.settled_unheard[pair] = set()

    def _click(self, client: httpx.Client) -> None:
        """A visitor asks, and tells what they clicked, twice, as a page does that did not hear the answer."""
        if len(self.written.clicked) >= _MOST_CLICKED:
            # All of them are looked at.
            return
        query = f"tidewick {self._next()}"
        key = {"Authorization": f"Bearer {self._key}"}
        asked = {"query": query, "session": "a-visitor"}
        told = _well(client.get("/v1/ferries/search", params=asked, headers=key))
        self.written.clicked_unheard.add(query)
        event = {"query_id": told["query_id"], "kind": "click", "record": "f001"}
        for _ in range(2):
            answer = client.post("/v1/ferries/events", json=event, headers=key)
            if answer.status_code == 503:
                raise Unheard(answer.text)
            assert answer.status_code == 204, answer.text
        self.written.clicked_unheard.discard(query)
        self.written.clicked.add(query)

    def _fill(self, client: httpx.Client) -> None:
        told = client.post(f"{HOME}/spaces/routes/fill", json={"anew": True})
        # One that is being filled is not filled twice at a time.
        if told.status_code != 422:
            _well(told)
            self.written.fillings += 1

    def has_written_in_all_ways(self) -> bool:
        """Whether something was acknowledged of every kind."""
        written = self.written
        return all((written.imports, written.edits, written.said, written.settled, written.fillings, written.clicked))

    def look(self) -> None:
        """Asserts that what was acknowledged is there, once and whole, and that nothing is stuck."""
        with self._client() as client:
            # A database that was away leaves connections behind that are good for nothing; each is told once.
            until(lambda: _answers(client), _SECONDS_TO_END, lambda: "The database is not there for everybody.")
        assert self.wrong == []
        with self._client() as client:
            for job in self.written.imports.values():
                _done(client, f"/api/imports/{job}")
            listed = _well(client.get(f"{HOME}/imports"))
            # What was never heard of may have begun all the same.
            for one in listed:
                _done(client, f"/api/imports/{one['id']}")
            exported = client.get(f"{HOME}/export", params={"form": "jsonl"})
            assert exported.status_code == 200, exported.text
            records = [json.loads(line) for line in exported.text.splitlines()]
            self._look_at_imports(records)
            self._look_at_edits(client, {one["id"]: one for one in records})
            self._look_at_judging(client)
            self._look_at_space(client, len(records))
            self._look_at_clicks(client)

    def _look_at_imports(self, records: list[dict[str, Any]]) -> None:
        keys = [one["id"] for one in records]
        assert len(keys) == len(set(keys)), "A record is there twice."
        rows: dict[int, int] = defaultdict(int)
        for key in keys:
            if key.startswith("i"):
                rows[int(key[1:].split("-")[0])] += 1
        for number in self.written.imports:
            assert rows[number] == ROWS_OF_IMPORT, f"Import {number}: {rows[number]} rows."
        for number in self.written.imports_unheard:
            assert rows[number] in (0, ROWS_OF_IMPORT), f"Unheard import {number}: {rows[number]} rows."

    def _look_at_edits(self, client: httpx.Client, records: dict[str, dict[str, Any]]) -> None:
        for key, numbers in self.written.edits.items():
            unheard = self.written.edits_unheard[key]
            earlier = _well(client.get(f"{HOME}/record/earlier", params={"key": key}))
            turns = [one["field_values"]["turn"] for one in earlier][::-1] + [records[key]["turn"]]
            known = set(numbers) | set(unheard) | {0}
            assert set(numbers) <= set(turns), f"{key}: {numbers} acknowledged, {turns} there."
            assert set(turns) <= known
            assert turns == sorted(set(turns)), f"{key}: {turns}"

    def _look_at_judging(self, client: httpx.Client) -> None:
        desk = _well(client.get(self._judge))
        there = {(one["query_id"], one["record_key"]): one["grade"] for one in desk["said"]}
        for pair, grade in self.written.said.items():
            assert there.get(pair) in {grade, *self.written.said_unheard[pair]}, pair
        lines = client.get(f"{SET}/files/judgments", params={"form": "columns"}).text.split("\n")
        counts = {(line.split()[0], line.split()[2]): int(line.split()[3]) for line in lines if line.strip()}
        for pair, grade in self.written.settled.items():
            assert counts.get(pair) in {grade, *self.written.settled_unheard[pair]}, pair

    def _look_at_clicks(self, client: httpx.Client) -> None:
        """What was acknowledged is there with the list that it is of, and counts once."""
        params = {"order": "frequent", "days": 30, "count": 1_000}
        told = {one["query"]: one for one in _well(client.get(f"{HOME}/delivery/past", params=params))["queries"]}
        for query in self.written.clicked:
            assert query in told, f"{query} was acknowledged, and is not there."
        for query, one in told.items():
            assert (one["asked"], one["clicked"]) in ((1, 0), (1, 1)), one
            assert one["clicked"] == 1 or query not in self.written.clicked, one

    def _look_at_space(self, client: httpx.Client, records: int) -> None:
        assert 0 < _done(client, f"{HOME}/spaces/routes")["report"]["vectors"] <= records


class Unheard(Exception):
    """Refused because something is gone: whether it was done is not known."""


def _well(answer: httpx.Response) -> Any:
    if answer.status_code == 503:
        raise Unheard(answer.text)
    assert answer.status_code == 200, f"{answer.request.method} {answer.request.url}: {answer.text[:2_000]}"
    return answer.json()


def _answers(client: httpx.Client) -> bool:
    return all(client.get(f"{HOME}/rankers").status_code == 200 for _ in range(20))


def _done(client: httpx.Client, path: str) -> Any:
    """What is told of a job once it is done."""
    seen: list[Any] = [None]

    def has_ended() -> bool:
        seen[0] = _well(client.get(path))
        return seen[0]["state"] not in UNFINISHED

    until(has_ended, _SECONDS_TO_END, lambda: f"{path} is stuck: {seen[0]}")
    assert seen[0]["state"] == "done", seen[0]
    return seen[0]


def _import(client: httpx.Client, name: str, rows: list[dict[str, Any]], asked: Callable[[int], object]) -> None:
    content = "".join(json.dumps(row) + "\n" for row in rows)
    upload = _well(client.post("/api/uploads", params={"name": name}, content=content))["upload"]
    body = {"source": {"upload": upload}, "plan": {"key": "id"}}
    asked(_well(client.post(f"{HOME}/imports", json=body))["id"])
