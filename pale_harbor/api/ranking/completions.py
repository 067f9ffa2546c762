"""Completions and past queries over HTTP."""

from typing import Annotated, Final

from pydantic import BaseModel, ConfigDict, Field

from pale_harbor.api.models import QueryText, RankerChoiceModel
from pale_harbor.api.ranking.models import LanguageName
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.completing import Completed, SuggestionsTold, completions_for, suggestions_told
from pale_harbor.work.ranking.completion_costs import BeginsCost, begins_costs
from pale_harbor.work.ranking.past_queries import (
    PastQueriesTold,
    forget_past_queries,
    load_past_queries,
    past_queries_told,
)

router = guarded_router()

# What takes longer is told as it goes on: whoever asks again is told how far it is.
PATIENCE_S: Final = 0.7


class CompletionsRequest(BaseModel):
    """What was typed so far. language: only suggestions of it and of none."""

    model_config = ConfigDict(extra="forbid")

    typed: QueryText
    ranker: RankerChoiceModel = RankerChoiceModel()
    language: LanguageName | None = None
    top: Annotated[int, Field(ge=1, le=100)] = 10


class PastQueriesRequest(BaseModel):
    """A list of past queries as a file holds it: lines, CSV or JSON Lines. source: what it is called."""

    model_config = ConfigDict(extra="forbid")

    source: Annotated[str, Field(min_length=1, max_length=200)]
    text: str


@router.post("/collections/{collection}/completions")
def completions(collection: str, request: CompletionsRequest, bench: Bench) -> Completed:
    """Whole suggestions for what was typed, the best first; none that leads to nothing.

    While they are gathered, which goes on as long as somebody asks, it is told how far they are.
    """

    def work(opened: OpenCollection) -> Completed:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return completions_for(opened, chosen.ranker, request.typed, request.top, request.language, PATIENCE_S)

    return bench.with_collection(collection, work)


@router.post("/collections/{collection}/suggestions")
def suggestions(collection: str, request: RankerChoiceModel, bench: Bench) -> SuggestionsTold:
    """What there is to suggest with a ranker, and what it takes in memory."""

    def work(opened: OpenCollection) -> SuggestionsTold:
        return suggestions_told(opened, bench.choose(opened.collection, choice_of(request)).ranker, PATIENCE_S)

    return bench.with_collection(collection, work)


@router.post("/collections/{collection}/suggestions/costs")
def suggestions_costs(collection: str, request: RankerChoiceModel, bench: Bench) -> list[BeginsCost]:
    """Memory and speed by where in a suggestion typing may begin."""

    def work(opened: OpenCollection) -> list[BeginsCost]:
        return begins_costs(opened, bench.choose(opened.collection, choice_of(request)).ranker)

    return bench.with_collection(collection, work)


@router.get("/collections/{collection}/past-queries")
def past_queries(collection: str, bench: Bench) -> PastQueriesTold:
    """What visitors asked, as it was loaded, the most asked first."""
    return past_queries_told(bench, collection)


@router.put("/collections/{collection}/past-queries")
@largest_body(100_000_000)
def put_past_queries(collection: str, request: PastQueriesRequest, bench: Bench) -> PastQueriesTold:
    """Puts a list of past queries in the place of the one that was there; every line that is wrong is told."""
    return load_past_queries(bench, collection, request.text, request.source)


@router.delete("/collections/{collection}/past-queries", status_code=204)
def delete_past_queries(collection: str, bench: Bench) -> None:
    """Takes the past queries away."""
    forget_past_queries(bench, collection)
