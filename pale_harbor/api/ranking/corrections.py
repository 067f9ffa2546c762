"""Corrections over HTTP: what a query may have meant, and what they do."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from pale_harbor.api.models import RankerChoiceModel
from pale_harbor.api.ranking.models import QuestionModel
from pale_harbor.api.ranking.routes import choice_of, question_of
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.corrections import MOST_MADE_UP, CorrectionsMeasured, measure_corrections
from pale_harbor.work.ranking.asking import correction_of
from pale_harbor.work.ranking.corrected import DidYouMean

router = guarded_router()


class CorrectionsRequest(BaseModel):
    """What corrections are tried on. judged_set: its open queries; made_up: so many words and word pairs of the
    collection typed badly, and as many typed well."""

    model_config = ConfigDict(extra="forbid")

    ranker: RankerChoiceModel = RankerChoiceModel()
    judged_set: Annotated[str, Field(min_length=1, max_length=200)] | None = None
    made_up: Annotated[int, Field(ge=0, le=MOST_MADE_UP)] = 200
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0


@router.post("/collections/{collection}/corrections")
def correction(collection: str, request: QuestionModel, bench: Bench) -> DidYouMean | None:
    """What a query may have meant; null where it is right, or where that would not find clearly more."""

    def work(opened: OpenCollection) -> DidYouMean | None:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return correction_of(opened, chosen.ranker, question_of(opened, request))

    return bench.with_collection(collection, work)


@router.post("/collections/{collection}/corrections/measured")
def corrections_measured(collection: str, request: CorrectionsRequest, bench: Bench) -> CorrectionsMeasured:
    """What corrections do to a judged set with and without them, and to slips made from the collection's words."""
    choice = choice_of(request.ranker)
    return measure_corrections(bench, collection, request.judged_set, choice, request.made_up, request.seed)
