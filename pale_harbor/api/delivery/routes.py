"""How delivery is kept, over HTTP: what is live, which keys there are, what has to hold."""

from typing import Annotated, Any

from fastapi import Path, Response

from pale_harbor.api.delivery.models import (
    CandidateRequest,
    DeliverySettingsModel,
    ProgramKeyRequest,
    PublishingCheckRequest,
    PublishingNote,
    PublishRequest,
    VisitorKeyRequest,
    VisitorKeyTerms,
)
from pale_harbor.api.models import MOST
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench, Serving
from pale_harbor.store.delivery.keys import DeliveryKey
from pale_harbor.store.delivery.publications import Publication
from pale_harbor.store.delivery.settings import DeliverySettings
from pale_harbor.work.delivery import keeping, publishing
from pale_harbor.work.delivery.keeping import NewKey
from pale_harbor.work.delivery.publishing import PublishedTold

router = guarded_router()

KeyNumber = Annotated[int, Path(ge=1, le=MOST)]


@router.get("/collections/{collection}/delivery")
def published(collection: str, bench: Bench) -> PublishedTold:
    """What is live at the search endpoint, what was, and what has to hold before another version is."""
    return publishing.published_told(bench, collection)


@router.post("/collections/{collection}/delivery/checked")
def publishing_checked(collection: str, request: PublishingCheckRequest, bench: Bench) -> list[dict[str, Any]] | None:
    """The guard rules as a version keeps them against what is live; null where there is none to check."""
    return publishing.checked(bench, collection, request.ranker, request.version)


@router.post("/collections/{collection}/delivery/live")
def publish_version(collection: str, request: PublishRequest, bench: Bench, server: Serving) -> Publication:
    """Makes a version of a ranker live, where its guard rules hold or somebody says why it is to be all the same."""
    made = publishing.publish(bench, collection, request.ranker, request.version, request.note, request.overruled)
    server.delivery.keys.forget()
    return made


@router.post("/collections/{collection}/delivery/back")
def publish_former(collection: str, request: PublishingNote, bench: Bench, server: Serving) -> Publication:
    """Makes live again what was live before."""
    made = publishing.go_back(bench, collection, request.note)
    server.delivery.keys.forget()
    return made


@router.put("/collections/{collection}/delivery/candidate")
def put_candidate(collection: str, request: CandidateRequest, bench: Bench, server: Serving) -> Publication:
    """Has a share of visitors meet another version."""
    made = publishing.offer_candidate(
        bench, collection, request.ranker, request.version, request.share, request.note, mixed=request.mixed
    )
    server.delivery.keys.forget()
    return made


@router.post("/collections/{collection}/delivery/candidate/ended")
def drop_candidate(collection: str, request: PublishingNote, bench: Bench, server: Serving) -> Publication:
    """No visitor meets a candidate any more."""
    made = publishing.end_candidate(bench, collection, request.note)
    server.delivery.keys.forget()
    return made


@router.put("/collections/{collection}/delivery/settings")
def put_delivery_settings(collection: str, request: DeliverySettingsModel, bench: Bench) -> DeliverySettings:
    """Settles what has to hold before a version goes live, and for how long it is kept what was asked."""
    wanted = DeliverySettings(judged_set=request.judged_set, rules=request.rules, kept_days=request.kept_days)
    return keeping.change_settings(bench, collection, wanted)


@router.get("/collections/{collection}/delivery/keys")
def delivery_keys(collection: str, bench: Bench) -> list[DeliveryKey]:
    """The keys of a collection, those that hold first."""
    return keeping.keys_told(bench, collection)


@router.post("/collections/{collection}/delivery/keys/visitors")
def make_visitor_key(collection: str, request: VisitorKeyRequest, bench: Bench) -> NewKey:
    """Makes a key for a site's pages; it is told this once."""
    return keeping.make_visitor_key(bench, collection, request.label, request.terms, request.days)


@router.post("/collections/{collection}/delivery/keys/programs")
def make_program_key(collection: str, request: ProgramKeyRequest, bench: Bench) -> NewKey:
    """Makes a key for a program; it is told this once."""
    return keeping.make_program_key(bench, collection, request.label, request.role, request.days)


@router.put("/collections/{collection}/delivery/keys/{key_id}", status_code=204, response_class=Response)
def put_visitor_key(
    collection: str, key_id: KeyNumber, request: VisitorKeyTerms, bench: Bench, server: Serving
) -> None:
    """Gives a visitor's key other terms."""
    keeping.change_terms(bench, collection, key_id, request.label, request.terms)
    server.delivery.keys.forget()


@router.delete("/collections/{collection}/delivery/keys/{key_id}", status_code=204, response_class=Response)
def revoke_delivery_key(collection: str, key_id: KeyNumber, bench: Bench, server: Serving) -> None:
    """From now on a key is good for nothing."""
    keeping.revoke(bench, collection, key_id)
    server.delivery.keys.forget()
