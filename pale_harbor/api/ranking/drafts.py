"""Drafts over HTTP: kept as they change, offered again, discarded."""

from typing import Annotated, Any

import orjson
from fastapi import Response
from pydantic import AfterValidator, BaseModel, Field

from pale_harbor.api.models import MOST, Version
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.work.ranking.drafts import DraftTold, begin_draft, discard_draft, drafts_told, go_on_with_draft

router = guarded_router()


def answerable(value: Any) -> Any:
    """What JSON can give back again. Raises ValueError for lone surrogates and numbers beyond all bounds."""
    try:
        orjson.dumps(value)
    except TypeError as error:
        raise ValueError(f"this document cannot be kept: {error}.") from error
    return value


class DraftRequest(BaseModel):
    """A draft as it stands now, whether it is a ranker or not."""

    document: Annotated[dict[str, Any], AfterValidator(answerable)]


class ChangedDraftRequest(DraftRequest):
    """known: the revision of the draft that whoever changes it knows of; None: whatever it is by now."""

    known: Annotated[int, Field(ge=1, le=MOST)] | None = None


class NewDraftRequest(DraftRequest):
    """ranker, version: the kept version that it stands on."""

    ranker: Annotated[str, Field(min_length=1, max_length=63)]
    version: Version


class DraftBegun(BaseModel):
    id: int
    revision: int = 1


class DraftChanged(BaseModel):
    revision: int


@router.get("/collections/{collection}/drafts")
def drafts(collection: str, bench: Bench) -> list[DraftTold]:
    """Rankers that were edited and that nobody kept yet, the latest changed first."""
    return drafts_told(bench, collection)


@router.post("/collections/{collection}/drafts")
def post_draft(collection: str, request: NewDraftRequest, bench: Bench) -> DraftBegun:
    """Keeps a new draft; those that were left longest go where there are more than twenty."""
    return DraftBegun(id=begin_draft(bench, collection, request.ranker, request.version, request.document))


@router.put("/collections/{collection}/drafts/{draft_id}")
def put_draft(collection: str, draft_id: int, request: ChangedDraftRequest, bench: Bench) -> DraftChanged:
    """Keeps what a draft is now, unless somebody else changed it meanwhile."""
    return DraftChanged(revision=go_on_with_draft(bench, collection, draft_id, request.document, request.known))


@router.delete("/collections/{collection}/drafts/{draft_id}", status_code=204, response_class=Response)
def delete_draft(collection: str, draft_id: int, bench: Bench) -> None:
    """Discards a draft."""
    discard_draft(bench, collection, draft_id)
