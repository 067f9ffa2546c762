"""The texts that a space covers: whole records, and passages of fields that are cut."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import Any, Final

from pale_harbor.core.text.passages import PassageRule, passages
from pale_harbor.formats.passages import passage_rule
from pale_harbor.formats.space_document import SpaceDocument
from pale_harbor.store.collections.collections import CollectionField
from pale_harbor.work.records.values import texts_of

# The place of a text that is a whole record's: no field of its own.
WHOLE: Final = (-1, 0, 0, 0)
# A record of more pieces says the same again and again.
MOST_PIECES: Final = 2_000

PassagePlace = tuple[int, int, int, int]


@dataclass(frozen=True, slots=True)
class Piece:
    """A text that gets its own vector. place: field of the space, value of the field, start and end in it."""

    place: PassagePlace
    text: str


@dataclass(frozen=True, slots=True)
class Covered:
    """What a space reads of a record. rules: for each field how it is cut, None: not at all."""

    fields: tuple[str, ...]
    rules: tuple[PassageRule | None, ...]

    def pieces(self, field_values: dict[str, Any]) -> list[Piece]:
        """A record's texts: first what is not cut, as one text, then every passage of the rest."""
        whole: list[str] = []
        cut: list[Piece] = []
        for number, (field, rule) in enumerate(zip(self.fields, self.rules, strict=True)):
            for value, text in enumerate(texts_of(field_values.get(field))):
                if rule is None:
                    whole.append(text)
                    continue
                cut += [Piece((number, value, start, end), text[start:end]) for start, end in passages(text, rule)]
        joined = "\n".join(text for text in whole if text.strip())
        return ([Piece(WHOLE, joined)] if joined else []) + cut[:MOST_PIECES]

    def whole(self, field_values: dict[str, Any]) -> str:
        """All that the space reads of a record, as one text."""
        return "\n".join(text for field in self.fields for text in texts_of(field_values.get(field)))

    def passage(self, field_values: dict[str, Any], place: Sequence[int]) -> tuple[str, str] | None:
        """The field and the text of a passage; None where the vector is of the whole record."""
        number, value, start, end = place
        if number < 0:
            return None
        texts = texts_of(field_values.get(self.fields[number]))
        return (self.fields[number], texts[value][start:end]) if value < len(texts) else None

    def stretch(self, field_values: Mapping[str, Any], place: Sequence[int]) -> tuple[str, int, int] | None:
        """The field of a passage and where it stands, the field's values laid end to end, one code point apart."""
        number, value, start, end = place
        if number < 0:
            return None
        texts = texts_of(field_values.get(self.fields[number]))
        before = sum(len(text) + 1 for text in texts[:value])
        return (self.fields[number], before + start, before + end) if value < len(texts) else None


def covered_by(document: SpaceDocument, fields: Sequence[CollectionField]) -> Covered:
    """What a space covers: its own rule for passages goes before those of its fields."""
    own = None if document.passages is None else passage_rule(document.passages)
    of_fields = {field.name: field.passages for field in fields}
    rules = [
        own if own is not None else None if (kept := of_fields.get(name)) is None else passage_rule(kept)
        for name in document.fields
    ]
    return Covered(tuple(document.fields), tuple(rules))


def name_of_text(text: str) -> str:
    """What a text's vector is kept under."""
    return sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
