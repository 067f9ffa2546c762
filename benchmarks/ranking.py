"""How long queries take as they ask for more: all words, a phrase, spelling slack, facets; and how that grows."""

from collections.abc import Callable, Sequence
from time import perf_counter

import numpy as np

from benchmarks.synthetic import synthetic
from pale_harbor.core.fields import column_of, facet
from pale_harbor.core.index import ReadingIndex, build_index
from pale_harbor.core.index.near_terms import near_terms
from pale_harbor.core.index.vocabulary import vocabulary_of
from pale_harbor.core.query import parse_query
from pale_harbor.core.ranking import (
    Nearness,
    Need,
    Ranker,
    Reading,
    SlabView,
    SlackWhen,
    Spelling,
    Workspace,
    best,
    matching_records,
    plan_of,
    prepare_slabs,
    statistics_of,
)
from pale_harbor.core.ranking.preparing import no_columns
from pale_harbor.core.text import chain_of

Figures = dict[str, float | int | str]

TOP = 10
TITLE_WORDS = 6
VOCABULARY = 500_000
# Queries that nobody types by hand.
HOSTILE = (
    "ba OR " * 2_000,
    "b* c* d* f* g* h* j* k*",
    "*a *o *e *i",
    "(" * 5_000 + "ba" + ")" * 5_000,
    " ".join(f"ba{number}" for number in range(2_000)),
    "-ba " * 2_000,
)


def ranking_figures(record_count: int) -> Figures:
    """Medians over a few hundred queries of three words in two readings, in milliseconds."""
    made = synthetic(record_count)
    chain = chain_of("words > lower")
    # Words are whole and in lower case already: a literal reading's index is the same.
    indexes = {
        "title": build_index(([" ".join(text.split(" ", TITLE_WORDS)[:TITLE_WORDS])] for text in made.records), chain),
        "text": build_index(([text] for text in made.records), chain),
    }
    collection = Collection(indexes, record_count)
    plain = Ranker(
        readings=(
            Reading(field="title", chain=chain, query_chain=chain, weight=3.0),
            Reading(field="text", chain=chain, query_chain=chain),
        )
    )
    nearness = Nearness(1.0, 2)
    near = Ranker(
        readings=tuple(Reading(field=f, chain=chain, query_chain=chain, nearness=nearness) for f in ("title", "text"))
    )
    ways: dict[str, Callable[[str], object]] = {
        "any": lambda query: collection.ask(query, plain),
        "all": lambda query: collection.ask(query, Ranker(readings=plain.readings, need=Need(((1, None),)))),
        "phrase": lambda query: collection.ask(f'"{query}"', plain),
        "near": lambda query: collection.ask(query, near),
        "slack": lambda query: collection.ask(
            _misspelt(query), Ranker(readings=plain.readings, spelling=Spelling(lengths=(4, 8), when=SlackWhen.ALWAYS))
        ),
    }
    phrases = [" ".join(text.split(" ")[3:6]) for text in made.records[:: max(1, record_count // 300)]][:300]
    figures: Figures = {"records": record_count, "terms": len(indexes["text"].vocabulary)}
    for name, way in ways.items():
        queries = phrases if name == "phrase" else made.queries
        figures[f"{name}_p50_ms"], figures[f"{name}_p95_ms"] = percentiles(way, queries)
    worst = [percentiles(lambda query: collection.ask(query, plain), [query])[0] for query in HOSTILE]
    figures["hostile_worst_ms"] = max(worst)
    figures["facets_matched"] = min(record_count, 100_000)
    figures["facets_p50_ms"] = _facets_ms(record_count)
    return figures


def slack_figures(queries: int = 300) -> Figures:
    """Candidates for misspelt words among half a million terms: two edits, one letter that must agree."""
    rng = np.random.default_rng(1690)
    made: set[str] = set()
    letters = np.array(list("etaoinshrdlucmwfgypbvkjxqz"))
    while len(made) < VOCABULARY:
        lengths = rng.integers(4, 12, VOCABULARY)
        made.update("".join(rng.choice(letters, length)) for length in lengths[: VOCABULARY - len(made)])
    terms = sorted(made)
    vocabulary = vocabulary_of(terms)
    words = [_misspelt(_misspelt(terms[i])) for i in rng.integers(0, len(terms), queries)]
    figures: Figures = {"terms": len(terms)}
    for edits, fixed in ((1, 1), (2, 1), (2, 0)):
        p50, p95 = percentiles(lambda word, e=edits, f=fixed: near_terms(vocabulary, word, e, f), words)
        figures[f"{edits}_edits_{fixed}_fixed_p50_ms"] = p50
        figures[f"{edits}_edits_{fixed}_fixed_p95_ms"] = p95
    return figures


class Collection:
    """One slab with its indexes by field, ready to be asked."""

    def __init__(self, indexes: dict[str, ReadingIndex], record_count: int) -> None:
        self.indexes = indexes
        self.statistics = {field: statistics_of([(index, None)]) for field, index in indexes.items()}
        self.record_count = record_count
        self.workspace = Workspace(record_count)
        self.order = np.arange(record_count, dtype=np.int32)

    def ask(self, query: str, ranker: Ranker) -> object:
        plan = plan_of(parse_query(query), ranker)
        readings = [reading.field for reading in plan.readings]
        view = SlabView([self.indexes[field] for field in readings], None, self.record_count, no_columns)
        (prepared,) = prepare_slabs(plan, [self.statistics[field] for field in readings], [view])
        return best(matching_records(prepared, self.workspace), TOP, self.order)


def _misspelt(query: str) -> str:
    """Two letters of the longest word change places."""
    words = query.split(" ")
    longest = max(range(len(words)), key=lambda i: len(words[i]))
    word = words[longest]
    middle = len(word) // 2
    words[longest] = word[:middle] + word[middle + 1 : middle + 2] + word[middle : middle + 1] + word[middle + 2 :]
    return " ".join(words)


def _facets_ms(record_count: int) -> float:
    rng = np.random.default_rng(3)
    kinds = [f"kind {number}" for number in rng.zipf(1.3, record_count) % 200]
    column = column_of(kinds)
    record_ids = np.sort(rng.permutation(record_count)[: min(record_count, 100_000)]).astype(np.int32)
    return percentiles(lambda _: facet([(column, record_ids)]), [""] * 50)[0]


def percentiles(way: Callable[[str], object], queries: Sequence[str]) -> tuple[float, float]:
    for query in queries[:10]:
        way(query)
    taken: list[float] = []
    for query in queries:
        started = perf_counter()
        way(query)
        taken.append((perf_counter() - started) * 1000)
    return round(float(np.median(taken)), 3), round(float(np.percentile(taken, 95)), 3)
