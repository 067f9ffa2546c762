"""Makes the first query as quick as the next: kernels compiled, default rankers' indexes opened."""

import gc
from functools import cache
from time import perf_counter
from typing import Final

import numpy as np
import structlog

from pale_harbor.core.consequences import Gatherer
from pale_harbor.core.fields import column_of, facet
from pale_harbor.core.index import build_index
from pale_harbor.core.kernels import code_folders
from pale_harbor.core.measures import band, judged_list, measure
from pale_harbor.core.ranking import (
    Combine,
    CombineHow,
    Nearness,
    Need,
    Ranker,
    Reading,
    SlackWhen,
    Spelling,
    Typing,
    TypingWhen,
    Workspace,
    order_of_equals,
    prepare,
    search,
)
from pale_harbor.core.ranking.found import phrase
from pale_harbor.core.text import chain_of
from pale_harbor.core.typing.completing import complete, completion_index, suggested
from pale_harbor.core.typing.recipe import Completions
from pale_harbor.core.typing.suggestions import Offered, suggestions_of
from pale_harbor.core.vectors import Similarity, nearest, vector_table
from pale_harbor.errors import HarborError
from pale_harbor.machine_code import clear_unused
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.completing import completions_for
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.workbench import RankerChoice, Workbench

_FIRST: Final = Question("a")
_TYPED: Final = Question("a fog", is_typed=True)


def warm_up(workbench: Workbench) -> None:
    """Compiles every kernel (or reads it from its cache) and opens what most visitors will ask for."""
    started = perf_counter()
    compile_kernels()
    clear_unused(code_folders())
    for collection in workbench.collections():
        if collection.default_ranker is None:
            continue
        try:
            chosen = workbench.choose(collection, RankerChoice())
            workbench.with_collection(collection.name, lambda opened, r=chosen.ranker: _ask(opened, r))
        except HarborError as error:
            structlog.get_logger().warning("not opened", collection=collection.name, reason=str(error))
    # What is here now stays: looking through all of it for garbage would hold up a key press by 200 ms.
    gc.collect()
    gc.freeze()
    structlog.get_logger().info("warmed up", elapsed_ms=round((perf_counter() - started) * 1000))


def _ask(opened: OpenCollection, ranker: Ranker) -> None:
    find(opened, ranker, _FIRST, 1)
    if ranker.completions is not None:
        completions_for(opened, ranker, "a", 1)
    if ranker.typing is not None:
        # What begins so stands in indexes of whole words, which may be others.
        find(opened, ranker, _TYPED, 1)


@cache
def compile_kernels() -> None:
    """Runs every kernel once on a collection of two records, once in a process."""
    chain = chain_of("words > lower")
    index = build_index([["pale harbor"], ["harbor"]], chain)
    reading = Reading(field="text", chain=chain, query_chain=chain, nearness=Nearness())
    order = order_of_equals([], 2)
    for ranker in (
        Ranker(
            readings=(reading, reading),
            need=Need(((1, None),)),
            spelling=Spelling(edits=2, when=SlackWhen.ALWAYS, similar=0.5),
        ),
        Ranker(readings=(reading, reading), combine=Combine(CombineHow.POOLED)),
        Ranker(readings=(reading,), typing=Typing(when=TypingWhen.ALWAYS)),
    ):
        for text in ("pale harbr", "pale habro", "har* *or -pale"):
            query = prepare(text, ranker, [index] * len(ranker.readings))
            for most_merged in (0, 100):
                search(query, 2, order, Workspace(2), most_merged)
    words = [(index.postings("pale"), 0), (index.postings("harbor"), 1)]
    phrase(index, [(postings, place) for postings, place in words if postings is not None])
    facet([(column_of(["a", "b"]), order)])
    # With one vector each and with several, since both have a kernel of their own.
    for owners in ([0, 1], [0, 0, 1]):
        vectors = np.eye(2, dtype=np.float32)[[0, 1, 1][: len(owners)]]
        table = vector_table(2, 2, owners, [vectors], [(0, 0, 0, 0)] * len(owners))
        nearest(table, vectors[0], Similarity.COSINE, 1, order)
    for name in ("ap", "rprec", "bpref"):
        band(measure(name), judged_list(["a", "b"], {"a": 1}))
    found = suggestions_of([(1.0, [Offered("pale harbor", 2), Offered("harbor", 1)])])
    recipe = Completions(slack_from=1)
    complete(completion_index(suggested(found, recipe.begins), recipe), "hrb", 2)
    gatherer = Gatherer(chain_of("words > lower > stem(en)"))
    gatherer.add([("a", ["the fog bell and fog bells"] * 8)])
    gatherer.finished(1)
