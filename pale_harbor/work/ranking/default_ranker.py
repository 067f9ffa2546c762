"""The ranker that a collection begins with: what each field holds is told from its values, and read accordingly.

Fields are pooled, so that a word counts wherever it stands. Each reading has its reason, kept with the ranker.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

import regex
from psycopg import Connection

from pale_harbor.core.records.value_kinds import ValueKind, kind_of_values
from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.languages import language_of
from pale_harbor.core.text.stages.elide import ElidingLanguage
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import (
    START_RANKER,
    Collection,
    CollectionField,
    fields_of,
    set_default_ranker,
)
from pale_harbor.store.ranking.rankers import all_rankers, save_ranker
from pale_harbor.store.records.records import sample_of_field
from pale_harbor.work.records.values import language_in, texts_of

_SAMPLE: Final = 300
_MOST_READINGS: Final = 32
# A language is that of a field where so many of its values tell one, and so many of those tell this one.
_TELLING: Final = 0.3
_CLEAR: Final = 0.75
# Where records name their language, so many have to name one before all are read by it; rarer ones than these by none.
_NEARLY_ALL: Final = 0.85
_FEW: Final = 0.02

_CODES: Final = "nfkc > blanks > parts(whole=yes) > lower > accents"
_CJK: Final = regex.compile(r"[\p{Han}\p{Hiragana}\p{Katakana}\p{Hangul}]")

# How much what is found counts, and how much longer values are held back.
_WEIGHTS: Final = {
    ValueKind.PROSE: (1.0, 0.75),
    ValueKind.NAMES: (0.7, 0.3),
    ValueKind.CATEGORIES: (0.7, 0.3),
    ValueKind.CODES: (0.3, 0.0),
    ValueKind.ADDRESSES: (0.2, 0.3),
}
_TITLE: Final = (3.0, 0.3)
_KEY: Final = (0.3, 0.0)

_SAYS: Final = {
    ValueKind.PROSE: "prose",
    ValueKind.NAMES: "names and short texts, whose words are left as they are",
    ValueKind.CATEGORIES: "values that come back, whose words are left as they are",
    ValueKind.CODES: "codes, whole and in parts",
    ValueKind.ADDRESSES: "addresses, which are seldom asked for",
}


@dataclass(frozen=True, slots=True)
class _Tongue:
    """How the texts of a field are read, and why. chain: a notation, or one for each language."""

    chain: str | dict[str, str]
    why: str


def put_default_ranker(connection: Connection[Any], collection: Collection) -> None:
    """Keeps a ranker to start from where a collection has records and no ranker yet."""
    if collection.default_ranker is not None or all_rankers(connection, collection.id):
        return
    fields = [one for one in fields_of(connection, collection.id) if _is_read(one)][:_MOST_READINGS]
    values = {one.name: sample_of_field(connection, collection.id, one.name, _SAMPLE) for one in fields}
    named = next((one.name for one in fields_of(connection, collection.id) if one.role == "language"), None)
    languages = [] if named is None else sample_of_field(connection, collection.id, named, _SAMPLE)
    texts = {name: [texts_of(value) for value in own] for name, own in values.items()}
    chosen = readings_for(fields, texts, named, [language for one in languages if (language := language_in(one))])
    if not chosen:
        return
    document = ranker_document({"readings": [reading for reading, _ in chosen], "combine": {"how": "pooled"}})
    note = "\n".join(["Made when the records came in, from what the fields hold.", *(why for _, why in chosen)])
    save_ranker(connection, collection.id, START_RANKER, document.written, {}, {}, note)
    set_default_ranker(connection, collection.id, START_RANKER)


def readings_for(
    fields: Sequence[CollectionField],
    texts: Mapping[str, Sequence[Sequence[str]]],
    named: str | None,
    languages: Sequence[str],
) -> list[tuple[dict[str, Any], str]]:
    """A reading for each field, with the reason for it in a sentence.

    texts: of each field a sample of its values, each with all that it says; named: the field that names a record's
    language, and languages: a sample of what it says.
    """
    flat = {one.name: [text for value in texts[one.name] for text in value] for one in fields}
    kinds = {one.name: kind_of_values(flat[one.name]) for one in fields}
    prose = [" ".join(v) for f in fields if kinds[f.name] is ValueKind.PROSE for v in texts[f.name]]
    common = _language_of_most(prose)
    found: list[tuple[dict[str, Any], str]] = []
    for one in fields:
        kind, own = kinds[one.name], flat[one.name]
        pairs = any(_CJK.search(text) for text in own)
        if one.is_key or one.role == "key" or kind is ValueKind.CODES:
            weight, b = _KEY if one.is_key else _WEIGHTS[ValueKind.CODES]
            says = "the key, whole and in parts" if one.is_key else _SAYS[ValueKind.CODES]
            found.append(({"field": one.name, "chain": _CODES, "weight": weight, "b": b}, f"{one.name}: {says}."))
            continue
        weight, b = _TITLE if one.role == "title" else _WEIGHTS[kind]
        if kind is ValueKind.PROSE or (one.role == "title" and prose):
            tongue = _tongue(
                _language_of_most([" ".join(v) for v in texts[one.name]]) or common, named, languages, pairs
            )
        else:
            tongue = _Tongue(chain_for(None, pairs), "")
        says = "the title" if one.role == "title" else _SAYS[kind]
        why = f"{one.name}: {says}{tongue.why and f'; {tongue.why}'}."
        found.append(({"field": one.name, "chain": tongue.chain, "weight": weight, "b": b}, why))
    return found


def chain_for(language: str | None, pairs: bool = False) -> str:
    """A chain that fits a language: with its stop words and stemmer where there are any. pairs: of CJK signs."""
    elided = f" > elide({language})" if language in set(ElidingLanguage) else ""
    # Accents go last: für is a stop word and fur is none, and stemmers know their own letters.
    own = f" > stopwords({language}) > stem({language})" if language in set(Language) else ""
    return f"nfkc{elided} > words > lower{own} > accents{' > cjk_pairs' if pairs else ''}"


def _tongue(told: tuple[str, float] | None, named: str | None, languages: Sequence[str], pairs: bool) -> _Tongue:
    """How texts are read: by the language that nearly all records name, each by its own, or by what the texts tell."""
    counts = Counter(languages)
    stemmed = {one: count for one, count in counts.items() if one in set(Language)}
    if named is not None and stemmed:
        most, count = counts.most_common(1)[0]
        if count >= _NEARLY_ALL * len(languages):
            return _Tongue(chain_for(most, pairs), f"in the language {most}, which {_percent(count, languages)} name")
        own = sorted(one for one, count in stemmed.items() if count >= _FEW * len(languages))
        if own:
            chains = {one: chain_for(one, pairs) for one in own}
            why = f"each record in the language that its {named} names ({', '.join(own)})"
            return _Tongue({"by": named, **chains, "else": chain_for(None, pairs)}, why)
    if told is not None and told[0] in set(Language):
        return _Tongue(chain_for(told[0], pairs), f"in the language {told[0]}, by {told[1]:.0%} of what tells one")
    return _Tongue(chain_for(None, pairs), "in no one language, so words are left as they are")


def _language_of_most(texts: Sequence[str]) -> tuple[str, float] | None:
    """The language of texts by a clear majority of those that tell one, and its share; None without one."""
    given = [text for text in texts if text.strip()]
    counts = Counter(language for text in given if (language := language_of(text)) is not None)
    telling = counts.total()
    if not telling or telling < _TELLING * len(given):
        return None
    language, count = counts.most_common(1)[0]
    return (language, count / telling) if count >= _CLEAR * telling else None


def _percent(count: int, of: Sequence[object]) -> str:
    return f"{count / len(of):.0%}"


def _is_read(one: CollectionField) -> bool:
    return one.role not in ("language", "picture", "places") and (one.is_key or one.kind in ("text", "exact"))
