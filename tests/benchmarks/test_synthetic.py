"""The made-up collections that figures are taken on: repeatable, and like real texts where it counts."""

from collections import Counter

import numpy as np
import pytest

from benchmarks.figures import query_figures
from benchmarks.synthetic import Synthetic, synthetic


@pytest.fixture(scope="module")
def made() -> Synthetic:
    return synthetic(3_000, query_count=50, vocabulary=5_000)


def test_the_same_seed_gives_the_same_collection(made: Synthetic):
    assert synthetic(3_000, query_count=50, vocabulary=5_000) == made
    assert synthetic(3_000, query_count=50, vocabulary=5_000, seed=1).records != made.records


def test_a_few_words_are_said_very_often_and_most_seldom(made: Synthetic):
    counts = np.array(sorted(Counter(" ".join(made.records).split()).values(), reverse=True))
    assert counts[0] > 20 * counts[100]
    assert counts[:100].sum() > 0.4 * counts.sum()
    # Zipf: the logarithm of the count falls in proportion to the logarithm of the rank.
    ranks = np.arange(10, 1_000)
    slope = np.polyfit(np.log(ranks), np.log(counts[ranks]), 1)[0]
    assert -1.3 < slope < -0.8


def test_lengths_vary_within_bounds(made: Synthetic):
    lengths = [len(record.split()) for record in made.records]
    assert min(lengths) >= 5
    assert max(lengths) <= 300
    assert max(lengths) > 3 * np.median(lengths)


def test_queries_have_three_words_that_records_say(made: Synthetic):
    said = set(" ".join(made.records).split())
    assert len(made.queries) == 50
    assert all(len(query.split()) == 3 and set(query.split()) <= said for query in made.queries)


def test_the_figures_are_of_what_they_say():
    figures = query_figures(2_000, scipy_queries=5, vocabulary=5_000)
    assert figures["records"] == 2_000
    assert float(figures["p50_ms"]) <= float(figures["p95_ms"])
    assert float(figures["scipy_p50_ms"]) > 0
