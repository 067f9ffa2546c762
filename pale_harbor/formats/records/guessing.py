"""Guesses what the fields of a source are from their values: kinds, several values, roles.

A guess is shown and can be corrected. It never loses a letter: a field is a number only if every
value that was seen is written as one.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.places_text import reference_in
from pale_harbor.formats.records.conversion import date_of, number_of
from pale_harbor.formats.records.json_columns import json_column_names
from pale_harbor.formats.records.plan import FieldPlan, ImportPlan, Kind, Role

_FLAG_WORDS: Final = frozenset({"true", "false", "yes", "no"})
_LONGEST_CODE: Final = 64
_MOST_DISTINCT: Final = 5_000
# Of a whole source, however few of them each record has.
DIFFERENT_FIELDS_AT_MOST: Final = 10_000
# From so many values on, a few that are amiss are taken for mistakes where a guess may be corrected.
_MANY: Final = 50
TOLERANCE: Final = 0.02
_LANGUAGES: Final = frozenset(
    "ar bg ca cs da de el en es et fa fi fr ga he hi hr hu id is it ja ko la lt lv nb nl nn no pl pt ro ru sk sl sr sv "
    "th tr uk vi zh".split()
)
_NAMES: Final[Mapping[Role, tuple[str, ...]]] = {
    "key": ("id", "key", "identifier", "uid", "uuid", "record_id", "_id", "code", "number", "nr"),
    "title": ("title", "name", "label", "heading", "headline", "subject", "titel", "titre", "titulo", "tittel"),
    "language": ("language", "lang", "locale", "sprache", "langue", "idioma", "språk"),
    "picture": ("picture", "image", "photo", "thumbnail", "img", "bild"),
}
_PICTURES: Final = (".svg", ".png", ".jpg", ".jpeg", ".webp", ".gif", ".tif", ".tiff")


@dataclass(slots=True, kw_only=True)
class FieldEvidence:
    """What was seen of a field's values.

    typed: whether values come with their types, as in JSON; in delimited text all are texts, which
    may say numbers and flags.
    """

    name: str
    typed: bool
    filled: int = 0
    lists: int = 0
    items: int = 0
    numbers: int = 0
    dates: int = 0
    flags: int = 0
    spaced: int = 0
    letters: int = 0
    longest: int = 0
    padded: int = 0
    written: int = 0
    pictures: int = 0
    places: int = 0
    split: dict[str, int] = field(default_factory=lambda: dict.fromkeys("|;", 0))
    distinct: set[str] = field(default_factory=set[str])

    def note(self, value: Any) -> None:
        """Takes a record's value into account; null is none."""
        if value is None:
            return
        self.filled += 1
        if isinstance(value, list):
            self.lists += 1
            for item in value:
                if item is not None:
                    self._item(item)
        else:
            self._item(value)

    def _item(self, value: Any) -> None:
        self.items += 1
        if isinstance(value, bool):
            self.flags += 1
        elif isinstance(value, int | float):
            self.numbers += 1
        else:
            self._text(value)
        if len(self.distinct) < _MOST_DISTINCT:
            self.distinct.add(str(value)[:_LONGEST_CODE])

    def _text(self, text: str) -> None:
        self.written += 1
        self.letters += len(text)
        self.longest = max(self.longest, len(text))
        self.spaced += " " in text
        self.pictures += text.lower().endswith(_PICTURES)
        self.places += reference_in(text) is not None
        if self.typed:
            self.dates += len(text) <= _LONGEST_CODE and text[:1].isdecimal() and date_of(text) == text
            return
        if len(text) > 4 * _LONGEST_CODE:
            return
        for delimiter in self.split:
            self.split[delimiter] += delimiter in text
        if len(text) > _LONGEST_CODE:
            return
        first = text[:1]
        if first.isdecimal() or first in "+-.":
            if number_of(text) is not None:
                self.numbers += 1
                digits = text.lstrip("+-")
                # Zeros in front, a plus, blanks: a code that a number would not give back.
                self.padded += (digits[:1] == "0" and digits[1:2].isdecimal()) or first == "+" or text != text.strip()
            elif date_of(text) is not None:
                self.dates += 1
        elif text.lower() in _FLAG_WORDS:
            self.flags += 1

    def nearly_all(self, count: int, tolerance: float) -> bool:
        """Whether so many of the values are all of them, but for a share of `tolerance` of many."""
        return count == self.items or (self.items >= _MANY and self.items - count <= tolerance * self.items)

    @property
    def delimiter(self) -> str | None:
        """What stands between several values of one cell, if anything does."""
        if self.lists or not self.written or self.letters / self.written > 4 * _LONGEST_CODE:
            return None
        best = max(self.split, key=lambda delimiter: self.split[delimiter])
        return best if self.split[best] >= max(2, 0.2 * self.written) else None

    def kind(self, tolerance: float = 0.0) -> Kind:
        """The narrowest kind that all values are of, but for a share of `tolerance`."""
        if self.items == 0:
            return "text"
        if self.nearly_all(self.numbers, tolerance):
            return "exact" if self.padded else "number"
        if self.nearly_all(self.dates, tolerance):
            return "date"
        if self.nearly_all(self.flags, tolerance):
            return "flag"
        if self.delimiter is not None:
            return "exact"
        average = self.letters / max(1, self.written)
        code_like = self.spaced <= 0.1 * self.items and average <= 40
        few = self.filled >= 20 and len(self.distinct) <= 0.2 * self.items and self.longest <= _LONGEST_CODE
        return "exact" if code_like or few else "text"

    def all_in(self, words: frozenset[str]) -> bool:
        """Whether every value that was seen is one of these."""
        return all(value.lower() in words for value in self.distinct)

    def all_distinct(self, tolerance: float = 0.0) -> bool:
        """Whether no value was seen twice, as far as that was followed, but for a share of `tolerance`."""
        beyond = self.items - min(self.items, _MOST_DISTINCT)
        return not self.lists and self.nearly_all(beyond + len(self.distinct), tolerance)


@dataclass(slots=True)
class Evidence:
    """What was seen of a source's rows. typed: whether its values come with their types."""

    typed: bool = False
    typed_fields: frozenset[str] = frozenset()
    rows: int = 0
    fields: dict[str, FieldEvidence] = field(default_factory=dict[str, FieldEvidence])

    def note(self, values: dict[str, Any]) -> None:
        """Takes a row (its nested values spread out) into account. Raises BadInput where fields have no end."""
        self.rows += 1
        for name, value in values.items():
            if name not in self.fields:
                if len(self.fields) == DIFFERENT_FIELDS_AT_MOST:
                    raise BadInput(
                        f"These records have more than {DIFFERENT_FIELDS_AT_MOST:,} different fields, among them "
                        f'"{name[:80]}". Names that differ from record to record are values: give them a field of '
                        "their own."
                    )
                self.fields[name] = FieldEvidence(name=name, typed=self.typed or name in self.typed_fields)
            self.fields[name].note(value)

    def guess(self, key: str | None = None, tolerance: float = 0.0) -> list[FieldPlan]:
        """The fields as they seem to be, in the order in which they were first seen.

        key: where it is known already. tolerance: the share of a field's values that may be amiss.
        """
        key = key if key is not None else self._key()
        title = self._named("title", ("text", "exact"), {key}) or self._first_title(key)
        language = self._named("language", ("exact", "text"), {key, title}) or self._codes({key, title})
        picture = self._named("picture", ("exact", "text"), {key, title}) or self._pictures()
        places = next((seen.name for seen in self.fields.values() if seen.items and seen.places == seen.items), None)
        roles: dict[str | None, Role] = {
            picture: "picture",
            language: "language",
            title: "title",
            places: "places",
            key: "key",
        }
        return [self._plan(seen, roles.get(seen.name), tolerance) for seen in self.fields.values()]

    def _plan(self, seen: FieldEvidence, role: Role | None, tolerance: float) -> FieldPlan:
        kind = seen.kind(tolerance)
        delimiter = None if role else seen.delimiter
        if role == "key" or (role == "title" and kind != "text"):
            kind = "exact" if role == "key" else "text"
        if role == "places":
            kind = "exact"
        return FieldPlan(
            name=seen.name, kind=kind, several=bool(seen.lists) or delimiter is not None, split=delimiter, role=role
        )

    def _key(self) -> str | None:
        """By its name, else the first column of codes, else the first column of all if it numbers the rows.

        A key that stands twice is told when the rows go in, so a few do not speak against it.
        """
        fit = [
            seen
            for seen in self.fields.values()
            if self._fills_all(seen, TOLERANCE) and seen.all_distinct(TOLERANCE) and seen.longest <= 500
        ]
        by_name = {seen.name.lower(): seen.name for seen in reversed(fit)}
        for name in _NAMES["key"]:
            if name in by_name:
                return by_name[name]
        codes = [
            seen.name for seen in fit if seen.kind() == "exact" and not seen.all_in(_LANGUAGES) and not seen.pictures
        ]
        if codes:
            return codes[0]
        first = next(iter(self.fields.values()), None)
        return first.name if first is not None and first in fit and first.kind() == "number" else None

    def _fills_all(self, seen: FieldEvidence, tolerance: float) -> bool:
        missing = self.rows - seen.filled
        return seen.items > 0 and (missing == 0 or (self.rows >= _MANY and missing <= tolerance * self.rows))

    def _named(self, role: Role, kinds: tuple[Kind, ...], taken: set[str | None]) -> str | None:
        by_name = {seen.name.lower(): seen for seen in reversed(self.fields.values())}
        for name in _NAMES[role]:
            seen = by_name.get(name)
            if seen is not None and seen.kind() in kinds and seen.name not in taken:
                return seen.name
        return None

    def _first_title(self, key: str | None) -> str | None:
        for seen in self.fields.values():
            if seen.kind() == "text" and seen.name != key and not seen.lists and 0 < seen.letters <= 150 * seen.written:
                return seen.name
        return None

    def _codes(self, taken: set[str | None]) -> str | None:
        for seen in self.fields.values():
            if seen.name not in taken and seen.items and seen.all_in(_LANGUAGES):
                return seen.name
        return None

    def _pictures(self) -> str | None:
        for seen in self.fields.values():
            if seen.items and seen.pictures == seen.items:
                return seen.name
        return None


def guessed_plan(plan: ImportPlan, rows: Iterable[dict[str, Any]], tolerance: float = 0.0) -> ImportPlan:
    """The plan with its fields and its key guessed from rows, where it leaves them open.

    tolerance: the share of a field's values that may be amiss; 0 where nobody looks at the guess.
    """
    json_columns = frozenset(json_column_names(plan.columns or []))
    evidence = Evidence(plan.format != "delimited", json_columns)
    for values in rows:
        evidence.note(values)
    fields = evidence.guess(plan.key, tolerance)
    key = plan.key or next((one.name for one in fields if one.role == "key"), None)
    return plan.model_copy(update={"fields": fields, "key": key})
