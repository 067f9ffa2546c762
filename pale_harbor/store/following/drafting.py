"""A SELECT drafted from a catalogue: one table's rows are the records, joined with what they refer to and with what
refers to them, and for each table the SELECT of the keys that a changed row of it belongs to."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final, Literal

from pale_harbor.formats.following.document import FollowedTable
from pale_harbor.store.following.live.catalogue import Catalogue, LiveTable, Reference
from pale_harbor.store.following.live.postgresql import KEY_TYPES
from pale_harbor.store.following.live.rows import SourceRefuses

# one: each record has one row of it; several: each may have many.
HowMany = Literal["one", "several"]


@dataclass(frozen=True, slots=True)
class Step:
    """From one table to another one by a foreign key; forward: along it, from who refers to what is referred to."""

    reference: Reference
    forward: bool

    @property
    def to(self) -> str:
        """The table that it leads to."""
        return self.reference.to if self.forward else self.reference.table

    @property
    def how_many(self) -> HowMany:
        """How many rows it leads to from one."""
        return "one" if self.forward else "several"

    @property
    def name(self) -> str:
        """What it is told apart by from other steps between the same tables."""
        return ",".join(self.reference.columns)


@dataclass(frozen=True, slots=True)
class Reachable:
    """A table that may be joined. name: what the way to it is called by; through: the tables between, in words."""

    name: str
    table: str
    how_many: HowMany
    through: list[str]
    rows: int | None


@dataclass(frozen=True, slots=True)
class Drafted:
    """A query, its key, and the tables that it reads."""

    query: str
    key: str
    tables: list[FollowedTable]


def reachable_from(catalogue: Catalogue, table: str) -> list[Reachable]:
    """The tables that may be joined to one, nearest first. Raises SourceRefuses where there is no such table."""
    _known(catalogue, table)
    found: list[Reachable] = []
    for way in _ways(catalogue, table):
        last = _known(catalogue, way[-1].to)
        many: HowMany = "several" if any(step.how_many == "several" for step in way) else "one"
        between = [_known(catalogue, step.to).written for step in way[:-1]]
        found.append(Reachable(_way_name(way), last.written, many, between, last.rows))
    return found


def usual_joins(catalogue: Catalogue, table: str) -> list[str]:
    """The ways that are drafted where nobody says which: what a record refers to, what belongs to it alone, and what it
    is tied to by a table of pairs."""
    chosen: list[str] = []
    for way in _ways(catalogue, table):
        of_pairs = len(way) == 2 and not way[0].forward and way[1].forward and _is_of_pairs(catalogue, way[0].to)
        pairs_alone = len(way) == 1 and not way[0].forward and _is_of_pairs(catalogue, way[0].to)
        if of_pairs or (len(way) == 1 and not pairs_alone):
            chosen.append(_way_name(way))
    return chosen


def draft(catalogue: Catalogue, table: str, joins: Sequence[str] | None = None) -> Drafted:
    """A query for a table, joined along some ways; the usual ones where it is None.

    Raises SourceRefuses where there is no such table or way, or no column names its rows.
    """
    root = _known(catalogue, table)
    key = _key_of(root)
    wanted = usual_joins(catalogue, table) if joins is None else list(joins)
    by_name = {_way_name(way): way for way in _ways(catalogue, table)}
    unknown = next((name for name in wanted if name not in by_name), None)
    if unknown is not None:
        raise SourceRefuses(f'No way from {root.written} is called "{unknown}".')
    names = _Names(root)
    columns = [f"{names.root}.{_quoted(one.name)}" for one in root.columns if one.is_value]
    joined: list[str] = []
    owners: dict[str, list[str]] = {root.full_name: [f"select {{{key}}}"]}
    for name in wanted:
        way = by_name[name]
        _join(catalogue, names, way, columns, joined)
        _own(catalogue, root, key, way, owners)
    query = "\n".join(
        ["select", ",\n".join(f"    {column}" for column in columns), f"from {_as(root.written, names.root)}", *joined]
    )
    tables = [
        FollowedTable(name=_known(catalogue, of).written, owners="\nunion\n".join(dict.fromkeys(selects)))
        for of, selects in owners.items()
    ]
    return Drafted(query, key, tables)


class _Names:
    """Aliases of tables and names of columns, each given once."""

    def __init__(self, root: LiveTable) -> None:
        self._taken_aliases: set[str] = set()
        self._taken_columns = {one.name for one in root.columns}
        self.root = self.alias(root.name)

    def alias(self, name: str) -> str:
        found = next(one for one in _numbered(name) if one not in self._taken_aliases)
        self._taken_aliases.add(found)
        return _quoted(found)

    def column(self, table: str, column: str) -> str:
        """What a joined table's column is called: by its table, so that a name says whose it is."""
        wanted = table if column in ("name", "title", "label") else f"{table}_{column}"
        found = next(one for one in _numbered(wanted) if one not in self._taken_columns)
        self._taken_columns.add(found)
        return _quoted(found)


def _join(catalogue: Catalogue, names: _Names, way: Sequence[Step], columns: list[str], joined: list[str]) -> None:
    """Adds what is joined along a way, and the columns that come of it."""
    aliases = [names.alias(_known(catalogue, step.to).name) for step in way]
    last = _known(catalogue, way[-1].to)
    called = _singular(last.name) if all(step.forward for step in way) else last.name
    told = _told_columns(catalogue, last, way)
    if all(step.forward for step in way):
        before = names.root
        for step, alias in zip(way, aliases, strict=True):
            table = _known(catalogue, step.to)
            joined.append(f"left join {_as(table.written, alias)} on {_condition(step, before, alias)}")
            before = alias
        columns.extend(f"{aliases[-1]}.{_quoted(one)} as {names.column(called, one)}" for one in told)
        return
    # All of a record's rows in one: each column is a list.
    gathered = names.alias(f"own_{last.name}")
    order = ", ".join(f"{aliases[-1]}.{_quoted(one)}" for one in last.key) or "1"
    lists = ", ".join(f"array_agg({aliases[-1]}.{_quoted(one)} order by {order}) as {_quoted(one)}" for one in told)
    first = _known(catalogue, way[0].to)
    inner = [f"    select {lists}", f"    from {_as(first.written, aliases[0])}"]
    for step, before, alias in zip(way[1:], aliases, aliases[1:], strict=False):
        inner.append(f"    join {_as(_known(catalogue, step.to).written, alias)} on {_condition(step, before, alias)}")
    inner.append(f"    where {_condition(way[0], names.root, aliases[0])}")
    joined.append("left join lateral (\n" + "\n".join(inner) + f"\n) as {gathered} on true")
    columns.extend(f"{gathered}.{_quoted(one)} as {names.column(called, one)}" for one in told)


def _as(written: str, alias: str) -> str:
    return written if written == alias else f"{written} as {alias}"


def _own(catalogue: Catalogue, root: LiveTable, key: str, way: Sequence[Step], owners: dict[str, list[str]]) -> None:
    """Adds, for each table along a way, which records a row of it belongs to."""
    for length in range(1, len(way) + 1):
        part = way[:length]
        first, last = part[0], part[-1]
        if length == 1 and not first.forward and first.reference.to_columns == [key]:
            # It says itself whose it is.
            owners.setdefault(last.to, []).append(f"select {{{first.reference.columns[0]}}}")
            continue
        if length == 1:
            here, there = _columns(last)
            conditions = " and ".join(f"{_quoted(one)} = {{{other}}}" for one, other in zip(here, there, strict=True))
            owners.setdefault(last.to, []).append(
                " ".join([f"select {_quoted(key)}", f"from {root.written}", f"where {conditions}"])
            )
            continue
        tables = [root, *(_known(catalogue, step.to) for step in part[:-1])]
        select = [f"select own_0.{_quoted(key)}", f"from {root.written} as own_0"]
        for number, (step, table) in enumerate(zip(part[:-1], tables[1:], strict=True), start=1):
            condition = _condition(step, f"own_{number - 1}", f"own_{number}")
            select.append(f"join {table.written} as own_{number} on {condition}")
        here, there = _columns(last)
        before = f"own_{length - 1}"
        conditions = " and ".join(
            f"{before}.{_quoted(one)} = {{{other}}}" for one, other in zip(here, there, strict=True)
        )
        owners.setdefault(last.to, []).append(" ".join([*select, f"where {conditions}"]))


def _ways(catalogue: Catalogue, table: str) -> Iterator[list[Step]]:
    """Ways that lead to other tables: along one foreign key, or two."""
    near = list(_steps(catalogue, table))
    for step in near:
        yield [step]
    for step in near:
        for further in _steps(catalogue, step.to):
            # Not back by the way one came, nor to where one began.
            if further.reference is not step.reference and further.to not in (table, step.to):
                yield [step, further]


def _steps(catalogue: Catalogue, table: str) -> Iterator[Step]:
    for reference in catalogue.references:
        if reference.table == table and catalogue.table(reference.to) is not None and reference.to != table:
            yield Step(reference, True)
    for reference in catalogue.references:
        if reference.to == table and catalogue.table(reference.table) is not None and reference.table != table:
            yield Step(reference, False)


def _way_name(way: Sequence[Step]) -> str:
    return " / ".join(f"{step.to} ({step.name})" for step in way)


def _is_of_pairs(catalogue: Catalogue, table: str) -> bool:
    """Whether a table does nothing but tie rows of two others to each other."""
    found = _known(catalogue, table)
    own = [one for one in catalogue.references if one.table == table]
    tying = {column for one in own for column in one.columns}
    rest = [one.name for one in found.columns if one.name not in tying and one.name not in found.key]
    return len(own) == 2 and not rest


def _told_columns(catalogue: Catalogue, table: LiveTable, way: Sequence[Step]) -> list[str]:
    """The columns of a joined table that say something: no numbers that only lead somewhere."""
    leading = {column for one in catalogue.references if one.table == table.full_name for column in one.columns}
    leading |= set(table.key)
    told = [one.name for one in table.columns if one.name not in leading and one.is_value]
    return told or table.key or [one.name for one in table.columns][:1]


def _columns(step: Step) -> tuple[list[str], list[str]]:
    """By which columns of the table before, and of the one after, a step leads."""
    own = step.reference
    return (own.columns, own.to_columns) if step.forward else (own.to_columns, own.columns)


def _condition(step: Step, before: str, after: str) -> str:
    here, there = _columns(step)
    return " and ".join(
        f"{after}.{_quoted(other)} = {before}.{_quoted(one)}" for one, other in zip(here, there, strict=True)
    )


def _key_of(table: LiveTable) -> str:
    kinds = {one.name: one.written.partition("(")[0] for one in table.columns}
    fit = [names[0] for names in table.keys if len(names) == 1 and kinds.get(names[0]) in KEY_TYPES]
    if not fit:
        raise SourceRefuses(
            f"No single column names the rows of {table.written}. Write the query yourself, with a key made of "
            "several: a || '-' || b as key."
        )
    return fit[0]


def _known(catalogue: Catalogue, table: str) -> LiveTable:
    found = catalogue.table(table)
    if found is None:
        raise SourceRefuses(f"There is no table {table} that may be read.")
    return found


def _numbered(name: str) -> Iterator[str]:
    yield name
    number = 2
    while True:
        yield f"{name}_{number}"
        number += 1


def _singular(name: str) -> str:
    """What one row of a table is called, where English says so.

    >>> [_singular(one) for one in ("authors", "categories", "staff", "address")]
    ['author', 'category', 'staff', 'address']
    """
    if name.endswith("ies") and len(name) > 4:
        return f"{name[:-3]}y"
    return name[:-1] if name.endswith("s") and not name.endswith("ss") else name


def _quoted(name: str) -> str:
    """A name as SQL has it: in quotes where it could be taken for anything else."""
    plain = name.isascii() and name.isidentifier() and name == name.lower() and name not in _RESERVED
    return name if plain else '"' + name.replace('"', '""') + '"'


# Words that PostgreSQL takes for itself (its documentation, appendix C, "reserved"), and so are no names as they are.
_RESERVED: Final = frozenset(
    "all analyse analyze and any array as asc asymmetric authorization binary both case cast check collate collation "
    "column concurrently constraint create cross current_catalog current_date current_role current_schema current_time "
    "current_timestamp current_user default deferrable desc distinct do else end except false fetch for foreign freeze "
    "from full grant group having ilike in initially inner intersect into is isnull join lateral leading left like "
    "limit localtime localtimestamp natural not notnull null offset on only or order outer overlaps placing primary "
    "references returning right select session_user similar some symmetric system_user table tablesample then to "
    "trailing true union unique user using variadic verbose when where window with".split()
)
