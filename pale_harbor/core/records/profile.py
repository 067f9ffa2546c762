"""What a field holds over many records: how often, how long, how many different, in which languages."""

from collections import Counter
from dataclasses import dataclass, field
from hashlib import blake2b
from typing import Any, Final

from pale_harbor.core.records.distribution import Distribution, distribution_of
from pale_harbor.core.records.oddities import ODDITIES, oddities_of
from pale_harbor.core.text.languages import language_of

_MOST_DISTINCT: Final = 200_000
_TOP: Final = 20
_SAMPLES: Final = 5
_EXAMPLES: Final = 5
_SHOWN: Final = 200
_LANGUAGES_TOLD_OF: Final = 5_000
_SHORTEST_TOLD: Final = 20


@dataclass(frozen=True, slots=True)
class ValueCount:
    """A value, and how often it stands in the field."""

    value: str
    count: int


@dataclass(frozen=True, slots=True)
class LanguageCount:
    """A language, and how many values are in it."""

    language: str
    count: int


@dataclass(frozen=True, slots=True)
class Oddity:
    """Something odd in values: its kind, what that is in words, how many values have it, keys of some records."""

    kind: str
    what: str
    count: int
    keys: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldProfile:
    """A field over `records` records.

    filled: records with a value; values: all values, several of one record included; distinct: how
    many different ones (at least, where `distinct_is_exact` is false); lengths: of texts, in code points;
    numbers: of numeric values and of the years of dates; top: the commonest values; samples: some
    values.
    """

    name: str
    records: int
    filled: int
    values: int
    distinct: int
    distinct_is_exact: bool
    lengths: Distribution | None
    numbers: Distribution | None
    top: tuple[ValueCount, ...]
    languages: tuple[LanguageCount, ...]
    samples: tuple[str, ...]
    oddities: tuple[Oddity, ...]


@dataclass(slots=True, kw_only=True)
class Profiler:
    """Takes a field's values record by record, and gives its profile."""

    name: str
    is_date: bool = False
    records: int = 0
    filled: int = 0
    counts: Counter[str] = field(default_factory=Counter[str])
    distinct_is_exact: bool = True
    values: int = 0
    lengths: Counter[int] = field(default_factory=Counter[int])
    numbers: Counter[float] = field(default_factory=Counter[float])
    languages: Counter[str] = field(default_factory=Counter[str])
    told: int = 0
    samples: list[str] = field(default_factory=list[str])
    odd: dict[str, list[str]] = field(default_factory=dict[str, list[str]])
    odd_counts: Counter[str] = field(default_factory=Counter[str])

    def add(self, key: str, value: Any) -> None:
        """Takes one record's value into account, None where it has none."""
        self.records += 1
        items = value if isinstance(value, list) else [value]
        items = [item for item in items if item is not None and item != ""]
        self.filled += bool(items)
        for item in items:
            self._add_item(key, item)

    def finish(self) -> FieldProfile:
        """What was seen, once all records were added."""
        commonest = sorted(self.counts.items(), key=lambda pair: (-pair[1], pair[0]))[:_TOP]
        return FieldProfile(
            name=self.name,
            records=self.records,
            filled=self.filled,
            values=self.values,
            distinct=len(self.counts),
            distinct_is_exact=self.distinct_is_exact,
            lengths=distribution_of(self.lengths),
            numbers=distribution_of(self.numbers),
            top=tuple(ValueCount(name[:_SHOWN], count) for name, count in commonest),
            languages=tuple(LanguageCount(*pair) for pair in self.languages.most_common()),
            samples=tuple(self.samples),
            oddities=tuple(
                Oddity(kind, ODDITIES[kind], count, tuple(self.odd[kind]))
                for kind, count in self.odd_counts.most_common()
            ),
        )

    def _add_item(self, key: str, item: Any) -> None:
        self.values += 1
        text = _as_text(item)
        shown = text[:_SHOWN]
        # Long texts are told apart whole, and remembered by their beginning.
        name = text if len(text) <= _SHOWN else f"{shown}{blake2b(text.encode('utf-8', 'surrogatepass')).hexdigest()}"
        if name in self.counts or len(self.counts) < _MOST_DISTINCT:
            self.counts[name] += 1
        else:
            self.distinct_is_exact = False
        if len(self.samples) < _SAMPLES and shown not in self.samples:
            self.samples.append(shown)
        if isinstance(item, str):
            self._add_text(key, item)
        elif not isinstance(item, bool):
            self.numbers[float(item)] += 1

    def _add_text(self, key: str, text: str) -> None:
        self.lengths[len(text)] += 1
        if self.is_date and text[:4].isdecimal():
            self.numbers[float(text[:4])] += 1
        if len(text) >= _SHORTEST_TOLD and self.told < _LANGUAGES_TOLD_OF:
            self.told += 1
            language = language_of(text)
            if language is not None:
                self.languages[language] += 1
        for name in oddities_of(text):
            self.odd_counts[name] += 1
            examples = self.odd.setdefault(name, [])
            if len(examples) < _EXAMPLES and key not in examples:
                examples.append(key)


def _as_text(item: Any) -> str:
    return ("true" if item else "false") if isinstance(item, bool) else str(item)
