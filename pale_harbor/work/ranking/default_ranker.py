"""The ranker that a collection begins with: each text field read by a chain that fits its language."""

from collections import Counter
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.languages import language_of
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
from pale_harbor.work.records.values import texts_of

_NOTE: Final = "Made when the records came in: a reading for each text field, weighted by its role."
_SAMPLE: Final = 300
_MOST_READINGS: Final = 32
_TITLE_WEIGHT: Final = 3.0
_LANGUAGES: Final = {language.value for language in Language}

_WORDS: Final = "nfkc > words > lower"
# Exact values may be names and streets too, which visitors type without their accents.
_CODES: Final = "blanks > lower > accents"


def put_default_ranker(connection: Connection[Any], collection: Collection) -> None:
    """Keeps a ranker to start from where a collection has records and no ranker yet."""
    if collection.default_ranker is not None or all_rankers(connection, collection.id):
        return
    readings = [
        reading
        for one in fields_of(connection, collection.id)
        if (reading := _reading(connection, collection, one)) is not None
    ]
    if not readings:
        return
    document = ranker_document({"readings": readings[:_MOST_READINGS]})
    save_ranker(connection, collection.id, START_RANKER, document.written, {}, {}, _NOTE)
    set_default_ranker(connection, collection.id, START_RANKER)


def _reading(connection: Connection[Any], collection: Collection, one: CollectionField) -> dict[str, Any] | None:
    if one.role in ("language", "picture"):
        return None
    if one.kind == "exact" or one.is_key:
        # Weighed little by little: a visitor who types a code wants that very record, and others hold none.
        return {"field": one.name, "chain": _CODES, "weight": 1.0, "b": 0.0}
    if one.kind != "text":
        return None
    chain = chain_for(language_in(connection, collection, one.name))
    if one.role == "title":
        return {"field": one.name, "chain": chain, "weight": _TITLE_WEIGHT, "b": 0.3}
    return {"field": one.name, "chain": chain, "weight": 1.0}


def language_in(connection: Connection[Any], collection: Collection, field: str) -> str | None:
    """The language that most of a field's texts are in, by a sample; None where it cannot be told."""
    values = sample_of_field(connection, collection.id, field, _SAMPLE)
    found = Counter(language_of(" ".join(texts_of(value))) for value in values)
    found.pop(None, None)
    return found.most_common(1)[0][0] if found else None


def chain_for(language: str | None) -> str:
    """A chain that fits a language: with its stop words and stemmer where there are any."""
    # Accents go last: für is a stop word and fur is none, and stemmers know their own letters.
    of_language = f" > stopwords({language}) > stem({language})" if language in _LANGUAGES else ""
    return f"{_WORDS}{of_language} > accents"
