"""How well pages were read: by page and by thing, the worst first."""

from collections import Counter
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from statistics import median
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.pages import PagePlaces
from pale_harbor.core.pages.confusions import Confusion, confusions_in
from pale_harbor.core.pages.doubts import Doubt, doubtful_words
from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.text.languages import language_of
from pale_harbor.core.text.stages.misread import Misread
from pale_harbor.errors import NotFound
from pale_harbor.formats.pages.places_text import places_in, reference_in
from pale_harbor.store.chains.word_lists import latest_lists, list_named
from pale_harbor.store.collections.collections import CollectionField, collection_named, fields_of
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records.page_places import places_kept
from pale_harbor.store.records.records import Record, record_count, sampled_records
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.running.wanted import check_wanted

# Each takes some milliseconds, and somebody waits.
MOST_READ: Final = 1_000
_AT_ONCE: Final = 200
_WORST: Final = 200
_SHOWN_WORDS: Final = 200
_SHOWN_CONFUSIONS: Final = 20
# From so many words on, of which so many are unknown, a text is hardly one; where twice as many are as on most pages.
_TELLING: Final = 10
_HARDLY: Final = 0.7
_MORE_THAN_USUAL: Final = 2.0
_HARDLY_READ: Final = "hardly a word is known: another language or script, or upside down"
# Codes of ISO 639-2 and of forms of Norwegian, as files of pages have them, by those that texts are told by.
_CODES: Final = {
    "eng": "en",
    "deu": "de",
    "ger": "de",
    "fra": "fr",
    "fre": "fr",
    "spa": "es",
    "nld": "nl",
    "dut": "nl",
    "nor": "no",
    "nob": "no",
    "nno": "no",
    "nb": "no",
    "nn": "no",
    "dan": "da",
    "swe": "sv",
    "fin": "fi",
    "ita": "it",
    "por": "pt",
    "hun": "hu",
    "ron": "ro",
    "rum": "ro",
    "rus": "ru",
}


@dataclass(frozen=True, slots=True)
class DoubtTold:
    """A word that was perhaps read wrong: start and end in the text, in code points; what speaks against it."""

    start: int
    end: int
    word: str
    doubts: tuple[Doubt, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PageQuality:
    """How well a page was read. field: its text; confidence: of the machine by letters, None where it says nothing;
    words: how many; doubtful: how many of them, unknown: those of these that nothing else knows, and doubts: the first
    of the doubtful ones. language: what its text seems to be in. remark: what the whole page looks like, "" for nothing
    odd.
    """

    key: str
    title: str
    picture: str | None
    thing: str | None
    field: str
    confidence: float | None
    words: int
    doubtful: int
    unknown: int
    doubts: list[DoubtTold]
    language: str | None
    remark: str


@dataclass(frozen=True, slots=True)
class ThingQuality:
    """How well the pages of a thing were read."""

    thing: str
    pages: int
    confidence: float | None
    words: int
    doubtful: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingQuality:
    """How well a collection's pages were read. records: in all; looked_at: of these; pages: that were among them,
    unfit: of which the places are of another text, or are not here. things: the worst first; worst: the worst pages;
    confusions: what the machine seems to have taken for what, and stage: that makes these one, None where there are
    none.
    """

    revision: int
    records: int
    looked_at: int
    pages: int
    unfit: int
    confidence: float | None
    words: int
    doubtful: int
    things: list[ThingQuality]
    worst: list[PageQuality]
    confusions: list[Confusion]
    stage: str | None


def as_stage(confusions: Sequence[Confusion]) -> str:
    """A stage that makes confused letters one, as a chain says it; of swaps either way the one that most words show.

    >>> as_stage([Confusion("f", "s", 9, 0, ()), Confusion("s", "f", 3, 0, ()), Confusion("m", "rn", 4, 0, ())])
    'misread("f=s m=rn")'
    """
    pairs = ""
    for one in confusions:
        more = f"{pairs} {one.read}={one.meant}".strip()
        # One that leads back to what stands there already says nothing new.
        with suppress(ValueError):
            pairs = Misread(more).pairs
    return f'misread("{pairs}")'


def reading_quality(pool: Pool, collection_name: str, by: str | None = None) -> ReadingQuality:
    """How well pages were read, from a sample where there are very many.

    by: the field that says what thing a page is of. Raises NotFound where the collection has no pages.
    """
    with pool.connection() as connection:
        in_one_state(connection)
        collection = collection_named(connection, collection_name)
        fields = fields_of(connection, collection.id)
        places = next((one.name for one in fields if one.role == "places"), None)
        if places is None:
            raise NotFound(f'"{collection_name}" has no pages that a machine read.')
        records = list(sampled_records(connection, collection.id, MOST_READ))
        known = _words_known(connection, collection.id, records, places)
        found, unfit = _pages(connection, collection.id, records, fields, by, known)
        count = record_count(connection, collection.id)
    return _told(
        collection.revision, count, len(records), unfit, found, confusions_in(known.records)[:_SHOWN_CONFUSIONS]
    )


@dataclass(frozen=True, slots=True)
class _Known:
    """Words by how many records hold them, and those of word lists."""

    records: Counter[str]
    lists: frozenset[str]

    def knows(self, word: str) -> bool:
        """Whether another record or a list has a word that a record has."""
        folded = word.casefold()
        return self.records[folded] > 1 or folded in self.lists


def _words_known(connection: Connection[Any], collection_id: int, records: Sequence[Record], places: str) -> _Known:
    counts: Counter[str] = Counter()
    for record in records:
        check_wanted()
        text = _text_of(record, places)
        counts.update({text[start:end].casefold() for start, end in word_stretches(text)})
    words: set[str] = set()
    for kept in latest_lists(connection, collection_id):
        for entry in list_named(connection, collection_id, kept.name).entries:
            words.update(part.casefold() for text in _texts(entry) for part in text.split())
    return _Known(counts, frozenset(words))


def _texts(entry: Any) -> list[str]:
    if isinstance(entry, str):
        return [entry]
    if isinstance(entry, dict):
        return [text for value in entry.values() for text in _texts(value)]
    if isinstance(entry, list | tuple):
        return [text for value in entry for text in _texts(value)]
    return []


def _text_of(record: Record, places: str) -> str:
    reference = reference_in(record.field_values.get(places))
    text = record.field_values.get(reference.field) if reference is not None else None
    return text if isinstance(text, str) else ""


def _pages(
    connection: Connection[Any],
    collection_id: int,
    records: Sequence[Record],
    fields: Sequence[CollectionField],
    by: str | None,
    known: _Known,
) -> tuple[list[PageQuality], int]:
    """Each page with how well it was read, and how many have places of another text."""
    roles = {one.role: one.name for one in fields if one.role is not None}
    found: list[PageQuality] = []
    unfit = 0
    for first in range(0, len(records), _AT_ONCE):
        check_wanted()
        some = records[first : first + _AT_ONCE]
        referring = [(one, reference_in(one.field_values.get(roles["places"]))) for one in some]
        kept = places_kept(connection, collection_id, [own.digest for _, own in referring if own is not None])
        for record, own in referring:
            text = _text_of(record, roles["places"])
            if own is None:
                continue
            if not own.are_of(text) or own.digest not in kept:
                unfit += 1
                continue
            values = record.field_values
            found.append(_page(record.key, own.field, text, places_in(kept[own.digest]), known, values, roles, by))
    return found, unfit


def _page(
    key: str,
    field: str,
    text: str,
    places: PagePlaces,
    known: _Known,
    values: dict[str, Any],
    roles: dict[Any, str],
    by: str | None,
) -> PageQuality:
    words = word_stretches(text)
    doubts = doubtful_words(text, words, places, known.knows)
    unknown = sum(Doubt.UNKNOWN in one.doubts for one in doubts)
    sure = [(one.confidence, one.end - one.start) for one in places.places if one.confidence is not None]
    letters = sum(count for _, count in sure)
    language = language_of(text)
    return PageQuality(
        key=key,
        title=_first_said(values.get(roles.get("title", ""))) or key,
        picture=_first_said(values.get(roles.get("picture", ""))),
        thing=None if by is None else _first_said(values.get(by)),
        field=field,
        confidence=round(sum(one * count for one, count in sure) / letters, 4) if letters else None,
        words=len(words),
        doubtful=len(doubts),
        unknown=unknown,
        doubts=[DoubtTold(one.start, one.end, text[one.start : one.end], one.doubts) for one in doubts[:_SHOWN_WORDS]],
        language=language,
        remark=_of_language(language, _first_said(values.get(roles.get("language", "")))),
    )


def _of_language(language: str | None, said: str | None) -> str:
    """What speaks against the language that a page is said to be in."""
    code = (said or "").split("-")[0].lower()
    code = _CODES.get(code, code)
    if language is not None and len(code) == 2 and code != language:
        return f"reads like {language}, and is said to be {said}"
    return ""


def _first_said(value: Any) -> str | None:
    """The first text that a value says."""
    return next(iter(texts_of(value)), None) or None


def _remarked(pages: list[PageQuality]) -> list[PageQuality]:
    """Pages of which hardly a word is known, and of most others more are, are told to be such."""
    usual = median([one.unknown / one.words for one in pages if one.words] or [0.0])
    hardly = max(_HARDLY, _MORE_THAN_USUAL * usual)
    return [
        replace(one, remark=_HARDLY_READ) if one.words >= _TELLING and one.unknown >= hardly * one.words else one
        for one in pages
    ]


def _told(
    revision: int,
    records: int,
    looked_at: int,
    unfit: int,
    found: list[PageQuality],
    confusions: list[Confusion],
) -> ReadingQuality:
    found = _remarked(found)
    found.sort(key=lambda one: (-one.doubtful / max(1, one.words), -one.doubtful, one.key))
    by_thing: dict[str, list[PageQuality]] = {}
    for one in found:
        if one.thing is not None:
            by_thing.setdefault(one.thing, []).append(one)
    things = [
        ThingQuality(name, len(own), _mean(own), sum(one.words for one in own), sum(one.doubtful for one in own))
        for name, own in by_thing.items()
    ]
    things.sort(key=lambda one: (-one.doubtful / max(1, one.words), one.thing))
    return ReadingQuality(
        revision=revision,
        records=records,
        looked_at=looked_at,
        pages=len(found) + unfit,
        unfit=unfit,
        confidence=_mean(found),
        words=sum(one.words for one in found),
        doubtful=sum(one.doubtful for one in found),
        things=things[:_WORST],
        worst=found[:_WORST],
        confusions=confusions,
        stage=as_stage(confusions) if confusions else None,
    )


def _mean(pages: Sequence[PageQuality]) -> float | None:
    sure = [one.confidence for one in pages if one.confidence is not None]
    return round(sum(sure) / len(sure), 4) if sure else None
