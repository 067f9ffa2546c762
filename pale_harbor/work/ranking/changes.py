"""Changes of a ranker that might bring a record in, and the words that it lacks. None of them is tried here."""

from collections.abc import Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Final

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.near_misses import NearMiss, near_misses
from pale_harbor.core.ranking.plan import WordRun
from pale_harbor.core.text import Chain, ChainChoice, Token, chain_of, query_chains_of, record_chain_of
from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.languages import language_of
from pale_harbor.store.records.records import Record
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.default_ranker import chain_for
from pale_harbor.work.ranking.searching import WhyRecord
from pale_harbor.work.records.values import language_in, texts_of
from pale_harbor.work.workbench import ChosenRanker

# In words, the changed document, whether an index has to be built for it.
Change = tuple[str, dict[str, Any], bool]


@dataclass(frozen=True, slots=True)
class WordMissing:
    """A word of the query that the record lacks. readings: by number, what each makes of it; near: what the record
    has instead."""

    word: str
    readings: dict[int, list[str]]
    near: list[NearMiss]


def missing_words(ranker: Ranker, found: WhyRecord, record: Record) -> list[WordMissing]:
    """The words of the query that a record lacks, with what it has instead."""
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


def changes_to_try(
    opened: OpenCollection,
    chosen: ChosenRanker,
    found: WhyRecord,
    record: Record,
    missing: Sequence[WordMissing],
) -> Iterator[Change]:
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


def _rules_off(chosen: ChosenRanker, found: WhyRecord, fresh: Any) -> Iterator[Change]:
    for number in found.applied:
        document = fresh()
        document["rules"][number]["on"] = False
        yield f"switch rule {number + 1} off", document, False


def _by_meaning(opened: OpenCollection, chosen: ChosenRanker, fresh: Any) -> Iterator[Change]:
    """Spaces that are not asked yet, and more records from those that are."""
    for number, use in enumerate(chosen.ranker.spaces):
        more = min(10 * use.fetch, 10_000)
        document = fresh()
        document["spaces"][number] |= {"fetch": more, "at_least": None}
        yield f"take the {more:,} nearest records of the space {use.space}", document, False
        if use.near_enough is not None:
            document = fresh()
            document["spaces"][number] |= {"near_enough": None}
            yield f"ask the space {use.space} exactly", document, False
    asked = {use.space for use in chosen.ranker.spaces}
    for name, space in opened.spaces().items():
        if name not in asked and space.is_filled:
            document = fresh()
            document["spaces"].append({"space": name})
            yield f"ask the space {name} too", document, False


def _weights_on(chosen: ChosenRanker, missing: Sequence[WordMissing], record: Record, fresh: Any) -> Iterator[Change]:
    """Readings of weight 0 that hold a missing word."""
    for number, reading in enumerate(chosen.ranker.readings):
        if reading.weight > 0:
            continue
        terms = {token.text for _, token in _tokens(chosen.ranker, number, record)}
        if any(terms.intersection(word.readings.get(number, [])) for word in missing):
            document = fresh()
            document["readings"][number]["weight"] = 1.0
            yield f"{reading.field} weight 0 to 1", document, True


def _more_slack(chosen: ChosenRanker, missing: Sequence[WordMissing], fresh: Any) -> Iterator[Change]:
    near = [miss for word in missing for miss in word.near]
    kept: dict[str, Any] = fresh()["spelling"] or {}
    seen: list[dict[str, Any]] = []

    def with_slack(words: str, **changes: Any) -> Iterator[Change]:
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


def _other_chains(chosen: ChosenRanker, missing: Sequence[WordMissing], fresh: Any) -> Iterator[Change]:
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
) -> Iterator[Change]:
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


def _by_sound(missing: Sequence[WordMissing], record: Record, fresh: Any) -> Iterator[Change]:
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


def _by_letters(missing: Sequence[WordMissing], record: Record, fresh: Any) -> Iterator[Change]:
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
