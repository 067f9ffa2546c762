"""What the made-up requests of somebody are held to, beside what the document says: nobody gets past their rights."""

import os
from typing import Any

import schemathesis
from schemathesis import Case, CheckContext, Response

from pale_harbor.api.rights import right_needed
from tests.api.people import EVERYBODY

# Who asks, told by whoever begins it; empty where nobody is known, and everybody may.
WHO = os.environ.get("FUZZED_AS", "")


@schemathesis.check
def nobody_gets_past_their_rights(ctx: CheckContext, response: Response, case: "Case[Any]") -> None:
    """An answer that is no refusal is one to somebody who has the right that the endpoint needs."""
    if WHO and response.status_code < 400:
        name = str(case.operation.definition.raw["operationId"])
        assert right_needed(name) in EVERYBODY[WHO], f"{WHO} got past their rights: {name} needs {right_needed(name)}."
