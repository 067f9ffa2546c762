"""A ranker with all that it reads as one file to keep in a repository: YAML that a person reads line by line.

Of YAML 1.2 what JSON has, and texts of several lines: no aliases, no tags, no words that stand for other values.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from difflib import ndiff
from typing import Annotated, Any, Final

import yaml
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from yaml.composer import ComposerError

from pale_harbor.core.judging import ExpectationKind
from pale_harbor.core.text.word_lists import ListKind
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.differences import differences
from pale_harbor.formats.ranker.document import ranker_document

FORMAT: Final = 1
LARGEST: Final = 20_000_000
_HEAD: Final = "# A ranker with the chains, word lists and expectations that it reads.\n"
_PartName = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9_-]{0,62}$")]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ListInFile(_Strict):
    """A word list. csv: as it is put and got."""

    kind: ListKind
    csv: str


class ExpectedInFile(_Strict):
    """An expectation of a query, as its words are."""

    query: str
    kind: ExpectationKind
    record: str | None = None
    number: int | None = None
    note: str = ""


class RankerFile(_Strict):
    """name: of the ranker; ranker: its document, which names chains and lists without versions; chains: notation by
    name; lists: by name; expectations: by judged set."""

    format: Annotated[int, Field(ge=1, le=FORMAT)] = FORMAT
    name: _PartName
    note: str = ""
    ranker: dict[str, Any]
    chains: dict[_PartName, str] = {}
    lists: dict[_PartName, ListInFile] = {}
    expectations: dict[_PartName, list[ExpectedInFile]] = {}


def written_file(file: RankerFile) -> str:
    """The file as text: the same ranker gives the same text."""
    said = file.model_dump(mode="json", exclude_defaults=True)
    told = {"format": file.format, "name": file.name, **said}
    return _HEAD + yaml.dump(
        told, Dumper=_Writer, sort_keys=False, allow_unicode=True, width=110, default_flow_style=False
    )


def ranker_file(text: str, name: str) -> RankerFile:
    """The file, checked. name: what it is called. Raises BadInput with the place that is wrong."""
    if len(text) > LARGEST:
        raise BadInput(f"{name} is larger than any ranker: {LARGEST:,} characters at most.")
    try:
        said = yaml.load(text, Loader=_Reader)  # noqa: S506
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark
        where = "" if mark is None else f"line {mark.line + 1}, column {mark.column + 1}"
        raise BadInput(f"{name} cannot be read.", [(where, f"{error.problem or error}.")]) from error
    except (yaml.YAMLError, RecursionError) as error:
        raise BadInput(f"{name} cannot be read: {str(error)[:200]}.") from error
    try:
        file = RankerFile.model_validate(said)
    except ValidationError as error:
        problems = [(".".join(str(step) for step in one["loc"]), f"{one['msg']}.") for one in error.errors()]
        raise BadInput(f"{name} is no file of a ranker.", problems) from error
    ranker_document(file.ranker)
    return file


@dataclass(frozen=True, slots=True)
class FilesDiffer:
    """What is different between two files. ranker: in words; others: of chains, lists and expectations, in lines with
    what went and what came."""

    ranker: list[str] = field(default_factory=list[str])
    others: list[str] = field(default_factory=list[str])


def files_differ(before: RankerFile, after: RankerFile) -> FilesDiffer:
    """What is different between two files, first of the ranker itself.

    >>> document = {"readings": [{"field": "title", "chain": "@en"}]}
    >>> old = RankerFile(name="first", ranker=document, chains={"en": "words"})
    >>> files_differ(old, old.model_copy(update={"chains": {"en": "words > lower"}})).others
    ['chain @en: - words', 'chain @en: + words > lower']
    """
    told = differences(ranker_document(before.ranker), ranker_document(after.ranker))
    others: list[str] = []
    for kind, old, new in (
        ("chain", before.chains, after.chains),
        ("word list", _texts(before), _texts(after)),
        ("expectations of", _expected(before), _expected(after)),
    ):
        for name in sorted(old.keys() | new.keys()):
            called = f"{kind} {name}" if kind.startswith("expect") else f"{kind} @{name}"
            others += [f"{called}: {line}" for line in _lines(old.get(name, ""), new.get(name, ""))]
    return FilesDiffer([one.words for one in told], others)


def _texts(file: RankerFile) -> dict[str, str]:
    return {name: own.csv for name, own in file.lists.items()}


def _expected(file: RankerFile) -> dict[str, str]:
    def line(one: ExpectedInFile) -> str:
        parts: Sequence[object] = (one.query, one.kind, one.record, one.number, one.note)
        return ", ".join(str(part) for part in parts if part not in (None, ""))

    return {name: "\n".join(map(line, own)) for name, own in file.expectations.items()}


def _lines(old: str, new: str) -> list[str]:
    if old == new:
        return []
    return [line.rstrip() for line in ndiff(old.splitlines(), new.splitlines()) if line.startswith(("- ", "+ "))]


class _Reader(yaml.SafeLoader):
    """What JSON has, and no aliases: a few of them could stand for more than any memory holds."""

    yaml_implicit_resolvers: dict[Any, Any] = {}  # noqa: RUF012

    def compose_node(self, parent: Any, index: Any) -> Any:
        if self.check_event(yaml.AliasEvent):
            event = self.peek_event()
            raise ComposerError(None, None, "aliases are not taken", event.start_mark)
        return super().compose_node(parent, index)


for _tag, _pattern, _first in (
    ("bool", r"true|false", "tf"),
    ("null", r"null|~|", "n~\0"),
    ("int", r"-?(0|[1-9][0-9]*)", "-0123456789"),
    ("float", r"-?(0|[1-9][0-9]*)(\.[0-9]+)?([eE][-+]?[0-9]+)?", "-0123456789"),
):
    _Reader.add_implicit_resolver(f"tag:yaml.org,2002:{_tag}", re.compile(rf"^(?:{_pattern})$"), list(_first))


class _Writer(yaml.SafeDumper):
    """Texts of several lines stand as they are."""

    def ignore_aliases(self, data: Any) -> bool:
        return True


def _text(writer: yaml.SafeDumper, text: str) -> yaml.ScalarNode:
    style = "|" if "\n" in text else None
    return writer.represent_scalar("tag:yaml.org,2002:str", text, style=style)


_Writer.add_representer(str, _text)
