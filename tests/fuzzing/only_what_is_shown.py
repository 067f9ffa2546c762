"""What the made-up requests of a visitor's key are held to, beside what the document says: no other field is shown."""

import os
from typing import Any

import schemathesis
from schemathesis import Case, CheckContext, Response

SHOWN = frozenset(os.environ.get("FUZZED_SHOWN", "").split())


@schemathesis.check
def only_what_may_be_shown(ctx: CheckContext, response: Response, case: "Case[Any]") -> None:
    """Rows, single records and counts name fields that the key may show, and no others."""
    if response.status_code != 200 or "json" not in str(response.headers.get("content-type", [""])[0]):
        return
    told: dict[str, Any] = response.json()
    if "about" in case.operation.label:
        seen = {told["title"], told["picture"], *told["facets"], *told["sorts"]} - {None}
        seen |= {one["field"] for one in told["fields"]}
    else:
        seen = {*told.get("fields", ()), *told.get("facets", ())}
        for row in told.get("results", ()):
            seen |= {*row["fields"], *row["marks"], *(one["field"] for one in row.get("passages", ()))}
    assert seen <= SHOWN, f"the key may not show {sorted(seen - SHOWN)}"
