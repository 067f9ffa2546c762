"""What is measured: how fast text is read, how fast an index is built, how fast a query is answered."""

import re
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from time import perf_counter
from typing import Any

import numpy as np
import orjson
from scipy import sparse

from benchmarks.synthetic import synthetic
from pale_harbor.core.consequences import Gatherer
from pale_harbor.core.index import ReadingIndex, build_index
from pale_harbor.core.ranking import PreparedQuery, Ranker, Reading, Workspace, prepare, search, statistics_of
from pale_harbor.core.ranking.bm25 import length_norm
from pale_harbor.core.text import chain_of
from pale_harbor.work.chains.consequences import SAMPLE_RECORDS
from pale_harbor.work.warm_up import compile_kernels

Figures = dict[str, float | int | str]

CHAINS = (
    "words > lower > stopwords(en) > stem(en)",
    "nfkc > words > lower > accents > stopwords(en) > stem(en)",
    "markup > nfkc > words > lower > accents > stopwords(en) > stem(en)",
)
# Chains that multiply: looked at one text at a time.
MULTIPLYING = ("words > lower > word_grams(2, 3)", "words > lower > prefixes(1, 12)")
TOP = 10


def text_figures(demo: Path) -> list[Figures]:
    """Tokens per second of chains, beside a bare regular expression on the same text."""
    texts = [orjson.loads(line)["description"] for line in demo.read_text("utf-8").splitlines()] * 60
    whole = "\n".join(texts)
    count = len(re.findall(r"\w+", whole))
    figures: list[Figures] = []
    for notation in CHAINS:
        read = chain_of(notation).read
        read(texts)
        bare, own, many = _best_side_by_side(
            [partial(re.findall, r"\w+", whole), partial(read, [whole]), partial(read, texts)]
        )
        figures.append(
            {
                "chain": notation,
                "findall_tokens_per_second": round(count / bare),
                "chain_tokens_per_second": round(count / own),
                "of_findall": round(bare / own, 2),
                "of_findall_text_by_text": round(bare / many, 2),
            }
        )
    return figures


def looking_figures(demo: Path) -> list[Figures]:
    """What an edit of a chain waits for: a trace of 2,000 characters, and the figures of a sample of records."""
    values = [orjson.loads(line)["description"] for line in demo.read_text("utf-8").splitlines()]
    text = " ".join(values)[:2_000]
    sample = [(str(number), [value]) for number, value in enumerate(values[:SAMPLE_RECORDS])]
    figures: list[Figures] = []
    for notation in (*CHAINS, *MULTIPLYING):

        def look(notation: str = notation) -> None:
            chain_of(notation).trace(text)

        def gather(notation: str = notation) -> None:
            gatherer = Gatherer(chain_of(notation))
            gatherer.add(sample)
            gatherer.finished(len(values))

        gather()
        traced, gathered = _best_side_by_side([look, gather])
        figures.append({"chain": notation, "trace_ms": round(traced * 1000, 1), "sample_ms": round(gathered * 1000, 1)})
    return figures


def query_figures(record_count: int, scipy_queries: int = 100, vocabulary: int = 200_000) -> Figures:
    """Build time and bytes, and query latency beside SciPy's sum and selection of the same postings."""
    made = synthetic(record_count, vocabulary=vocabulary)
    chain = chain_of("words > lower")
    compile_kernels()
    started = perf_counter()
    index = build_index(([text] for text in made.records), chain)
    build_seconds = perf_counter() - started
    reading = Reading(field="text", chain=chain, query_chain=chain)
    workspace = Workspace(record_count)
    order = np.arange(record_count, dtype=np.int32)

    def ask(query: str) -> PreparedQuery:
        prepared = prepare(query, Ranker(readings=(reading,)), [index])
        search(prepared, TOP, order, workspace)
        return prepared

    for query in made.queries[:20]:
        ask(query)
    latencies_ms: list[float] = []
    touched: list[int] = []
    for query in made.queries:
        started = perf_counter()
        prepared = ask(query)
        latencies_ms.append((perf_counter() - started) * 1000)
        touched.append(sum(postings.record_ids.size for _, postings in prepared.readings[0].found_terms()))
    # The ratio is of the same queries, in turns of twenty-five: what slows the machine slows both,
    # and neither finds the other's data in the processor's memory at every query.
    matrix = _scores_matrix(index, reading)
    own_ms: list[float] = []
    scipy_ms: list[float] = []
    for first in range(0, scipy_queries, 25):
        for query in made.queries[first : first + 25]:
            started = perf_counter()
            ask(query)
            own_ms.append((perf_counter() - started) * 1000)
        for query in made.queries[first : first + 25]:
            scipy_ms.append(_scipy_ms(matrix, prepare(query, Ranker(readings=(reading,)), [index])))
    return {
        "records": record_count,
        "terms": len(index.vocabulary),
        "tokens": index.occurrence_count,
        "build_seconds": round(build_seconds, 2),
        "index_megabytes": round(index.index_bytes / 1e6, 1),
        "postings_per_query_p50": int(np.median(touched)),
        "p50_ms": round(float(np.median(latencies_ms)), 3),
        "p95_ms": round(float(np.percentile(latencies_ms, 95)), 3),
        "scipy_p50_ms": round(float(np.median(scipy_ms)), 3),
        "times_faster_than_scipy": round(float(np.median(scipy_ms) / np.median(own_ms)), 1),
    }


def _scores_matrix(index: ReadingIndex, reading: Reading) -> Any:
    """Every posting's BM25 part as a sparse matrix (records, terms): what SciPy adds up and selects from."""
    base, slope = length_norm(reading.k1, reading.b, statistics_of([(index, None)]).average_length)
    holding = np.diff(index.posting_firsts)
    idf = np.log(1 + (index.record_count - holding + 0.5) / (holding + 0.5))
    norms = base + slope * index.lengths[index.record_ids]
    parts = np.repeat(idf, holding) * (index.frequencies * (reading.k1 + 1)) / (index.frequencies + norms)
    shape = (index.record_count, len(index.vocabulary))
    return sparse.csc_array((parts, index.record_ids, index.posting_firsts), shape=shape)


def _scipy_ms(matrix: Any, query: PreparedQuery) -> float:
    """SciPy's way: the sum of the terms' columns over all records, then the best ten of them."""
    index = query.readings[0].index
    numbers = [index.vocabulary.find(term.text) for term, _ in query.readings[0].found_terms()]
    started = perf_counter()
    scores = np.asarray(matrix[:, numbers].sum(axis=1)).ravel()
    best = np.argpartition(-scores, TOP)[:TOP]
    best[np.argsort(-scores[best])]
    return (perf_counter() - started) * 1000


def _best_side_by_side(works: Sequence[Callable[[], object]], rounds: int = 7) -> list[float]:
    """The best time of each, in seconds, measured in turns: what slows the machine slows all alike."""
    best = [float("inf")] * len(works)
    for _ in range(rounds):
        for i, work in enumerate(works):
            started = perf_counter()
            work()
            best[i] = min(best[i], perf_counter() - started)
    return best
