"""What a collection's engineers decide about delivery: keys, and what has to hold before a version goes live."""

from dataclasses import dataclass
from typing import Final

from pale_harbor.core.guard.rule import lines_of_rules, rules_in
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.visitor_terms import VisitorTerms
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.delivery import keys
from pale_harbor.store.delivery.keys import DeliveryKey
from pale_harbor.store.delivery.settings import DeliverySettings, delivery_settings, put_delivery_settings
from pale_harbor.store.judging.judged_sets import set_named
from pale_harbor.store.ranking.rankers import ranker_named
from pale_harbor.work.delivery.known import check_terms
from pale_harbor.work.people.asking import who_asks
from pale_harbor.work.people.rights import RIGHTS_OF, Role
from pale_harbor.work.people.tokens import hash_of, new_token
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class NewKey:
    """A key that was made. shown: what is to be sent with requests, told this once."""

    id: int
    shown: str


def make_visitor_key(bench: Workbench, collection: str, label: str, terms: VisitorTerms, days: float | None) -> NewKey:
    """A key for a site's pages, which searches as its terms say. Raises BadInput, NotFound."""
    token = new_token()
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        check_terms(terms, [field.name for field in fields_of(connection, own.id)])
        if terms.ranker is not None:
            ranker_named(connection, own.id, terms.ranker, terms.version)
        elif terms.version is not None:
            raise BadInput('These terms cannot be used: "version" is one of a ranker. Name it, or leave both out.')
        id_ = keys.add_key(
            connection,
            own.id,
            hash_of(token),
            label=_label(label),
            terms=terms.kept,
            role=None,
            days=days,
        )
    return NewKey(id=id_, shown=token)


def make_program_key(bench: Workbench, collection: str, label: str, role: Role, days: float | None) -> NewKey:
    """A key for a program, which has a role in the collection: at most that of whoever makes it, for as long as they
    have it. Raises BadInput, NotFound."""
    own_role = who_asks().role_in(collection)
    if role == "judge" or own_role is None or not RIGHTS_OF[role] <= RIGHTS_OF[own_role]:
        raise BadInput(f'A key of yours cannot have the role "{role}" in "{collection}".')
    token = new_token()
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        id_ = keys.add_key(connection, own.id, hash_of(token), label=_label(label), terms=None, role=role, days=days)
    return NewKey(id=id_, shown=token)


def keys_told(bench: Workbench, collection: str) -> list[DeliveryKey]:
    """A collection's keys, those that hold first."""
    with bench.pool.connection() as connection:
        return keys.keys_of(connection, collection_named(connection, collection).id)


def change_terms(bench: Workbench, collection: str, key_id: int, label: str, terms: VisitorTerms) -> None:
    """Gives a visitor's key other terms. Raises BadInput; NotFound where there is none that holds."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        check_terms(terms, [field.name for field in fields_of(connection, own.id)])
        if terms.ranker is not None:
            ranker_named(connection, own.id, terms.ranker, terms.version)
        if not keys.put_terms(connection, own.id, key_id, _label(label), terms.kept):
            raise NotFound(_NO_SUCH_KEY)


def revoke(bench: Workbench, collection: str, key_id: int) -> None:
    """From now on a key is good for nothing. Raises NotFound where there is none that holds."""
    with bench.pool.connection() as connection:
        if not keys.revoke_key(connection, collection_named(connection, collection).id, key_id):
            raise NotFound(_NO_SUCH_KEY)


def settings_told(bench: Workbench, collection: str) -> DeliverySettings:
    """What has to hold before a version goes live, and for how long it is kept what was asked."""
    with bench.pool.connection() as connection:
        return delivery_settings(connection, collection_named(connection, collection).id)


def change_settings(bench: Workbench, collection: str, wanted: DeliverySettings) -> DeliverySettings:
    """Settles it. Raises BadInput for rules that cannot be read, or that no judged set is named for."""
    rules_in(wanted.rules)
    if lines_of_rules(wanted.rules) and wanted.judged_set is None:
        raise BadInput("Rules are checked on a judged set: name one.")
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        chosen = None if wanted.judged_set is None else set_named(connection, own.id, wanted.judged_set)
        put_delivery_settings(connection, own.id, None if chosen is None else chosen.id, wanted.rules, wanted.kept_days)
        return delivery_settings(connection, own.id)


def change_settings_partly(
    bench: Workbench, collection: str, judged_set: str | None, rules: str | None, kept_days: int | None
) -> DeliverySettings:
    """Settles what is not None; the rest stays as it is. Raises as `change_settings`."""
    now = settings_told(bench, collection)
    wanted = DeliverySettings(
        judged_set=now.judged_set if judged_set is None else judged_set,
        rules=now.rules if rules is None else rules,
        kept_days=now.kept_days if kept_days is None else kept_days,
    )
    return change_settings(bench, collection, wanted)


_NO_SUCH_KEY: Final = "There is no key of that number any more, or it cannot be changed."


def _label(text: str) -> str:
    label = text.strip()
    if not label:
        raise BadInput("Say what the key is for: it is known by that later.")
    return label[:200]
