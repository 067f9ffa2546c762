"""Publishing: which version of a ranker answers at the endpoint, when its guard rules hold or somebody says why not."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection

from pale_harbor.core.guard.rule import GuardRule, rules_in
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.publications import (
    Publication,
    add_publication,
    publications_of,
    published_now,
)
from pale_harbor.store.delivery.settings import DeliverySettings, delivery_settings
from pale_harbor.store.measuring.diary import write_entry
from pale_harbor.store.ranking.rankers import SavedRanker, ranker_named
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.compared import RankerSide
from pale_harbor.work.measuring.guarding import guarded
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.workbench import RankerChoice, Workbench


class RulesBroken(BadInput):
    """A version was not published, since guard rules are broken and nobody said why it should be all the same."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PublishedTold:
    """What is live and what is a candidate, None where nothing is; all that was published, the latest first; what has
    to hold before a version goes live."""

    live: Publication | None
    candidate: Publication | None
    history: list[Publication]
    settings: DeliverySettings


def published_told(bench: Workbench, collection: str) -> PublishedTold:
    """What is published, and what was."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        now = published_now(connection, own.id)
        return PublishedTold(
            live=now.get("live"),
            candidate=now.get("candidate"),
            history=publications_of(connection, own.id),
            settings=delivery_settings(connection, own.id),
        )


def checked(bench: Workbench, collection: str, ranker: str, version: int | None) -> list[dict[str, Any]] | None:
    """The guard rules as this version keeps them, against what is live; None where there is none to check.

    Raises NotFound, BadInput for rules that compare while nothing is live.
    """
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        saved = ranker_named(connection, own.id, ranker, version)
        settings, now = delivery_settings(connection, own.id), published_now(connection, own.id)
    live = now.get("live")
    rules = rules_in(settings.rules)
    if live is None:
        # There is nothing yet that it could be worse than.
        rules = [rule for rule in rules if not rule.needs_before]
    if not rules or settings.judged_set is None:
        return None
    return _report(bench, collection, settings.judged_set, saved, live, rules)


def _report(
    bench: Workbench,
    collection: str,
    judged_set: str,
    saved: SavedRanker,
    live: Publication | None,
    rules: Sequence[GuardRule],
) -> list[dict[str, Any]]:
    side = RankerSide(RankerChoice(saved.name, saved.version))
    against = None if live is None or live.ranker is None else RankerSide(RankerChoice(live.ranker, live.version))
    report = guarded(bench, collection, judged_set, side, against, rules, How())
    return [
        {
            "text": one.rule,
            "holds": one.holds,
            "found": one.said,
            "queries": [{"query": query.query, "values": query.values} for query in one.queries[:20]],
        }
        for one in report.rules
    ]


def publish(
    bench: Workbench, collection: str, ranker: str, version: int | None, note: str, overruled: str | None = None
) -> Publication:
    """Makes a version live, once whatever it needs is ready, so that no visitor waits for it.

    overruled: why, although guard rules are broken. Raises RulesBroken, NotFound, BadInput.
    """
    note, reason = note.strip(), (overruled or "").strip() or None
    with bench.pool.connection() as connection:
        saved = ranker_named(connection, collection_named(connection, collection).id, ranker, version)
    rules = checked(bench, collection, saved.name, saved.version)
    broken = [one for one in rules or [] if not one["holds"]]
    if broken and reason is None:
        raise RulesBroken(
            f"{saved.title} was not published: guard rules are broken. Mend it, or say why it is to be published all "
            "the same.",
            [(one["text"], one["found"]) for one in broken],
        )
    _make_ready(bench, collection, saved)
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection, lock=True)
        made = add_publication(
            connection,
            own.id,
            "live",
            ranker=saved.name,
            version=saved.version,
            note=note,
            rules=rules,
            overruled=reason if broken else None,
        )
        _write_down(connection, own.id, made)
        return made


def offer_candidate(
    bench: Workbench, collection: str, ranker: str, version: int | None, share: float, note: str, *, mixed: bool
) -> Publication:
    """Has a share of visitors meet another version: by itself, or mixed with the live one's list.

    Raises NotFound; BadInput where nothing is live, or where it is the same version.
    """
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        saved = ranker_named(connection, own.id, ranker, version)
        live = published_now(connection, own.id).get("live")
    if live is None:
        raise BadInput("Nothing is live yet that a candidate could be tried against. Publish a version first.")
    if (live.ranker, live.version) == (saved.name, saved.version):
        raise BadInput(f"{saved.title} is live already: a candidate is another version.")
    _make_ready(bench, collection, saved)
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection, lock=True)
        return add_publication(
            connection,
            own.id,
            "candidate",
            ranker=saved.name,
            version=saved.version,
            share=share,
            mixed=mixed,
            note=note.strip(),
        )


def end_candidate(bench: Workbench, collection: str, note: str) -> Publication:
    """No visitor meets a candidate any more. Raises NotFound where there is none."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection, lock=True)
        if "candidate" not in published_now(connection, own.id):
            raise NotFound("There is no candidate.")
        return add_publication(connection, own.id, "candidate", ranker=None, version=None, note=note.strip())


def go_back(bench: Workbench, collection: str, note: str = "") -> Publication:
    """Makes live again what was live before: asked for in haste, so nothing is checked. Raises NotFound."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection, lock=True)
        lived = [one for one in publications_of(connection, own.id) if one.place == "live" and one.ranker is not None]
        now = lived[0] if lived else None
        before = next((one for one in lived if now and (one.ranker, one.version) != (now.ranker, now.version)), None)
        if now is None or before is None:
            raise NotFound("Nothing else was live before that one could go back to.")
        said = note.strip() or f"Back from {now.ranker}:{now.version}."
        made = add_publication(connection, own.id, "live", ranker=before.ranker, version=before.version, note=said)
        _write_down(connection, own.id, made)
        return made


def _make_ready(bench: Workbench, collection: str, saved: SavedRanker) -> None:
    def work(opened: OpenCollection) -> None:
        opened.make_ready(bench.choose(opened.collection, RankerChoice(saved.name, saved.version)).ranker)

    bench.with_collection(collection, work)


def _write_down(connection: Connection[Any], collection_id: int, made: Publication) -> None:
    """In the diary: what went live, why, and why although rules were broken."""
    broken = [one["text"] for one in made.rules or [] if not one["holds"]]
    lines = [made.note, f"Although these rules are broken: {'; '.join(broken)}. {made.overruled}" if broken else ""]
    details = {"ranker": made.ranker, "version": made.version, "broken": broken}
    title = f"{made.ranker}:{made.version} is live"
    write_entry(connection, collection_id, "decision", title, "\n".join(filter(None, lines)), details)
