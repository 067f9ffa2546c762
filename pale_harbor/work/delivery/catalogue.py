"""What a library's catalogue asks in CQL, as the endpoint is asked it: by the fields that a key may search."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.ranking import FieldOrder
from pale_harbor.formats.cql import Clause, CqlFault, CqlQuery, Joined, Modifier, Node
from pale_harbor.formats.dublin_core import ELEMENTS, dublin_core_of
from pale_harbor.formats.ranker.forms import field_order
from pale_harbor.work.delivery.known import Known

DUBLIN_CORE: Final = ("info:srw/context-set/1/dc-v1.1", "http://purl.org/dc/elements/1.1/")
CQL: Final = ("info:srw/context-set/1/cql-v1.1", "info:srw/context-set/1/cql-v1.2", "http://www.loc.gov/zing/cql/")
# The set of the collection's own fields, which is the usual one.
FIELDS: Final = "fields"
_CHOSEN_HERE: Final = ("cql.serverchoice", "cql.anywhere", "cql.anyindexes", "cql.allindexes", "cql.keywords")
_ALL_RECORDS: Final = "cql.allrecords"
# A query of ours keeps twelve parentheses in one another.
_DEEPEST: Final = 10
_PLAIN_WORD: Final = re.compile(r"[^\W_][^\s()\"“”„«»*:=]*")
_OPERATORS: Final = ("AND", "OR", "NOT")
# Modifiers that ask for what holds in any case.
_HOLD_ANYWAY: Final = ("relevant", "word", "ignorecase", "masked", "number", "isodate")
RELATIONS: Final = ("=", "==", "<>", "<", ">", "<=", ">=", "any", "all", "adj", "exact", "within", "scr")
MODIFIERS: Final = (*_HOLD_ANYWAY, "string", "unmasked", "stem", "fuzzy")


@dataclass(frozen=True, slots=True)
class CatalogueFields:
    """What may be asked by. searched: fields that a query may name; kinds: of the fields that may be seen; dublin_core:
    fields by element; stemmed, slack: fields that some reading of the live ranker reads so."""

    searched: tuple[str, ...]
    kinds: Mapping[str, str]
    dublin_core: Mapping[str, Sequence[str]]
    stemmed: frozenset[str]
    slack: frozenset[str]


@dataclass(frozen=True, slots=True)
class CatalogueQuery:
    """A query as the endpoint is asked it, and the order of its list, () for by relevance."""

    query: str
    sort: tuple[FieldOrder, ...]


def catalogue_fields(known: Known, stemmed: frozenset[str], slack: frozenset[str]) -> CatalogueFields:
    """What a key may ask by."""
    shown = [field for field in known.fields if field.name in known.audience.shown]
    return CatalogueFields(
        # A name with a blank in it cannot be said in a query.
        searched=tuple(name for name in known.audience.named if not re.search(r"[\s:()\"]", name)),
        kinds={field.name: field.kind for field in shown},
        dublin_core=dublin_core_of([(field.name, field.role) for field in shown]),
        stemmed=stemmed,
        slack=slack,
    )


def catalogue_query(asked: CqlQuery, fields: CatalogueFields) -> CatalogueQuery:
    """The same in the query language of visitors. Raises CqlFault."""
    for uri in asked.prefixes.values():
        if uri not in (*DUBLIN_CORE, *CQL):
            raise CqlFault(15, uri, f'The set of indexes "{uri[:200]}" is not known here.')
    said = _said(asked.root, fields, asked.prefixes, 0)
    sort = tuple(_order(key.index, key.modifiers, fields, asked.prefixes) for key in asked.sort)
    return CatalogueQuery(said, sort)


def fields_of_index(index: str, fields: CatalogueFields, prefixes: Mapping[str, str] | None = None) -> list[str]:
    """The fields that an index is of. Raises CqlFault where there is none that may be searched."""
    found = _named_fields(index, fields, prefixes or {})
    own = [name for name in found if name in fields.searched]
    if not own:
        there = ", ".join([*fields.searched, *(f"dc.{name}" for name in fields.dublin_core)])
        raise CqlFault(16, index, f'There is no index "{index[:200]}" here. There are: {there}.')
    return own


def _named_fields(index: str, fields: CatalogueFields, prefixes: Mapping[str, str]) -> list[str]:
    by_name = {name.casefold(): name for name in fields.kinds}
    if index in by_name:
        return [by_name[index]]
    prefix, dot, name = index.partition(".")
    if prefix == FIELDS and name in by_name:
        return [by_name[name]]
    uri = prefixes.get(prefix if dot else "")
    if dot and uri is None and prefix not in ("dc", "cql", "rec", FIELDS):
        raise CqlFault(15, prefix, f'The set of indexes "{prefix[:200]}" is not known here: dc, cql and {FIELDS} are.')
    if not dot:
        name = index
    if (dot and prefix == "dc") or uri in DUBLIN_CORE or (not dot and index in ELEMENTS):
        return list(fields.dublin_core.get(name, ()))
    if prefix == "rec" and name == "identifier":
        return list(fields.dublin_core.get("identifier", ()))
    return []


def _said(node: Node, fields: CatalogueFields, prefixes: Mapping[str, str], depth: int) -> str:
    if isinstance(node, Clause):
        return _clause(node, fields, prefixes)
    if depth >= _DEEPEST:
        raise CqlFault(38, str(_DEEPEST), f"Queries lie in one another {_DEEPEST} deep at most here.")
    if node.how == "prox":
        raise CqlFault(39, "prox", 'Nearness is not asked by "prox" here: quoted words are found next to each other.')
    if node.modifiers:
        name = node.modifiers[0].name
        raise CqlFault(46, name, f'Booleans have no modifier "{name[:200]}" here.')
    if node.how == "not":
        left, right = (_said(one, fields, prefixes, depth + 1) for one in (node.left, node.right))
        return f"({left} AND NOT {right})"
    # Those of one kind side by side are as deep as one.
    parts = [_said(one, fields, prefixes, depth + 1) for one in _side_by_side(node)]
    return f"({f' {node.how.upper()} '.join(parts)})"


def _side_by_side(node: Joined) -> list[Node]:
    found: list[Node] = [node.right]
    left = node.left
    while isinstance(left, Joined) and left.how == node.how and not left.modifiers:
        found.append(left.right)
        left = left.left
    return [left, *reversed(found)]


def _clause(clause: Clause, fields: CatalogueFields, prefixes: Mapping[str, str]) -> str:
    if clause.index == _ALL_RECORDS:
        raise CqlFault(48, clause.index, "All records are had without a query by OAI-PMH, not by this.")
    if not clause.term.strip():
        raise CqlFault(27, clause.index, "A term says something.")
    if clause.relation not in RELATIONS:
        known = ", ".join(RELATIONS)
        raise CqlFault(19, clause.relation, f'There is no relation "{clause.relation[:200]}" here. There are: {known}.')
    _check_signs(clause)
    own = None if clause.index in _CHOSEN_HERE else fields_of_index(clause.index, fields, prefixes)
    names = {one.name for one in clause.modifiers}
    _check_modifiers(clause, own, fields)
    if own is None:
        return _anywhere(clause, "unmasked" in names)
    each = [_in_field(clause, name, names) for name in own]
    return each[0] if len(each) == 1 else f"({' OR '.join(each)})"


def _check_signs(clause: Clause) -> None:
    """Raises CqlFault for signs that mean what is not answered here."""
    if any(one.name == "unmasked" for one in clause.modifiers):
        return
    for sign, number, what in (("?", 28, "one letter of any kind"), ("^", 31, "the end of a value")):
        if re.search(rf"(?<!\\)\{sign}", clause.term):
            raise CqlFault(number, sign, f'"{sign}" for {what} is not known here; with a \\ before it is a letter.')
    if any("*" in word.strip("*") or (word.startswith("*") and word.endswith("*")) for word in clause.term.split()):
        raise CqlFault(28, "*", "A word may begin or end with *, and not both; elsewhere it is not known here.")


def _check_modifiers(clause: Clause, own: Sequence[str] | None, fields: CatalogueFields) -> None:
    """Raises CqlFault for modifiers that ask for what the collection does not have."""
    for one in clause.modifiers:
        if one.name not in MODIFIERS or one.comparison:
            known = ", ".join(MODIFIERS)
            raise CqlFault(20, one.name, f'Relations have no modifier "{one.name[:200]}" here. There are: {known}.')
        having = {"stem": fields.stemmed, "fuzzy": fields.slack}.get(one.name)
        if having is not None and not any(name in having for name in (fields.searched if own is None else own)):
            what = "words in their base form" if one.name == "stem" else "words that are spelled alike"
            raise CqlFault(20, one.name, f"The index {clause.index} does not find {what}.")


def _anywhere(clause: Clause, unmasked: bool) -> str:
    """In whatever the ranker reads, as visitors ask it."""
    if clause.relation not in ("=", "any", "all", "adj", "scr"):
        raise CqlFault(22, clause.relation, f'"{clause.relation}" is asked of an index.')
    if clause.relation == "adj":
        return _phrase(clause.term)
    words = [_word(word, unmasked) for word in clause.term.split()]
    between = {"any": " OR ", "all": " AND "}.get(clause.relation, " ")
    return words[0] if len(words) == 1 else f"({between.join(words)})"


def _in_field(clause: Clause, field: str, modifiers: set[str]) -> str:
    relation, term, words = clause.relation, clause.term.strip(), clause.term.split()
    if relation in ("<", "<=", ">", ">=", "within"):
        return _range(relation, words, field)
    if relation in ("==", "exact") or "string" in modifiers:
        return f"{field}:={_phrase(term)}"
    masked = "unmasked" not in modifiers and any(word.startswith("*") or word.endswith("*") for word in words)
    # Next to each other, unless what is asked for is not what stands there letter by letter.
    loosely = masked or bool(modifiers & {"stem", "fuzzy"})
    if relation == "<>":
        return f"NOT {field}:={_phrase(term)}"
    if len(words) > 1 and relation in ("=", "scr", "adj") and not loosely:
        return f"{field}:{_phrase(term)}"
    own = [f"{field}:{_word(word, 'unmasked' in modifiers)}" for word in words]
    return own[0] if len(own) == 1 else f"({(' OR ' if relation == 'any' else ' AND ').join(own)})"


def _range(relation: str, words: Sequence[str], field: str) -> str:
    wanted = 2 if relation == "within" else 1
    if len(words) != wanted or any(".." in word or re.search(r"[()\"]", word) for word in words):
        what = "two values" if wanted == 2 else "one value without blanks"
        raise CqlFault(36, " ".join(words), f'"{relation}" is followed by {what}.')
    if relation == "within":
        return f"{field}:{words[0]}..{words[1]}"
    bound = words[0]
    stretch = f"{field}:..{bound}" if relation.startswith("<") else f"{field}:{bound}.."
    return stretch if relation.endswith("=") else f"({stretch} AND NOT {field}:{bound}..{bound})"


def _word(word: str, unmasked: bool) -> str:
    """A word as visitors would type it, in quotes where it would mean something else."""
    begins, ends = (not unmasked and has for has in (word.endswith("*"), word.startswith("*")))
    bare = re.sub(r"\\(.)", r"\1", word.strip("*") if begins or ends else word)
    if _PLAIN_WORD.fullmatch(bare) is None or bare in _OPERATORS:
        return _phrase(bare)
    return f"{'*' if ends else ''}{bare}{'*' if begins else ''}"


def _phrase(term: str) -> str:
    """Words next to each other. Quotation marks within are no letters of any word."""
    letters = re.sub(r"\\(.)", r"\1", term)
    return f'"{re.sub(r"[“”„«»]", " ", letters.replace(chr(34), " ")).strip()}"'


def _order(
    index: str, modifiers: Sequence[Modifier], fields: CatalogueFields, prefixes: Mapping[str, str]
) -> FieldOrder:
    names = {one.name for one in modifiers}
    strange = sorted(names - {"sort.ascending", "sort.descending", "sort.ignorecase", "ascending", "descending"})
    if strange:
        raise CqlFault(82, strange[0], f'Lists are not ordered by "{strange[0][:200]}" here.')
    own = [name for name in _named_fields(index, fields, prefixes) if name in fields.kinds]
    if not own:
        raise CqlFault(16, index, f'There is no index "{index[:200]}" here to order a list by.')
    return field_order(("-" if names & {"sort.descending", "descending"} else "") + own[0])
