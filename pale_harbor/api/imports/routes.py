"""Imports over HTTP: uploads, previews, progress, rejected rows and their mending."""

from typing import Annotated

from fastapi import Query, Request, Response

from pale_harbor.api.models import MOST
from pale_harbor.api.records.models import (
    DecisionRequest,
    ImportRequest,
    MendRequest,
    PreviewRequest,
    RejectedPage,
    SourceRequest,
    UploadModel,
)
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench, Serving, UploadFolder
from pale_harbor.errors import BadInput
from pale_harbor.store.collections.collections import all_collections, check_name
from pale_harbor.store.imports import imports as kept
from pale_harbor.store.running.jobs import FINISHED, is_held, want_cancel
from pale_harbor.work.imports.harvesting import repository_source
from pale_harbor.work.imports.importing import go_on_with, leave_import
from pale_harbor.work.imports.mending import Mended, mend_rows, rejected_as_file
from pale_harbor.work.imports.sources import FileSource, Preview, RowSource, database_source, preview
from pale_harbor.work.imports.told import ImportTold, import_told, imports_told
from pale_harbor.work.imports.undoing import Undone, undo_import
from pale_harbor.work.imports.uploads import LARGEST_UPLOAD
from pale_harbor.work.people.asking import need
from pale_harbor.work.people.rights import Right
from pale_harbor.work.workbench import Workbench

router = guarded_router()


@router.post(
    "/uploads",
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {"schema": {"format": "binary"}}}}},
)
@largest_body(LARGEST_UPLOAD)
async def upload(request: Request, folder: UploadFolder, name: Annotated[str, Query(max_length=1_000)]) -> UploadModel:
    """Takes a file in: its content is the request's body."""
    upload_id = await folder.keep(name, request.stream())
    source = folder.source(upload_id)
    return UploadModel(upload=upload_id, name=source.name, bytes=source.bytes_in_all)


@router.post("/previews")
def preview_source(request: PreviewRequest, bench: Bench, folder: UploadFolder) -> Preview:
    """The first rows of a source as they would be read; what the plan leaves open is guessed."""
    replaces = request.plan.replace
    source = _source(bench, folder, request.source, request.collection or "", replaces=replaces)
    return preview(source, request.plan)


@router.post("/collections/{name}/imports")
def start_import(name: str, request: ImportRequest, bench: Bench, folder: UploadFolder, serving: Serving) -> ImportTold:
    """Starts an import into a collection, which is made where there is none.

    One that would delete more than a tenth of the records (with `asks`, one that meets any) waits to be decided about.
    """
    check_name(name)
    with bench.pool.connection() as connection:
        is_new = all(one.name != name for one in all_collections(connection))
    need(Right.MAKE if is_new else Right.CHANGE, name)
    source = _source(bench, folder, request.source, name, replaces=request.plan.replace)
    job_id = serving.start_import(name, source, request.plan, asks=request.asks, tune_start=request.tune_start)
    return import_told(bench, job_id)


@router.get("/collections/{name}/imports")
def imports(name: str, bench: Bench) -> list[ImportTold]:
    """A collection's imports, the latest first."""
    return imports_told(bench, name)


@router.get("/imports/{job_id}")
def import_with_id(job_id: int, bench: Bench) -> ImportTold:
    """How far an import is."""
    return import_told(bench, job_id)


@router.post("/imports/{job_id}/go-on")
def decide_import(job_id: int, request: DecisionRequest, bench: Bench, serving: Serving) -> ImportTold:
    """Does an import that waits to be decided about; `deletions`: how many records it may delete."""
    go_on_with(bench.pool, job_id, request.deletions)
    serving.resume_import(job_id)
    return import_told(bench, job_id)


@router.post("/imports/{job_id}/undo")
def undo(job_id: int, bench: Bench) -> Undone:
    """Makes the records that an import touched what they were before, but for those that others touched since."""
    return undo_import(bench.pool, job_id)


@router.post("/imports/{job_id}/cancel")
def cancel_import(job_id: int, bench: Bench, serving: Serving) -> ImportTold:
    """Cancels an import; the collection stays as it was."""
    with bench.pool.connection() as connection:
        job = kept.import_with_id(connection, job_id)
        want_cancel(connection, job_id)
        held = is_held(connection, job_id)
    if job.state == "undecided":
        leave_import(bench.pool, job_id)
    if job.state in ("waiting", "running") and not held:
        # Nobody is at it: whoever takes it up sees that it is to end.
        serving.resume_import(job_id)
    return import_told(bench, job_id)


@router.post("/imports/{job_id}/resume")
def resume_import(job_id: int, bench: Bench, serving: Serving) -> ImportTold:
    """Goes on with an import that was cut off."""
    with bench.pool.connection() as connection:
        state = kept.import_with_id(connection, job_id).state
    if state in FINISHED:
        raise BadInput("This import is finished; there is nothing to go on with.")
    if state == "undecided":
        raise BadInput("This import waits for a decision: let it go on, or cancel it.")
    serving.resume_import(job_id)
    return import_told(bench, job_id)


@router.get("/imports/{job_id}/rejected")
def list_rejected(
    job_id: int,
    bench: Bench,
    first: Annotated[int, Query(ge=0, le=MOST)] = 0,
    count: Annotated[int, Query(ge=1, le=1_000)] = 100,
) -> RejectedPage:
    """Rows that could not be read: line, reason, and what stands there."""
    with bench.pool.connection() as connection:
        job = kept.import_with_id(connection, job_id)
        rows = kept.rejected_rows(connection, job_id, first, count)
    return RejectedPage(rows=rows, found=job.rows_rejected)


@router.get("/imports/{job_id}/rejected/file", response_class=Response)
def rejected_file(job_id: int, bench: Bench) -> Response:
    """The rejected rows as a file that can be mended in an editor and imported again."""
    with bench.pool.connection() as connection:
        job = kept.import_with_id(connection, job_id)
        file_name, content = rejected_as_file(job, list(kept.all_rejected(connection, job_id)))
    plain = "".join(c if c.isascii() and (c.isalnum() or c in "-_.") else "_" for c in file_name)
    return Response(
        content,
        media_type="text/plain; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{plain}"'},
    )


@router.post("/imports/{job_id}/mend")
@largest_body(64_000_000)
def mend(job_id: int, request: MendRequest, bench: Bench) -> Mended:
    """Reads mended rows again; those that can be read now become records."""
    return mend_rows(bench.pool, job_id, [(row.row_number, row.raw) for row in request.rows])


def _source(
    bench: Workbench, folder: UploadFolder, request: SourceRequest, collection: str, *, replaces: bool
) -> RowSource:
    if request.upload is not None:
        return FileSource(folder.source(request.upload))
    if request.repository is not None:
        return repository_source(
            bench.pool,
            collection,
            request.repository,
            request.metadata,
            request.of_set,
            anew=bool(request.anew) or replaces,
        )
    if request.address is None or request.query is None:
        raise BadInput("A source is an upload, the address of a database and a query, or a repository's address.")
    return database_source(bench.pool, collection, request.address, request.query, request.changed_at)
