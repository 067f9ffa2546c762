"""The ranker that a document describes: names resolved, chains built, rules and filters made ready."""

from collections.abc import Callable, Mapping

from pale_harbor.core.blend import (
    Blend,
    BlendHow,
    Formula,
    FormulaError,
    Normalisation,
    QueryKind,
    SecondStage,
    SpaceUse,
    formula_of,
    shown_name,
)
from pale_harbor.core.fields import Filter, Has, OneOf, Within, day_of
from pale_harbor.core.ranking import (
    Combine,
    FieldOrder,
    How,
    Nearness,
    Need,
    Ranker,
    Reading,
    Shape,
    Signal,
    Spelling,
    When,
)
from pale_harbor.core.ranking.rules import (
    Action,
    Always,
    Asked,
    Condition,
    FilterBy,
    Hide,
    Holding,
    Lift,
    LookIn,
    Matching,
    Pin,
    Rule,
    Weigh,
)
from pale_harbor.core.text import Chain, ChainChoice, ChainError, ChainsByLanguage
from pale_harbor.core.text.patterns import SafePattern, safe_pattern
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.word_lists import NO_LISTS, WordList, WordSet
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker_document import (
    UNUSABLE,
    ActionDocument,
    BlendDocument,
    ConditionDocument,
    FilterDocument,
    QueryKindDocument,
    RankerDocument,
    ReadingDocument,
    RuleDocument,
    SignalDocument,
    SpellingDocument,
    reference,
)


def ranker_of(
    document: RankerDocument, chain: Callable[[str], Chain], lists: Mapping[str, WordList] = NO_LISTS
) -> Ranker:
    """The ranker that a document describes.

    chain: gives the chain of a notation or an @name, raises NotFound or ChainError; lists: the word
    lists that rules may name. Raises BadInput for a wrong chain or rule.
    """
    names = formula_names(document)
    readings = [_reading(reading, chain, f"readings[{i}]") for i, reading in enumerate(document.readings)]
    combine = document.combine
    return Ranker(
        tuple(readings),
        tuple(field_order(name) for name in document.equals_by),
        Combine(How(combine.how), combine.share, combine.k1),
        _need(document.need),
        None if document.spelling is None else _spelling(document.spelling),
        tuple(_signal(signal) for signal in document.signals),
        tuple(_rule(rule, lists, f"rules[{i}]") for i, rule in enumerate(document.rules)),
        document.one_per,
        tuple(filter_of(one) for one in document.filters),
        tuple(SpaceUse(one.space, one.weight, one.fetch, one.at_least) for one in document.spaces),
        _blend(document.blend, names, "blend"),
        None
        if document.second_stage is None
        else SecondStage(document.second_stage.space, document.second_stage.first, document.second_stage.weight),
        tuple(_kind(kind, names, f"kinds[{i}]") for i, kind in enumerate(document.kinds)),
    )


def formula_names(document: RankerDocument) -> list[str]:
    """What a formula of this ranker may ask of a candidate."""
    spaces = [one.space for one in document.spaces]
    names = ["words", "nearness", "rank.words"]
    names += [shown_name("rank", space) for space in spaces] + [shown_name("space", space) for space in spaces]
    names += [shown_name("reading", reading.field) for reading in document.readings]
    names += [shown_name("signal", signal.field) for signal in document.signals]
    return list(dict.fromkeys(names))


def field_order(name: str) -> FieldOrder:
    """`year`, or `-year` for the greatest first."""
    return FieldOrder(name.removeprefix("-"), name.startswith("-"))


def filter_of(document: FilterDocument) -> Filter:
    """The filter that a document describes."""
    if document.one_of is not None:
        return OneOf(document.field, tuple(document.one_of))
    if document.has is not None:
        return Has(document.field, document.has)
    return Within(document.field, document.low, document.high)


def _blend(document: BlendDocument, names: list[str], where: str) -> Blend:
    return Blend(
        BlendHow(document.how),
        document.meaning,
        document.k,
        Normalisation(document.normalise),
        document.fetch,
        document.depth,
        # One that is kept beside another way to blend may name what is gone.
        None
        if document.formula is None or document.how != "formula"
        else _formula(document.formula, names, f"{where}.formula"),
    )


def _formula(text: str, names: list[str], where: str) -> Formula:
    try:
        return formula_of(text, names)
    except FormulaError as error:
        raise BadInput(UNUSABLE, [(where, str(error))]) from error


def _kind(document: QueryKindDocument, names: list[str], where: str) -> QueryKind:
    when = document.when
    words = None
    if when.at_least_words is not None or when.at_most_words is not None:
        words = (when.at_least_words or 0, when.at_most_words)
    pattern = None if when.pattern is None else _pattern(when.pattern, f"{where}.when.pattern")
    return QueryKind(document.name, _blend(document.blend, names, f"{where}.blend"), words, pattern, when.quoted)


def _pattern(source: str, where: str) -> SafePattern:
    try:
        return safe_pattern(source, place_of(source, 0, len(source)))
    except ChainError as error:
        raise BadInput(UNUSABLE, [(where, str(error))]) from error


def _reading(reading: ReadingDocument, chain: Callable[[str], Chain], where: str) -> Reading:
    record_chain = _choice(reading.chain, chain, f"{where}.chain")
    query_chain = record_chain
    if reading.query_chain is not None:
        query_chain = _choice(reading.query_chain, chain, f"{where}.query_chain")
    near = reading.nearness
    return Reading(
        reading.field,
        record_chain,
        query_chain,
        reading.weight,
        reading.k1,
        reading.b,
        reading.share,
        reading.slack,
        None if near is None else Nearness(near.weight, near.gap, near.same_order),
    )


def _need(need: int | str | dict[str, int | str]) -> Need:
    steps = need if isinstance(need, dict) else {"1": need}
    return Need(tuple(sorted((int(start), _amount(amount)) for start, amount in steps.items())))


def _amount(amount: int | str) -> int | float | None:
    if amount == "all":
        return None
    if amount == "any":
        return 1
    return int(amount[:-1]) / 100 if isinstance(amount, str) else amount


def _spelling(document: SpellingDocument) -> Spelling:
    return Spelling(
        None if document.edits == "by_length" else document.edits,
        document.lengths,
        document.fixed_start,
        document.most,
        document.worth,
        When(document.when),
        document.rare,
        document.similar,
    )


def _signal(document: SignalDocument) -> Signal:
    now = day_of(document.now, last=False) if isinstance(document.now, str) else document.now
    return Signal(
        document.field,
        Shape(document.shape),
        document.weight,
        document.scale,
        document.without,
        now,
        document.how == "multiply",
    )


def _rule(document: RuleDocument, lists: Mapping[str, WordList], where: str) -> Rule:
    until = None if document.until is None else day_of(document.until, last=True)
    return Rule(_condition(document.when, lists, where), _action(document.do), document.reason, until, document.on)


def _condition(document: ConditionDocument, lists: Mapping[str, WordList], where: str) -> Condition:
    if document.query is not None:
        return Asked(document.query)
    if document.pattern is not None:
        return Matching(_pattern(document.pattern, f"{where}.when.pattern"))
    if document.list is not None:
        name = document.list.removeprefix("@")
        words = lists.get(name)
        if not isinstance(words, WordSet):
            problem = f'there is no list of words "{document.list}". A rule looks for the words of a list of that kind.'
            raise BadInput(UNUSABLE, [(f"{where}.when.list", problem)])
        return Holding(name, words)
    return Always()


def _action(document: ActionDocument) -> Action:
    by = 1.0 if document.by is None else document.by
    if document.pin is not None:
        return Pin(tuple(document.pin))
    if document.lift is not None:
        return Lift(tuple(document.lift), by)
    if document.hide is not None:
        return Hide(tuple(document.hide))
    if document.filter is not None:
        return FilterBy(document.filter, document.spread)
    if document.look_in is not None:
        return LookIn(document.look_in)
    assert document.weigh is not None
    return Weigh(document.weigh, by)


def _choice(written: str | dict[str, str], chain: Callable[[str], Chain], where: str) -> ChainChoice:
    if isinstance(written, str):
        return _chain(written, chain, where)
    chains = [
        (language, _chain(reference(text), chain, f"{where}.{language}"))
        for language, text in written.items()
        if language not in ("by", "else")
    ]
    return ChainsByLanguage(written["by"], tuple(chains), _chain(reference(written["else"]), chain, f"{where}.else"))


def _chain(text: str, chain: Callable[[str], Chain], where: str) -> Chain:
    try:
        return chain(text)
    except ChainError as error:
        raise BadInput(UNUSABLE, [(where, str(error))]) from error
