"""Why a record is not in a list: what it lacks, what shut it out, and which knob would bring it in.

A suggestion is tried before it is made: the changed ranker is asked the same question, and the record's rank
in its list stands beside the suggestion.
"""

from collections.abc import Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass
from itertools import islice, pairwise
from typing import Any, Final

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.near_misses import NearMiss, near_misses
from pale_harbor.core.ranking.plan import WordRun
from pale_harbor.core.ranking.rules import Hide
from pale_harbor.core.text import Chain, ChainChoice, Token, chain_of, query_chains_of, record_chain_of
from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.languages import language_of
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.store.records.records import Record, record_with_key
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.default_ranker import chain_for
from pale_harbor.work.ranking.offered_synonyms import NewList, SynonymOffered, offered_synonyms
from pale_harbor.work.ranking.searching import WhyRecord, why_record
from pale_harbor.work.records.values import language_in, texts_of
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# Changes that need an index of their own are tried in collections of up to so many records.
MOST_INDEXED: Final = 20_000
MOST_TRIED: Final = 28
_DEEP: Final = 100


@dataclass(frozen=True, slots=True)
class WordMissing:
    """A word of the query that the record lacks. readings: by number, what each makes of it; near: what the record
    has instead."""

    word: str
    readings: dict[int, list[str]]
    near: list[NearMiss]


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A change of the ranker that was tried and brings the record in. rank: where it would be; new_list: a version of
    a word list that it reads and that is to be kept first."""

    words: str
    document: RankerDocument
    rank: int
    new_list: NewList | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class WhyNot:
    """Everything that keeps a record out of a list, or down in it.

    shut_out: in plain sentences; missing: words that it lacks in every reading. suggestions: knobs that bring it in;
    synonyms: entries of a word list that do, if the two words mean the same. tried: how many knobs were; untried: how
    many others need an index of their own, which takes long in a collection of this size.
    """

    why: WhyRecord
    record: Record
    shut_out: list[str]
    missing: list[WordMissing]
    suggestions: list[Suggestion]
    synonyms: list[Suggestion]
    tried: int
    untried: int


def why_not(bench: Workbench, opened: OpenCollection, choice: RankerChoice, question: Question, key: str) -> WhyNot:
    """Why a record is not in the list, or not higher. Raises NotFound where there is no such record."""
    chosen = bench.choose(opened.collection, choice)
    found = why_record(opened, chosen.ranker, question, key)
    with bench.pool.connection() as connection:
        record = record_with_key(connection, opened.collection, key)
    missing = _missing_words(chosen.ranker, found, record)
    shut_out = shut_out_by(chosen.ranker, found)
    suggestions: list[Suggestion] = []
    synonyms: list[Suggestion] = []
    tried = untried = 0
    if found.rank is None or found.rank > _DEEP:
        changes = _changes(opened, chosen, found, record, missing)
        for words, document, needs_index in islice(changes, MOST_TRIED):
            if needs_index and opened.record_count > MOST_INDEXED:
                untried += 1
                continue
            tried += 1
            suggestion = _try(bench, opened, choice, question, key, words, document)
            if suggestion is not None and not _adds_nothing(suggestion, suggestions):
                suggestions.append(suggestion)
        # What is only misspelt is no synonym.
        lacking = [word.word for word in missing if not word.near]
        for offered in offered_synonyms(bench, opened, choice, chosen, found, record, lacking):
            suggestion = _try_synonym(bench, opened, choice, question, key, offered)
            if suggestion is not None:
                synonyms.append(suggestion)
        suggestions.sort(key=lambda one: one.rank)
        synonyms.sort(key=lambda one: one.rank)
    return WhyNot(
        why=found,
        record=record,
        shut_out=shut_out,
        missing=missing,
        suggestions=suggestions,
        synonyms=synonyms,
        tried=tried,
        untried=untried,
    )


def _try(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    question: Question,
    key: str,
    words: str,
    document: dict[str, Any],
) -> Suggestion | None:
    """The suggestion with the rank that it gives; None where it does not bring the record in."""
    try:
        changed = ranker_document(document)
        ranker = bench.choose(opened.collection, RankerChoice(choice.name, choice.version, changed)).ranker
        rank = why_record(opened, ranker, question, key).rank
    except (BadInput, NotFound):
        return None
    return None if rank is None else Suggestion(words, changed, rank)


def _try_synonym(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    question: Question,
    key: str,
    offered: SynonymOffered,
) -> Suggestion | None:
    try:
        changed = ranker_document(offered.document)
        tried = RankerChoice(choice.name, choice.version, changed)
        rank = why_record(opened, bench.ranker_with_lists(opened.collection, tried, offered.lists), question, key).rank
    except (BadInput, NotFound):
        # A chain that has as many stages as it may, say.
        return None
    return None if rank is None else Suggestion(offered.words, changed, rank, offered.new_list)


def _adds_nothing(suggestion: Suggestion, before: Sequence[Suggestion]) -> bool:
    """Whether a gentler change of spelling slack ranks the record as high."""
    return suggestion.document.whole["spelling"] is not None and any(
        one.rank <= suggestion.rank
        for one in before
        if one.document.whole["spelling"] is not None
        and one.document.whole["readings"] == suggestion.document.whole["readings"]
    )


def _missing_words(ranker: Ranker, found: WhyRecord, record: Record) -> list[WordMissing]:
    languages = _languages(record)
    held = {word.word for word in found.why.words if word.held}
    missing: list[WordMissing] = []
    for leaf in found.asked.plan.leaves:
        if not isinstance(leaf, WordRun) or not leaf.scored:
            continue
        for start, end, _ in leaf.words:
            word = leaf.text[start:end]
            if word in held or any(one.word == word for one in missing):
                continue
            readings: dict[int, list[str]] = {}
            near: list[NearMiss] = []
            for number, reading in enumerate(ranker.readings):
                chains = query_chains_of(reading.query_chain, leaf.text, found.asked.question.language)
                # A query that may be of any language is met in the record's own.
                chain = chains[0] if len(chains) == 1 else _own_chain(reading.query_chain, record)
                tokens = chain.run(leaf.text)
                terms = list(dict.fromkeys(t.text for t in tokens if t.start < end and start < t.end))
                readings[number] = terms
                near += near_misses(terms, number, _tokens(ranker, number, record), languages)
            missing.append(WordMissing(word, readings, _nearest(near)))
    return missing


def _tokens(ranker: Ranker, number: int, record: Record) -> Iterator[tuple[str, Token]]:
    reading = ranker.readings[number]
    chain = _own_chain(reading.chain, record)
    for text in texts_of(record.field_values.get(reading.field)):
        for token in chain.run(text):
            yield text, token


def _own_chain(choice: ChainChoice, record: Record) -> Chain:
    by = None if isinstance(choice, Chain) else language_in(record.field_values.get(choice.by))
    return record_chain_of(choice, by)


def _nearest(near: Sequence[NearMiss], most: int = 5) -> list[NearMiss]:
    """The nearest over all readings, each term of the record once."""
    seen: dict[str, NearMiss] = {}
    for miss in sorted(near, key=lambda one: (one.stem is None, one.edits, -one.similarity, one.reading)):
        seen.setdefault(miss.said.casefold(), miss)
    return list(seen.values())[:most]


def _languages(record: Record) -> list[Language]:
    """Languages whose stemmers are asked: the one that the record's texts seem to be in, and English."""
    text = " ".join(text for value in record.field_values.values() for text in texts_of(value) if " " in text)
    guessed = language_of(text)
    known = [Language(guessed)] if guessed in {language.value for language in Language} else []
    return list(dict.fromkeys([*known, Language.ENGLISH]))


def shut_out_by(ranker: Ranker, found: WhyRecord) -> list[str]:
    """What keeps a record out of a list, in plain sentences; empty where it is in it."""
    said: list[str] = []
    if found.hidden:
        said += [
            f"Rule {number + 1} hides it" + (f": {found.rules[number].reason}" if found.rules[number].reason else ".")
            for number in found.applied
            if isinstance(found.rules[number].do, Hide)
        ]
    said += [f"It does not pass the filter: {one}." for one in found.failed_filters]
    words = [word for word in found.why.words if word.counted]
    if not found.why.matched and words:
        held = [word.word for word in words if word.held]
        if held:
            said.append(
                f"It holds {len(held)} of {len(words)} words of the query ({', '.join(held)}), and that is not enough."
            )
        else:
            said.append("It holds no word of the query in any reading.")
    if not words and not found.asked.question.filters:
        said.append("No word of the query is left to look for.")
    return said + _not_near(found)


def _not_near(found: WhyRecord) -> list[str]:
    """The spaces whose lists do not hold the record."""
    meaning, row = found.asked.meaning, found.blended
    if meaning is None or row is None or found.rank is not None:
        return []
    alike = zip(meaning.spaces, row.ranks[1:], row.list_scores[1:], row.passages, strict=True)
    return [
        f'The space "{asked.space.name}" gives its {asked.use.fetch} nearest records; this one, {value:.3f} alike, is '
        "not among them."
        if passage >= 0
        else f'The record has no vector in the space "{asked.space.name}".'
        for asked, rank, value, passage in alike
        if asked.vector is not None and rank == 0
    ]


def _changes(
    opened: OpenCollection,
    chosen: ChosenRanker,
    found: WhyRecord,
    record: Record,
    missing: Sequence[WordMissing],
) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Changes that might bring the record in: in words, the changed document, whether an index has to be built."""

    def fresh() -> dict[str, Any]:
        return deepcopy(chosen.document.whole)

    yield from _rules_off(chosen, found, fresh)
    for number, one in enumerate(chosen.ranker.filters):
        if str(one) in found.failed_filters:
            document = fresh()
            del document["filters"][number]
            yield f"drop the filter: {one}", document, False
    words = [word for word in found.why.words if word.counted]
    held = sum(word.held for word in words)
    if 0 < held < len(words):
        for need in ([held] if held > 1 else []) + ["any"]:
            document = fresh()
            document["need"] = need
            said = "any word" if need == "any" else f"at least {need} words"
            yield f"need {said} of the query", document, False
    yield from _weights_on(chosen, missing, record, fresh)
    yield from _more_slack(chosen, missing, fresh)
    yield from _by_meaning(opened, chosen, fresh)
    yield from _other_chains(chosen, missing, fresh)
    yield from _more_readings(opened, chosen, missing, record, fresh)
    yield from _by_sound(missing, record, fresh)
    yield from _by_letters(missing, record, fresh)


def _rules_off(chosen: ChosenRanker, found: WhyRecord, fresh: Any) -> Iterator[tuple[str, dict[str, Any], bool]]:
    for number in found.applied:
        document = fresh()
        document["rules"][number]["on"] = False
        yield f"switch rule {number + 1} off", document, False


def _by_meaning(opened: OpenCollection, chosen: ChosenRanker, fresh: Any) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Spaces that are not asked yet, and more records from those that are."""
    for number, use in enumerate(chosen.ranker.spaces):
        more = min(10 * use.fetch, 10_000)
        document = fresh()
        document["spaces"][number] |= {"fetch": more, "at_least": None}
        yield f"take the {more:,} nearest records of the space {use.space}", document, False
    asked = {use.space for use in chosen.ranker.spaces}
    for name, space in opened.spaces().items():
        if name not in asked and space.is_filled:
            document = fresh()
            document["spaces"].append({"space": name})
            yield f"ask the space {name} too", document, False


def _weights_on(
    chosen: ChosenRanker, missing: Sequence[WordMissing], record: Record, fresh: Any
) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Readings of weight 0 that hold a missing word."""
    for number, reading in enumerate(chosen.ranker.readings):
        if reading.weight > 0:
            continue
        terms = {token.text for _, token in _tokens(chosen.ranker, number, record)}
        if any(terms.intersection(word.readings.get(number, [])) for word in missing):
            document = fresh()
            document["readings"][number]["weight"] = 1.0
            yield f"{reading.field} weight 0 to 1", document, True


def _more_slack(
    chosen: ChosenRanker, missing: Sequence[WordMissing], fresh: Any
) -> Iterator[tuple[str, dict[str, Any], bool]]:
    near = [miss for word in missing for miss in word.near]
    kept: dict[str, Any] = fresh()["spelling"] or {}
    seen: list[dict[str, Any]] = []

    def with_slack(words: str, **changes: Any) -> Iterator[tuple[str, dict[str, Any], bool]]:
        document = fresh()
        document["spelling"] = {**kept, **changes}
        if document["spelling"] not in seen:
            seen.append(document["spelling"])
            yield words, document, False

    if missing:
        yield from with_slack("spelling slack by the length of the word", edits="by_length")
        yield from with_slack(
            "spelling slack by the length of the word, for every word", edits="by_length", when="always"
        )
        for edits, said in ((1, "1 edit"), (2, "2 edits")):
            yield from with_slack(f"spelling slack of {said} in every word", edits=edits, when="always")
            yield from with_slack(
                f"spelling slack of {said}, the first letter free", edits=edits, when="always", fixed_start=0
            )
    similarity = max((miss.similarity for miss in near), default=0.0)
    if similarity >= 0.3:
        threshold = int(similarity * 10) / 10
        yield from with_slack(
            f"slack for words that share trigrams, from {threshold:g}", similar=threshold, when="always"
        )
    if chosen.document.whole["spelling"] is not None:
        for number in sorted({miss.reading for miss in near if not chosen.ranker.readings[miss.reading].slack}):
            document = fresh()
            document["readings"][number]["slack"] = True
            yield f"spelling slack in {chosen.ranker.readings[number].field} too", document, False


def _other_chains(
    chosen: ChosenRanker, missing: Sequence[WordMissing], fresh: Any
) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Stemmers and folded accents where they would make the two terms one."""
    done: set[tuple[int, str]] = set()
    for miss in (miss for word in missing for miss in word.near):
        reading = chosen.ranker.readings[miss.reading]
        if not isinstance(reading.chain, Chain):
            continue
        names = [call.name for call in reading.chain.calls]
        for stage, wanted in (
            (f"stem({miss.stem})", miss.stem is not None and "stem" not in names),
            ("accents", "accents" not in names),
        ):
            if wanted and (miss.reading, stage) not in done:
                done.add((miss.reading, stage))
                document = fresh()
                document["readings"][miss.reading]["chain"] = f"{reading.chain.notation} > {stage}"
                document["readings"][miss.reading]["query_chain"] = None
                yield f"{reading.field} read with {stage} at the end of its chain", document, True


def _more_readings(
    opened: OpenCollection, chosen: ChosenRanker, missing: Sequence[WordMissing], record: Record, fresh: Any
) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Fields that nobody reads and that hold a missing word."""
    read = {reading.field for reading in chosen.ranker.readings}
    for field, value in record.field_values.items():
        if field in read or field not in opened.field_names:
            continue
        said = " ".join(texts_of(value)).casefold()
        if any(word.word.casefold() in said for word in missing):
            document = fresh()
            document["readings"].append({"field": field, "chain": chain_for(None), "weight": 1.0})
            yield f"a reading of {field}", document, True


_SLACK_REACHES: Final = 2
# What names sound like in several languages, and in German.
_SOUNDS: Final = tuple(f"nfkc > words > lower > accents > sounds({code})" for code in ("metaphone", "cologne"))
# Written as one word here and as two there, the letters go on in the same order.
_LETTERS: Final = "nfkc > words > lower > accents > grams(3, 3)"
_ENOUGH_LETTERS: Final = 0.5


def _by_sound(missing: Sequence[WordMissing], record: Record, fresh: Any) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Fields with a word that sounds like a missing one which spelling slack cannot reach."""
    far = [word for word in missing if all(miss.edits > _SLACK_REACHES for miss in word.near)]
    for field, texts in _texts_of_fields(record):
        for notation in _SOUNDS:
            chain = chain_of(notation)
            here = {token.text for text in texts for token in chain.run(text)}
            if any(here.intersection(chain.terms(word.word)) for word in far):
                document = fresh()
                document["readings"].append({"field": field, "chain": notation, "weight": 0.3, "slack": False})
                yield f"a reading of {field} by how its words sound", document, True
                break


def _by_letters(
    missing: Sequence[WordMissing], record: Record, fresh: Any
) -> Iterator[tuple[str, dict[str, Any], bool]]:
    """Fields that hold a missing word written in two, or two of them written as one."""
    for field, texts in _texts_of_fields(record):
        if any(_joined_or_split(word.word, text) for word in missing for text in texts):
            document = fresh()
            reading = {"field": field, "chain": _LETTERS, "weight": 0.3, "share": _ENOUGH_LETTERS}
            document["readings"].append(reading)
            yield f"a reading of {field} by letters, for words written apart or as one", document, True


def _texts_of_fields(record: Record) -> Iterator[tuple[str, list[str]]]:
    for field, value in record.field_values.items():
        texts = [text for text in texts_of(value) if any(letter.isalpha() for letter in text)]
        if texts:
            yield field, texts


def _joined_or_split(word: str, text: str) -> bool:
    """Whether a text has the word in two, or the word is a part of a longer one there."""
    chain = chain_of("nfkc > words > lower > accents")
    own = "".join(chain.terms(word))
    here = chain.terms(text)
    return len(own) > 3 and (
        any(own == first + second for first, second in pairwise(here)) or any(own in one for one in here if one != own)
    )
