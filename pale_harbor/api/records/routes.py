"""Records, fields and their looks over HTTP."""

from dataclasses import replace
from typing import Annotated, Literal

from fastapi import Query, Response
from fastapi.responses import StreamingResponse

from pale_harbor.api.chains.models import token_model
from pale_harbor.api.models import MOST
from pale_harbor.api.records.models import (
    DeletedRequest,
    EarlierPage,
    FieldRequest,
    KeysRequest,
    PassageRequest,
    ReadingTokensModel,
    RecordPageModel,
    RecordReadings,
    RecordsPage,
    RecordsRequest,
    RestoreRequest,
    ValueTokens,
    WordRequest,
)
from pale_harbor.api.records.pictures import as_answer
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench
from pale_harbor.formats.display import DisplayDocument
from pale_harbor.formats.passages import passage_rule
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.records.pictures import picture_named, small_picture_named
from pale_harbor.store.records.records import (
    EarlierRecord,
    deleted_records,
    deletions,
    earlier_states,
    record_with_key,
    records_page,
)
from pale_harbor.work.records.called import CalledRecord, records_called
from pale_harbor.work.records.changes import (
    Changed,
    correct_word,
    put_records,
    remove_records,
    restore_deleted,
    restore_record,
)
from pale_harbor.work.records.exporting import exported_lines
from pale_harbor.work.records.looking import CutValue, PassagePreview, Profile, passages_of, preview_passages, tokens_of
from pale_harbor.work.records.pages import page_of_record
from pale_harbor.work.records.reading_quality import ReadingQuality, reading_quality
from pale_harbor.work.running.spooled import spooled
from pale_harbor.work.workbench import RankerChoice

router = guarded_router()

_MEDIA_TYPES = {
    "jsonl": "application/x-ndjson",
    "csv": "text/csv; charset=utf-8",
    "parquet": "application/vnd.apache.parquet",
}
_LONGEST_SHOWN = 20_000
_DELETIONS_SHOWN = 100


@router.get("/collections/{name}/records")
def records(
    name: str,
    bench: Bench,
    words: Annotated[str, Query(max_length=500)] = "",
    field: Annotated[str | None, Query(max_length=200)] = None,
    sort: Annotated[str | None, Query(max_length=200)] = None,
    descending: bool = False,
    first: Annotated[int, Query(ge=0, le=MOST)] = 0,
    count: Annotated[int, Query(ge=1, le=500)] = 50,
) -> RecordsPage:
    """A page of records, narrowed to those that hold a text and sorted by a field."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, name)
        page, found = records_page(
            connection,
            kept.id,
            words=words.replace("\x00", ""),
            field=field,
            sort=sort,
            descending=descending,
            first=first,
            count=count,
        )
    return RecordsPage(records=page, found=found)


@router.get("/collections/{name}/called")
def records_called_so(
    name: str,
    bench: Bench,
    words: Annotated[str, Query(max_length=200)],
    most: Annotated[int, Query(ge=1, le=50)] = 8,
) -> list[CalledRecord]:
    """Records whose key begins so or whose title has these words, the last one begun."""
    return records_called(bench, name, words, most)


@router.post("/collections/{name}/records")
@largest_body(64_000_000)
def put(name: str, request: RecordsRequest, bench: Bench) -> Changed:
    """Adds or replaces records, all or none; the next search finds them."""
    return put_records(bench.pool, name, request.records, request.known)


@router.post("/collections/{name}/records/delete")
def delete(name: str, request: KeysRequest, bench: Bench) -> Changed:
    """Deletes records by key; they can be restored."""
    return remove_records(bench.pool, name, request.keys)


@router.post("/collections/{name}/records/restore")
def restore(name: str, request: RestoreRequest, bench: Bench) -> Changed:
    """Makes a record what it was before a change or a deletion."""
    return restore_record(bench.pool, name, request.key, request.ended_revision)


@router.get("/collections/{name}/record/earlier")
def earlier(name: str, key: Annotated[str, Query(max_length=500)], bench: Bench) -> list[EarlierRecord]:
    """What a record was before, the latest first."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, name)
        return earlier_states(connection, kept.id, key.replace("\x00", ""))


@router.get("/collections/{name}/record/readings")
def readings(name: str, key: Annotated[str, Query(max_length=500)], bench: Bench) -> RecordReadings:
    """What each reading of the default ranker made of a record, token by token; and its passages."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, name)
        found = record_with_key(connection, kept, key)
        fields = fields_of(connection, kept.id)
    made = tokens_of(found, bench.choose(kept, RankerChoice()).ranker) if kept.default_ranker else []
    return RecordReadings(
        key=key,
        ranker=kept.default_ranker,
        readings=[
            ReadingTokensModel(
                field=one.field,
                chain=one.chain,
                weight=one.weight,
                values=[
                    ValueTokens(text=text[:_LONGEST_SHOWN], tokens=[token_model(token) for token in tokens[:2_000]])
                    for text, tokens in one.values[:50]
                ],
            )
            for one in made
        ],
        passages={
            field: [_cut_value(value) for value in values] for field, values in passages_of(found, fields).items()
        },
    )


@router.get("/collections/{name}/page")
def record_page(name: str, key: Annotated[str, Query(max_length=500)], bench: Bench) -> RecordPageModel:
    """A record as the page that a machine read: its picture, and where the letters of its text stand on it."""
    return RecordPageModel.of(page_of_record(bench.pool, name, key))


@router.get("/collections/{name}/reading-quality")
def reading_quality_of(
    name: str, bench: Bench, by: Annotated[str | None, Query(max_length=200)] = None
) -> ReadingQuality:
    """How well pages were read: confidence, words that nothing else knows, boxes that cannot be right; the worst first.

    by: the field that says what thing a page is of.
    """
    return reading_quality(bench.pool, name, by)


@router.post("/collections/{name}/page/word")
def correct_word_of_page(name: str, request: WordRequest, bench: Bench) -> Changed:
    """Gives letters of a page's text others, as somebody reads them on its picture; their places stay."""
    return correct_word(bench.pool, name, request.key, request.seen, request.start, request.end, request.letters)


@router.get("/collections/{name}/deleted")
def list_deleted(
    name: str,
    bench: Bench,
    first: Annotated[int, Query(ge=0, le=MOST)] = 0,
    count: Annotated[int, Query(ge=1, le=500)] = 50,
) -> EarlierPage:
    """Records that were deleted, the latest first, as they were."""
    with bench.pool.connection() as connection:
        page, found = deleted_records(connection, collection_named(connection, name).id, first, count)
        gone = deletions(connection, collection_named(connection, name).id)
    return EarlierPage(records=page, found=found, deletions=gone[:_DELETIONS_SHOWN])


@router.post("/collections/{name}/deleted/restore")
def restore_many(name: str, request: DeletedRequest, bench: Bench) -> Changed:
    """Brings deleted records back in one step: some by key, or all that a revision deleted."""
    return restore_deleted(bench.pool, name, keys=request.keys, ended_revision=request.ended_revision)


@router.get("/collections/{name}/profile")
def profile(name: str, bench: Bench) -> Profile:
    """What each field holds: how often, how many different values, how long, in which languages, what is odd."""
    return bench.profiles.of(name)


@router.put("/collections/{name}/fields/{field:path}")
def change_field(name: str, field: str, request: FieldRequest, bench: Bench) -> None:
    """Sets a field's kind, its role and how its values are cut into passages."""
    rule = request.passages
    if rule is not None:
        passage_rule(rule.model_dump())
    bench.change_field(name, field, request.kind, request.role, None if rule is None else rule.model_dump())


@router.put("/collections/{name}/display")
def change_display(name: str, request: DisplayDocument, bench: Bench) -> DisplayDocument:
    """Sets how a record is shown in every list of results."""
    return bench.change_display(name, request)


@router.post("/collections/{name}/passages")
def try_passages(name: str, request: PassageRequest, bench: Bench) -> PassagePreview:
    """What a rule for passages does to a field's values."""
    seen = preview_passages(bench.pool, name, request.field, passage_rule(request.rule.model_dump()))
    return replace(seen, values=[_cut_value(value) for value in seen.values])


@router.get("/collections/{name}/export", response_class=StreamingResponse)
def export(name: str, bench: Bench, format: Literal["jsonl", "csv", "parquet"] = "jsonl") -> StreamingResponse:
    """The records as a file; importing it gives the same records."""
    with bench.pool.connection() as connection:
        collection_named(connection, name)
    return StreamingResponse(
        spooled(lambda: exported_lines(bench.pool, name, format)),
        media_type=_MEDIA_TYPES[format],
        headers={"Content-Disposition": f'attachment; filename="{name}.{format}"'},
    )


@router.get("/collections/{name}/pictures/{picture:path}", response_class=Response)
def picture(name: str, picture: str, bench: Bench, small: bool = False) -> Response:
    """A picture that records name; small, as lists show it."""
    named = small_picture_named if small else picture_named
    with bench.pool.connection() as connection:
        return as_answer(named(connection, collection_named(connection, name).id, picture))


def _cut_value(value: CutValue) -> CutValue:
    """As much of a value as is shown."""
    if len(value.text) <= _LONGEST_SHOWN:
        return value
    stretches = [(start, min(end, _LONGEST_SHOWN)) for start, end in value.stretches if start < _LONGEST_SHOWN]
    return CutValue(value.text[:_LONGEST_SHOWN], stretches)
