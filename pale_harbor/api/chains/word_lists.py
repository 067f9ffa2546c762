"""Word lists over HTTP: kept as CSV, read from thesauri."""

from typing import Annotated

from fastapi import Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from pale_harbor.api.chains.models import ThesaurusAnswer, WordListRequest
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench
from pale_harbor.formats.skos import SkosReading, synonyms_of
from pale_harbor.formats.word_lists import csv_of
from pale_harbor.work.chains.word_lists import ListInUse, WordListText, list_as_csv, lists_in_use, put_list

router = guarded_router()

VersionText = Annotated[int | None, Query(ge=1, le=2**31 - 1)]


@router.get("/collections/{collection}/word-lists")
def word_lists(collection: str, bench: Bench) -> list[ListInUse]:
    """The newest version of each word list, and which saved chains read it."""
    return lists_in_use(bench, collection)


@router.get("/collections/{collection}/word-lists/{name}")
def word_list(collection: str, name: str, bench: Bench, version: VersionText = None) -> WordListText:
    """A word list as CSV, the newest version where none is named."""
    return list_as_csv(bench, collection, name, version)


@router.get("/collections/{collection}/word-lists/{name}/file", response_class=Response)
def word_list_file(collection: str, name: str, bench: Bench, version: VersionText = None) -> Response:
    """A word list as a CSV file."""
    found = list_as_csv(bench, collection, name, version)
    return Response(
        found.csv,
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{found.name}-{found.version}.csv"'},
    )


@router.put("/collections/{collection}/word-lists/{name}")
@largest_body(20_000_000)
def put_word_list(collection: str, name: str, request: WordListRequest, bench: Bench) -> WordListText:
    """Keeps a word list as a new version of its name; every line that is wrong is told."""
    saved = put_list(bench, collection, name, request.csv, request.kind, request.as_version)
    return word_list(collection, name, bench, saved.version)


@router.post("/thesaurus")
@largest_body(20_000_000)
async def read_thesaurus(
    request: Request,
    name: Annotated[str, Query(min_length=1, max_length=200)],
    language: Annotated[list[str], Query(max_length=40)] = [],  # noqa: B006 - FastAPI copies it
    across: bool = False,
    narrower: bool = False,
) -> ThesaurusAnswer:
    """The synonyms that a SKOS thesaurus gives, to look at before they are kept; the body is the file."""
    content = await request.body()
    reading = SkosReading(tuple(language), across, narrower)
    found = await run_in_threadpool(synonyms_of, content, name, reading)
    return ThesaurusAnswer(csv=csv_of(found), rules=len(found.rules))
