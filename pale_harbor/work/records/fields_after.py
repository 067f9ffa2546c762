"""What a collection's fields are once rows came in: what was known of them stays as far as the values allow."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pale_harbor.formats.records import ImportPlan
from pale_harbor.formats.records.guessing import Evidence
from pale_harbor.formats.records.plan import Kind, Role
from pale_harbor.store.collections.collections import CollectionField


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldSeen:
    """What rows said of a field. several: whether some row held several values of it."""

    name: str
    kind: Kind
    role: Role | None
    several: bool


def fields_seen(evidence: Evidence, key: str | None) -> list[FieldSeen]:
    """What was seen of each field, in the order in which they were met."""
    return [
        FieldSeen(name=one.name, kind=one.kind, role=one.role, several=bool(evidence.fields[one.name].lists))
        for one in evidence.guess(key)
    ]


def fields_seen_in(rows: Iterable[dict[str, Any]], key: str | None) -> list[FieldSeen]:
    """What the values of rows say of each field."""
    evidence = Evidence(typed=True)
    for values in rows:
        evidence.note(values)
    return fields_seen(evidence, key)


def fields_after(known: list[CollectionField], seen: Iterable[FieldSeen], plan: ImportPlan) -> list[CollectionField]:
    """A collection's fields once rows came in."""
    roles_are_set = bool(known)
    met = {one.name: one for one in seen}
    fields: list[CollectionField] = []
    for field_known in known:
        own = met.pop(field_known.name, None)
        if own is None:
            fields.append(field_known)
            continue
        fits = field_known.kind in ("text", "exact") or field_known.kind == own.kind
        fields.append(
            CollectionField(
                name=field_known.name,
                kind=field_known.kind if fits else "text",
                several=field_known.several or own.several,
                role=field_known.role,
                passages=field_known.passages,
            )
        )
    for name, own in met.items():
        planned = plan.field(name)
        role = planned.role if planned else (None if roles_are_set or plan.fields else own.role)
        if name == plan.key:
            role = "key"
        elif role == "key":
            role = None
        kind = planned.kind if planned else own.kind
        fields.append(CollectionField(name=name, kind=kind, several=own.several, role=role))
    return fields
