"""What corrections do: to the open queries of a judged set, and to words of the collection that were typed badly."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Final

from pale_harbor.core.comparing.comparison import Comparison, comparison
from pale_harbor.core.measures import judged_list, measure
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.simulating.slips import Slip, SlipKind, slips_of
from pale_harbor.core.typing.correcting import Corrections
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import judged_in
from pale_harbor.work.measuring.lists import ask_spaces_ahead, run_list
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import records_with_all_words
from pale_harbor.work.ranking.correcting import likeliest, words_of
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.spaces.open_space import OpenSpace
from pale_harbor.work.workbench import RankerChoice, Workbench

MEASURE: Final = "ndcg@10"
# As sure as a correction may have to be, for the curve.
SURE: Final = (0.0, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 0.99)
MOST_MADE_UP: Final = 2_000


@dataclass(frozen=True, slots=True, kw_only=True)
class QueryCorrected:
    """A judged query for which a correction is known. value, corrected: nDCG@10 of its list and of the other one;
    is_told: whether it is sure enough to be told; right: whether some record holds all words of the query as typed."""

    query_id: str
    query: str
    correction: str
    sure: float
    value: float
    corrected: float
    is_told: bool
    right: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SlipsMended:
    """Of slips of one kind how many were mended, how many were made something else of, and of how many."""

    kind: SlipKind
    made: int
    mended: int
    wrong: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SureStep:
    """What corrections come to if they have to be so sure. mean: nDCG@10 over the open queries, None without a set;
    told: queries that are told one; mended, wrong: shares of the slips; touched: of the right queries that were made
    up."""

    sure: float
    mean: float | None
    told: int
    mended: float
    wrong: float
    touched: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CorrectionsMeasured:
    """What corrections do.

    compared: the open queries without and with what they are told, None without a set; steps: by how sure a correction
    has to be; right_changed: judged queries that were right and are told something else.
    """

    sure: float
    compared: Comparison | None
    queries: list[QueryCorrected]
    right_changed: int
    slips: list[SlipsMended]
    right_made: int
    right_touched: int
    steps: list[SureStep]


def measure_corrections(
    bench: Workbench,
    collection_name: str,
    set_name: str | None,
    choice: RankerChoice,
    made_up: int = 200,
    seed: int = 0,
    told: Callable[[int, int], object] = lambda _done, _in_all: None,
) -> CorrectionsMeasured:
    """Asks for corrections of every open query of a set, and of so many words and word pairs typed badly and as many
    typed well.

    told: hears how many are done, of how many. Raises NotFound, Unavailable.
    """

    def work(opened: OpenCollection) -> CorrectionsMeasured:
        ranker = bench.choose(opened.collection, choice).ranker
        corrections = ranker.corrections or Corrections()
        judged = None if set_name is None else judged_in(bench, opened, set_name)
        slips = slips_of(words_of(opened, ranker), made_up, seed)
        queries = [] if judged is None else [one for one in judged.queries if one.query.strip()]
        in_all = len(queries) + len(slips)
        as_typed = replace(ranker, corrections=None)
        holding = partial(records_with_all_words, opened, ranker)
        values: dict[str, float] = {}
        found: list[QueryCorrected] = []
        spaces = ask_spaces_ahead(opened, as_typed, queries)
        for done, query in enumerate(queries):
            check_wanted()
            told(done, in_all)
            grades = {} if judged is None else judged.grades.get(query.query_id, {})
            if not judged_list((), grades).relevant_count:
                continue

            value_of = partial(_value, opened, as_typed, query, grades, spaces)
            values[query.query_id] = value_of(query.query)
            meant = likeliest(opened, ranker, Question(query.query, language=query.language), corrections, holding)
            if meant is not None:
                found.append(
                    QueryCorrected(
                        query_id=query.query_id,
                        query=query.query,
                        correction=meant.query,
                        sure=meant.sure,
                        value=values[query.query_id],
                        corrected=value_of(meant.query),
                        is_told=meant.sure >= corrections.sure,
                        right=meant.found > 0,
                    )
                )
        guessed: list[tuple[Slip, str, float]] = []
        for done, slip in enumerate(slips, start=len(queries)):
            check_wanted()
            told(done, in_all)
            meant = likeliest(opened, ranker, Question(slip.said), corrections, holding)
            guessed.append((slip, slip.said, 0.0) if meant is None else (slip, meant.query, meant.sure))
        told(in_all, in_all)
        return _measured(corrections.sure, values, found, guessed)

    return bench.with_collection(collection_name, work)


def _value(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    grades: Mapping[str, int],
    spaces: Mapping[str, OpenSpace] | None,
    text: str,
) -> float:
    """The measure of a text's list, by the judgments of a query."""
    ranked = run_list(opened, ranker, replace(query, query=text), spaces)
    return measure(MEASURE).of(judged_list(ranked.record_keys, grades))


def _measured(
    sure: float,
    values: dict[str, float],
    found: list[QueryCorrected],
    guessed: Sequence[tuple[Slip, str, float]],
) -> CorrectionsMeasured:
    bad = [one for one in guessed if one[0].kind is not SlipKind.RIGHT]
    good = [one for one in guessed if one[0].kind is SlipKind.RIGHT]

    def is_mended(one: tuple[Slip, str, float], least: float) -> bool:
        return one[1] == one[0].meant and one[2] >= least

    def is_wrong(one: tuple[Slip, str, float], least: float) -> bool:
        return one[1] not in (one[0].meant, one[0].said) and one[2] >= least

    def with_corrections(least: float) -> dict[str, float]:
        return values | {one.query_id: one.corrected for one in found if one.sure >= least}

    def share(count: int, of: Sequence[object]) -> float:
        return count / len(of) if of else 0.0

    steps = [
        SureStep(
            sure=least,
            mean=sum(with_corrections(least).values()) / len(values) if values else None,
            told=sum(one.sure >= least for one in found),
            mended=share(sum(is_mended(one, least) for one in bad), bad),
            wrong=share(sum(is_wrong(one, least) for one in bad), bad),
            touched=share(sum(is_wrong(one, least) for one in good), good),
        )
        for least in SURE
    ]
    slips = [
        SlipsMended(
            kind=kind,
            made=len(own),
            mended=sum(is_mended(one, sure) for one in own),
            wrong=sum(is_wrong(one, sure) for one in own),
        )
        for kind in SlipKind
        if (own := [one for one in bad if one[0].kind is kind])
    ]
    return CorrectionsMeasured(
        sure=sure,
        compared=comparison(values, with_corrections(sure)) if len(values) > 1 else None,
        queries=found,
        right_changed=sum(one.right and one.is_told for one in found),
        slips=slips,
        right_made=len(good),
        right_touched=sum(is_wrong(one, sure) for one in good),
        steps=steps,
    )
