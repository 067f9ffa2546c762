"""How long a search takes at each letter typed: by beginnings in the vocabulary, and by a reading of prefixes."""

from time import perf_counter

from benchmarks.figures import Figures
from benchmarks.ranking import Collection, percentiles
from benchmarks.synthetic import synthetic
from pale_harbor.core.index import build_index
from pale_harbor.core.ranking import Ranker, Reading, Typing, TypingWhen
from pale_harbor.core.text import chain_of

_ALWAYS = TypingWhen.ALWAYS
# Of more records an index of prefixes does not fit beside the others.
_MOST_CUT = 100_000


def typing_figures(record_count: int, query_count: int = 100) -> Figures:
    """Milliseconds over every letter of the last of three words; what the index of prefixes takes up beside it."""
    made = synthetic(record_count, query_count)
    words, prefixes = chain_of("words > lower"), chain_of("words > lower > prefixes(1, 12)")
    text = build_index(([one] for one in made.records), words)
    typed = [query[: len(query) - left] for query in made.queries for left in range(len(query.split(" ")[-1]))]
    # Neighbours that changed places in the last word, where it is long enough for an edit.
    slipped = [_slipped(one) for one in typed if len(one.split(" ")[-1]) >= 4]
    plain = (Reading(field="text", chain=words, query_chain=words),)
    indexes = {"text": text}
    ways = {
        "whole": (Ranker(readings=plain), typed),
        "typed": (Ranker(readings=plain, typing=Typing(when=_ALWAYS, letters=1)), typed),
        "typed_with_slip": (Ranker(readings=plain, typing=Typing(when=_ALWAYS)), slipped),
    }
    figures: Figures = {"records": record_count, "terms": len(text.vocabulary)}
    if record_count <= _MOST_CUT:
        began = perf_counter()
        cut = indexes["prefixes"] = build_index(([one] for one in made.records), prefixes)
        figures["building_prefixes_s"] = round(perf_counter() - began, 1)
        figures["index_mb"] = round(text.index_bytes / 1e6, 1)
        figures["index_of_prefixes_mb"] = round(cut.index_bytes / 1e6, 1)
        figures["prefixes_to_words"] = round(cut.index_bytes / text.index_bytes, 2)
        both = (*plain, Reading(field="prefixes", chain=prefixes, query_chain=words))
        ways["by_prefixes"] = (Ranker(readings=both), typed)
    collection = Collection(indexes, record_count)
    for name, (ranker, queries) in ways.items():
        figures[f"{name}_p50_ms"], figures[f"{name}_p95_ms"] = percentiles(
            lambda query, own=ranker: collection.ask(query, own), queries
        )
    return figures


def _slipped(query: str) -> str:
    *before, last = query.split(" ")
    middle = len(last) // 2
    return " ".join([*before, last[:middle] + last[middle + 1] + last[middle] + last[middle + 2 :]])
