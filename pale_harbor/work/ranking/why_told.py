"""What *why* tells: the arithmetic of a record's score with its place in the list, and what a blend made of it."""

from dataclasses import dataclass, fields
from math import isfinite
from typing import Any

from pale_harbor.core.blend import BlendHow, Normalisation
from pale_harbor.core.blend.blending import shares_of_meaning
from pale_harbor.core.ranking.near_misses import NearMiss
from pale_harbor.core.ranking.why import Why
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.work.chains.newest_lists import NewList
from pale_harbor.work.ranking.searching import WhyRecord, lists_of
from pale_harbor.work.ranking.why_not import Suggestion, WhyNot


@dataclass(frozen=True, slots=True, kw_only=True)
class ListPart:
    """A list's share of a blended score. weight: as it counts; score: the record's own in that list, for a space how
    alike it is in any case; rank: 0 where the list does not hold it."""

    name: str
    weight: float
    rank: int
    score: float
    part: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FormulaStep:
    """A part of a formula and what it comes to; None for the rank in a list that does not hold the record."""

    text: str
    value: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WordMatch:
    """A word of the query and the record's word that is most alike; match None where the record has none."""

    word: str
    match: str | None
    similarity: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SecondLookTold:
    """score = (1 − weight) · place + weight · similarity, the mean of the words' similarities."""

    space: str
    weight: float
    place: float
    similarity: float
    score: float
    words: list[WordMatch]


@dataclass(frozen=True, slots=True, kw_only=True)
class BlendTold:
    """How words and meaning came together. kind: of queries that this blend is for; meaning: its share, k: of
    reciprocal ranks; formula and steps: where there is one; second_look: of the second stage."""

    how: BlendHow
    kind: str | None
    meaning: float
    k: float
    normalise: Normalisation
    depth: int
    score: float
    lists: list[ListPart]
    formula: str | None
    steps: list[FormulaStep]
    second_look: SecondLookTold | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WhyTold(Why):
    """Why with the record's place.

    rank: in the whole list, None where it is not in it. blend: with meaning, what became of the score.
    """

    key: str
    pool_k1: float
    rank: int | None
    pinned: bool
    hidden: bool
    failed_filters: list[str]
    blend: BlendTold | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldTerms:
    """What a reading of a field makes of a word."""

    field: str
    terms: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class NearMissTold(NearMiss):
    """A term that the record has instead, and the field that has it."""

    field: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MissingWord:
    """A word that the record lacks. readings: what they make of it."""

    word: str
    readings: list[FieldTerms]
    near: list[NearMissTold]


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggested:
    """A change that brings the record in: the changed ranker, and the rank it gives. new_list: what is to be kept
    first, a version of a word list that it reads."""

    words: str
    document: RankerDocument
    rank: int
    new_list: NewList | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WhyNotTold:
    """shut_out: what keeps the record out, in sentences. suggestions: knobs that bring it in; synonyms: entries of a
    word list that do, if the words mean the same. tried: how many knobs were; untried: others that would take an index
    of their own."""

    why: WhyTold
    field_values: dict[str, Any]
    shut_out: list[str]
    missing: list[MissingWord]
    suggestions: list[Suggested]
    synonyms: list[Suggested]
    tried: int
    untried: int


def why_told(key: str, found: WhyRecord) -> WhyTold:
    """What is told of a record's score and place."""
    return WhyTold(
        **_parts(found.why),
        key=key,
        pool_k1=found.asked.ranker.combine.k1,
        rank=found.rank,
        pinned=found.pinned,
        hidden=found.hidden,
        failed_filters=found.failed_filters,
        blend=_blend(found),
    )


def why_not_told(key: str, found: WhyNot, reading_fields: list[str]) -> WhyNotTold:
    """What is told of a record that is not in a list. reading_fields: of the ranker's readings, in order."""
    return WhyNotTold(
        why=why_told(key, found.why),
        field_values=found.record.field_values,
        shut_out=found.shut_out,
        missing=[
            MissingWord(
                word=word.word,
                readings=[
                    FieldTerms(field=reading_fields[number], terms=terms) for number, terms in word.readings.items()
                ],
                near=[NearMissTold(**_parts(miss), field=reading_fields[miss.reading]) for miss in word.near],
            )
            for word in found.missing
        ],
        suggestions=_suggested(found.suggestions),
        synonyms=_suggested(found.synonyms),
        tried=found.tried,
        untried=found.untried,
    )


def _suggested(found: list[Suggestion]) -> list[Suggested]:
    return [Suggested(**_parts(one)) for one in found]


def _parts(whole: Any) -> dict[str, Any]:
    """The fields with which a dataclass is made."""
    return {one.name: getattr(whole, one.name) for one in fields(whole) if one.init}


def _blend(found: WhyRecord) -> BlendTold | None:
    """How words and meaning came together for a record; None where words are alone."""
    row, meaning = found.blended, found.asked.meaning
    if row is None or meaning is None:
        return None
    blend = meaning.blend
    weights = [1 - blend.meaning, *shares_of_meaning(blend.meaning, [one.use.weight for one in meaning.spaces])]
    parts = zip(lists_of(found.asked), weights, row.ranks, row.list_scores, row.parts, strict=True)
    look = row.second_look
    return BlendTold(
        how=blend.how,
        kind=meaning.kind,
        meaning=blend.meaning,
        k=blend.k,
        normalise=blend.normalise,
        depth=blend.depth,
        score=row.score,
        lists=[
            ListPart(name=name, weight=weight, rank=rank, score=score, part=part)
            for name, weight, rank, score, part in parts
        ],
        formula=None if blend.formula is None or row.known is None else blend.formula.text,
        steps=[]
        if blend.formula is None or row.known is None
        else [FormulaStep(text=one.text, value=_shown_rank(one.value)) for one in blend.formula.steps(row.known)],
        second_look=None
        if look is None or found.asked.ranker.second_stage is None
        else SecondLookTold(
            space=found.asked.ranker.second_stage.space,
            weight=found.asked.ranker.second_stage.weight,
            place=look.place,
            similarity=look.similarity.value,
            score=look.score,
            words=[
                WordMatch(word=word, match=look.record_words[which] if which >= 0 else None, similarity=float(best))
                for word, best, which in zip(
                    look.query_words, look.similarity.best.tolist(), look.similarity.which.tolist(), strict=True
                )
            ],
        ),
    )


def _shown_rank(value: float) -> float | None:
    """None for a rank in a list that does not hold the record: JSON knows no infinity."""
    return value if isfinite(value) else None
