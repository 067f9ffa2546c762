"""Imports over HTTP: uploads, previews, progress, rejected rows and their mending."""

from typing import Annotated

from fastapi import Query, Request, Response

from pale_harbor.api.records.models import (
    ImportModel,
    ImportRequest,
    MendRequest,
    PreviewModel,
    PreviewRequest,
    RejectedPage,
    SourceRequest,
    UploadModel,
    import_model,
)
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench, Serving, UploadFolder
from pale_harbor.errors import BadInput
from pale_harbor.formats.records import FORMATS
from pale_harbor.store.collections.collections import check_name
from pale_harbor.store.imports import imports as kept
from pale_harbor.store.running.jobs import FINISHED, is_held, want_cancel
from pale_harbor.work.imports.mending import Mended, mend_rows, rejected_as_file
from pale_harbor.work.imports.sources import FileSource, RowSource, database_source, preview
from pale_harbor.work.imports.uploads import LARGEST_UPLOAD
from pale_harbor.work.workbench import Workbench

router = guarded_router()

_TITLES = {one.name: one.title for one in FORMATS} | {"postgresql": "PostgreSQL"}


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
def preview_source(request: PreviewRequest, bench: Bench, folder: UploadFolder) -> PreviewModel:
    """The first rows of a source as they would be read; what the plan leaves open is guessed."""
    source = _source(bench, folder, request.source, request.collection or "")
    seen = preview(source, request.plan)
    return PreviewModel(
        name=str(source.kept()["name"]),
        format=_TITLES.get(seen.plan.format or "", ""),
        plan=seen.plan,
        rows=seen.rows,
        rejects=seen.rejects,
        rejected=seen.rejected,
        looked_at=seen.looked_at,
        complete=seen.complete,
    )


@router.post("/collections/{name}/imports")
def start_import(
    name: str, request: ImportRequest, bench: Bench, folder: UploadFolder, serving: Serving
) -> ImportModel:
    """Starts an import into a collection, which is made where there is none."""
    check_name(name)
    source = _source(bench, folder, request.source, name)
    return import_with_id(serving.start_import(name, source, request.plan), bench)


@router.get("/collections/{name}/imports")
def imports(name: str, bench: Bench) -> list[ImportModel]:
    """A collection's imports, the latest first."""
    with bench.pool.connection() as connection:
        return [import_model(job, is_held=is_held(connection, job.id)) for job in kept.imports_of(connection, name)]


@router.get("/imports/{job_id}")
def import_with_id(job_id: int, bench: Bench) -> ImportModel:
    """How far an import is."""
    with bench.pool.connection() as connection:
        return import_model(kept.import_with_id(connection, job_id), is_held=is_held(connection, job_id))


@router.post("/imports/{job_id}/cancel")
def cancel_import(job_id: int, bench: Bench, serving: Serving) -> ImportModel:
    """Cancels an import; the collection stays as it was."""
    with bench.pool.connection() as connection:
        job = kept.import_with_id(connection, job_id)
        want_cancel(connection, job_id)
        held = is_held(connection, job_id)
    if job.state in ("waiting", "running") and not held:
        # Nobody is at it: whoever takes it up sees that it is to end.
        serving.resume_import(job_id)
    return import_with_id(job_id, bench)


@router.post("/imports/{job_id}/resume")
def resume_import(job_id: int, bench: Bench, serving: Serving) -> ImportModel:
    """Goes on with an import that was cut off."""
    with bench.pool.connection() as connection:
        if kept.import_with_id(connection, job_id).state in FINISHED:
            raise BadInput("This import is finished; there is nothing to go on with.")
    serving.resume_import(job_id)
    return import_with_id(job_id, bench)


@router.get("/imports/{job_id}/rejected")
def rejected(
    job_id: int,
    bench: Bench,
    first: Annotated[int, Query(ge=0)] = 0,
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


def _source(bench: Workbench, folder: UploadFolder, request: SourceRequest, collection: str) -> RowSource:
    if request.upload is not None:
        return FileSource(folder.source(request.upload))
    if request.address is None or request.query is None:
        raise BadInput("A source is an upload, or the address of a database and a query.")
    return database_source(bench.pool, collection, request.address, request.query, request.changed_at)
