"""How long completions take among many suggestions, and corrections among many words; and how that grows."""

from time import perf_counter

import numpy as np

from benchmarks.figures import Figures
from benchmarks.synthetic import made_up_words
from pale_harbor.core.simulating.slips import SlipKind, slips_of
from pale_harbor.core.typing.completing import complete, completion_index, suggested
from pale_harbor.core.typing.correcting import SaidWord, readings_of
from pale_harbor.core.typing.recipe import BeginsAt, Completions
from pale_harbor.core.typing.suggestions import Offered, suggestions_of
from pale_harbor.core.typing.word_model import WordModel, WordsInRow, word_model

_SHOWN = 10
_WORDS = 60_000
_TYPED = 200


def completion_figures(count: int) -> Figures:
    """Milliseconds of a key press over every letter of 200 suggestions, by where typing may begin, and memory."""
    rng = np.random.default_rng(1690)
    words = made_up_words(_WORDS, rng)
    made: dict[str, float] = {}
    while len(made) < count:
        drawn = np.minimum((rng.pareto(0.6, count * 3)).astype(np.int64), _WORDS - 1)
        sizes = rng.integers(1, 5, count)
        at = 0
        for size in sizes.tolist():
            made[" ".join(words[drawn[at : at + size]].tolist())] = float(rng.integers(1, 1_000))
            at += size
            if len(made) == count or at + 4 > drawn.size:
                break
    began = perf_counter()
    found = suggestions_of([(1.0, (Offered(text, weight) for text, weight in made.items()))])
    figures: Figures = {"suggestions": count, "gathering_s": round(perf_counter() - began, 1)}
    typed = [found.texts[i] for i in rng.integers(0, len(found), _TYPED).tolist()]
    for begins in BeginsAt:
        began = perf_counter()
        index = completion_index(suggested(found, begins), Completions(begins=begins))
        name = f"from_{begins.value}"
        figures[f"{name}_build_s"] = round(perf_counter() - began, 1)
        figures[f"{name}_mb"] = round(index.size_bytes / 1e6, 1)
        for way, texts in (("", typed), ("_with_slip", [_slipped(one) for one in typed])):
            complete(index, texts[0], _SHOWN)
            times: list[float] = []
            for text in texts:
                for end in range(1, len(text) + 1):
                    began = perf_counter()
                    complete(index, text[:end], _SHOWN)
                    times.append((perf_counter() - began) * 1000)
            figures[f"{name}{way}_p50_ms"] = round(float(np.median(times)), 2)
            figures[f"{name}{way}_p95_ms"] = round(float(np.percentile(times, 95)), 2)
    return figures


def correction_figures(count: int) -> Figures:
    """Milliseconds to read two words of which one holds a slip, among so many words."""
    rng = np.random.default_rng(1690)
    words = made_up_words(count, rng)
    # As frequent as in real texts, and each of them somewhere.
    times = np.maximum(1, (count / (np.arange(count) + 2.7) ** 1.07 * 20).astype(np.int64))
    drawn = rng.permutation(np.repeat(np.arange(count, dtype=np.int32), times))
    follows = np.ones(drawn.size, np.bool_)
    follows[::20] = False
    began = perf_counter()
    model = word_model([WordsInRow(words.tolist(), drawn, follows)])
    figures: Figures = {
        "words": count,
        "building_s": round(perf_counter() - began, 1),
        "mb": round(model.size_bytes / 1e6, 1),
    }
    slips = [one for one in slips_of(model, 500) if one.kind is not SlipKind.RIGHT]
    queries = [_said(model, one.said) for one in slips]
    readings_of(model, queries[0])
    taken: list[float] = []
    mended = 0
    for slip, said in zip(slips, queries, strict=True):
        began = perf_counter()
        best = readings_of(model, said)[0]
        taken.append((perf_counter() - began) * 1000)
        mended += " ".join(word for piece in best.pieces for word in piece.meant) == slip.meant
    figures["p50_ms"] = round(float(np.median(taken)), 2)
    figures["p95_ms"] = round(float(np.percentile(taken, 95)), 2)
    figures["mended"] = round(mended / len(slips), 2)
    return figures


def _said(model: WordModel, query: str) -> list[SaidWord]:
    return [SaidWord(word, model.count(word) > 0) for word in query.split()]


def _slipped(text: str) -> str:
    middle = len(text) // 2
    return text[:middle] + "q" + text[middle + 1 :]
