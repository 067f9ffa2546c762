"""Near enough against exactly: how many of the ten nearest are found, and how soon, by the share looked through."""

from collections.abc import Sequence
from time import perf_counter
from typing import Final

import numpy as np
import orjson
from numpy.typing import NDArray

from benchmarks.figures import Figures
from pale_harbor.core.vectors import Groups, Similarity, VectorTable, grouped, nearest, nearest_in_groups
from pale_harbor.formats.static_vectors import packaged_vectors
from pale_harbor.settings import ROOT

SHARES: Final = (0.01, 0.02, 0.05, 0.1, 0.25, 0.5)
_TOP: Final = 10
_QUERIES: Final = 40
_ROUNDS: Final = 3


def near_enough_figures(count: int) -> list[Figures]:
    """On vectors of texts such as the demo's in the packaged space, and on uniform noise."""
    figures: list[Figures] = []
    for of, vectors in (("texts", _of_texts(count + _QUERIES)), ("noise", _noise(count + _QUERIES))):
        table = _table(vectors[:count])
        table.make_ready(Similarity.COSINE)
        began = perf_counter()
        groups = grouped(table, Similarity.COSINE)
        built_s = perf_counter() - began
        exact_ms, lists = _exactly(table, vectors[count:])
        for share in SHARES:
            near_ms, recall, compared = _near(table, groups, vectors[count:], share, lists)
            figures.append(
                {
                    "vectors of": of,
                    "vectors": count,
                    "groups": groups.count,
                    "built s": round(built_s, 1),
                    "MB beside the vectors": round(groups.size_bytes / 1e6),
                    "share looked through": share,
                    "recall of 10": round(recall, 3),
                    "compared": round(compared),
                    "exact p50 ms": round(exact_ms, 2),
                    "near p50 ms": round(near_ms, 2),
                    "times as fast": round(exact_ms / near_ms, 1),
                }
            )
    return figures


def _of_texts(count: int) -> NDArray[np.float32]:
    """Texts as the demo's are: the words of one of its records, some left out, and some of another."""
    rng = np.random.default_rng(1690)
    records = [orjson.loads(line) for line in (ROOT / "demo/records.jsonl").read_text("utf-8").splitlines()]
    texts = [f"{one.get('title', '')} {one.get('description', '')}".split()[:120] for one in records]
    space = packaged_vectors()
    known = sorted({word for text in texts for word in text})
    places = {word: number for number, word in enumerate(known)}
    words = space.vectors_of(known)
    said = [np.array([places[word] for word in text], np.int64) for text in texts]
    vectors = np.empty((count, words.shape[1]), np.float32)
    for row in range(count):
        own, other = said[rng.integers(len(said))], said[rng.integers(len(said))]
        kept = own[rng.random(own.size) < rng.uniform(0.3, 0.9)]
        vectors[row] = words[
            np.concatenate([own[:1], kept, other[rng.random(other.size) < rng.uniform(0.0, 0.5)]])
        ].mean(0)
    return vectors


def _noise(count: int) -> NDArray[np.float32]:
    return np.random.default_rng(7).random((count, 256), np.float32) - np.float32(0.5)


def _exactly(table: VectorTable, wanted: NDArray[np.float32]) -> tuple[float, list[set[int]]]:
    order = np.arange(table.record_count, dtype=np.int32)
    lists: list[set[int]] = []
    times: list[float] = []
    for one in wanted:
        began = perf_counter()
        found = nearest(table, one, Similarity.COSINE, _TOP, order)
        times.append(1_000 * (perf_counter() - began))
        lists.append(set(found.record_ids.tolist()))
    return float(np.median(times)), lists


def _near(
    table: VectorTable, groups: Groups, wanted: NDArray[np.float32], share: float, lists: Sequence[set[int]]
) -> tuple[float, float, float]:
    """The median of the quickest times, the share of the exact lists that was found, and how many were compared."""
    order = np.arange(table.record_count, dtype=np.int32)
    times = np.full((_ROUNDS, len(wanted)), np.inf)
    held, compared = 0, 0
    for turn in range(_ROUNDS):
        for number, one in enumerate(wanted):
            began = perf_counter()
            near = nearest_in_groups(table, groups, one, Similarity.COSINE, _TOP, order, share)
            times[turn, number] = 1_000 * (perf_counter() - began)
            if turn == 0:
                held += len(lists[number] & set(near.found.record_ids.tolist()))
                compared += near.compared
    return float(np.median(times.min(axis=0))), held / (_TOP * len(wanted)), compared / len(wanted)


def _table(vectors: NDArray[np.float32]) -> VectorTable:
    count, nothing = vectors.shape[0], np.zeros(0, np.int32)
    return VectorTable(
        record_count=count,
        owners=np.arange(count, dtype=np.int32),
        vectors=vectors,
        places=np.zeros((count, 4), np.int32),
        faulty=nothing,
        faults=nothing.astype(np.int8),
    )
