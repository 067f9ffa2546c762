"""Answers of the search endpoint as they go out: JSON, or the rows alone as CSV or JSON Lines."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict
from typing import Any, Final

import orjson

from pale_harbor.core.marking import in_utf16
from pale_harbor.formats.records.writing import csv_lines, json_lines
from pale_harbor.work.delivery.answering import DeliveredList
from pale_harbor.work.delivery.delivery import About, ShownPage
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.paged import FoundPage
from pale_harbor.work.ranking.completing import Completed
from pale_harbor.work.ranking.corrected import DidYouMean

JSON: Final = "application/json"
CSV: Final = "text/csv"
JSON_LINES: Final = "application/x-ndjson"


def as_json(said: Any) -> bytes:
    """What is told, written."""
    return orjson.dumps(said)


def answer_of(kind: str, found: DeliveredList, told: dict[str, Any], known: Known) -> bytes:
    """A list in the form that is wanted."""
    return _WRITTEN[kind](found, told, known)


def list_told(found: DeliveredList, hits: Mapping[str, FoundPage] | None = None) -> dict[str, Any]:
    """A list as a visitor's page gets it; places of marks and passages count UTF-16 units.

    hits: what the query matched on those rows that are pages, by key, None where nobody asked for it.
    """
    return {
        "query_id": str(found.query_id),
        "ranker": {"name": found.ranker.name, "version": found.ranker.version},
        "found": found.found,
        "rows": found.rows,
        "results": [
            {
                "rank": row.rank,
                "key": row.key,
                "fields": row.field_values,
                "marks": row.marks,
                "passages": [
                    {"field": one.field, "start": one.start, "end": one.end, "text": one.text, "marks": one.marks}
                    for one in row.passages
                ],
                "others": row.others,
            }
            | ({} if hits is None or row.key not in hits else {"hits": hits_told(hits[row.key])})
            for row in found.results
        ],
        "facets": {
            field: [{"value": one.value, "count": one.count} for one in values]
            for field, values in found.facets.items()
        },
        "did_you_mean": meant_told(found.did_you_mean),
        "notes": found.notes,
        "nearly": None if found.nearly is None else asdict(found.nearly),
        "left_out": found.left_out,
        "elapsed_ms": round(found.elapsed_ms, 2),
    }


def hits_told(found: FoundPage) -> list[dict[str, Any]]:
    """What a query matched on a page; places count UTF-16 units, boxes are x, y, width and height on the page."""
    stretches = in_utf16(found.page.text, [(hit.start, hit.end) for hit in found.hits])
    return [
        {
            "start": start,
            "end": end,
            "boxes": [[box.x, box.y, box.width, box.height] for box in hit.boxes],
            "before": hit.before,
            "letters": hit.letters,
            "after": hit.after,
        }
        for (start, end), hit in zip(stretches, found.hits, strict=True)
    ]


def page_told(shown: ShownPage) -> dict[str, Any]:
    """A page as a viewer gets it. words: start and end in its text, in UTF-16 units, then x, y, width and height of the
    box, the number of the line, and how sure the machine was; beside: the pages of its thing on which something was
    found."""
    page = shown.found.page
    places = shown.places.places
    stretches = in_utf16(page.text, [(one.start, one.end) for one in places])
    return {
        "key": page.key,
        "title": page.title,
        "thing": page.thing,
        "label": page.label,
        "text": page.text,
        "picture": page.picture,
        "width": page.width,
        "height": page.height,
        "words": [
            [start, end, one.box.x, one.box.y, one.box.width, one.box.height, one.line, one.confidence]
            for (start, end), one in zip(stretches, places, strict=True)
        ],
        "hits": hits_told(shown.found),
        "beside": [
            {"key": one.page.key, "label": one.page.label, "picture": one.page.picture, "hits": len(one.hits)}
            for one in shown.beside
        ],
    }


def meant_told(meant: DidYouMean | None) -> dict[str, Any] | None:
    """What a query may have meant. taken: whether its list is the one that is shown."""
    if meant is None:
        return None
    return {"query": meant.query, "finds": meant.finds, "taken": meant.taken}


def completions_told(found: Completed) -> dict[str, Any]:
    """Suggestions; gathering: whether they are still being gathered, so that there are none yet."""
    return {
        "completions": [{"text": one.text, "weight": one.weight} for one in found.completions],
        "gathering": found.gathering is not None,
    }


def about_told(told: About) -> dict[str, Any]:
    """How a page shows what it finds."""
    fields = [{"field": one.field, "length": one.length} for one in told.fields]
    return {
        "title": told.title,
        "picture": told.picture,
        "fields": fields,
        "facets": told.facets,
        "sorts": told.sorts,
        "pages": told.pages,
    }


def _as_csv(found: DeliveredList, _told: dict[str, Any], known: Known) -> bytes:
    key = next((field.name for field in known.fields if field.is_key), None)
    names = list(known.audience.shown)
    own = key if key in names else None

    def rows() -> Iterator[dict[str, Any]]:
        for row in found.results:
            yield row.field_values if own is not None else {"key": row.key} | row.field_values

    return b"".join(csv_lines(rows, names if own is not None else ["key", *names], own or "key"))


def _as_json_lines(found: DeliveredList, told: dict[str, Any], _known: Known) -> bytes:
    return b"".join(json_lines(lambda: iter(told["results"])))


_Writer = Callable[[DeliveredList, dict[str, Any], Known], bytes]
_WRITTEN: Final[Mapping[str, _Writer]] = {
    JSON: lambda _found, told, _known: as_json(told),
    CSV: _as_csv,
    JSON_LINES: _as_json_lines,
}
# In the order in which they are given where several are as welcome.
ANSWERS: Final = tuple(_WRITTEN)
