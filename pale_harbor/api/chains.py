"""Chains over HTTP: the stages there are, two texts meeting, saved chains."""

from fastapi import APIRouter

from pale_harbor.api.models import (
    ChainModel,
    ChainRequest,
    Meeting,
    MeetRequest,
    StageInfo,
    mooring_model,
    stage_model,
)
from pale_harbor.api.problems import Problem, chain_problem
from pale_harbor.api.server_state import Bench
from pale_harbor.core.text import ChainError, StageTrace, moorings
from pale_harbor.core.text.binding import parameters_of
from pale_harbor.core.text.stages import STAGES, kind_of
from pale_harbor.store.chains import latest_chains
from pale_harbor.store.collections import Collection, collection_named

router = APIRouter()


@router.get("/stages")
def stages() -> list[StageInfo]:
    """Every stage a chain can be made of, in the order in which chains use them."""
    return [
        StageInfo(
            name=name,
            kind=kind_of(name),
            parameters=list(parameters_of(stage)),
            summary=(stage.__doc__ or "").splitlines()[0],
            example=stage.example,
        )
        for name, stage in STAGES.items()
    ]


@router.post("/collections/{collection}/meet")
def meet(collection: str, request: MeetRequest, bench: Bench) -> Meeting:
    """What each stage of both chains makes of the two texts, and which terms meet."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)

    def trace(chain: str, text: str) -> tuple[list[StageTrace], Problem | None]:
        return _traced(bench, kept, chain, text)

    record_stages, record_problem = trace(request.record_chain, request.text)
    query_stages, query_problem = trace(request.query_chain, request.query)
    met = moorings(record_stages[-1].tokens, query_stages[-1].tokens) if record_stages and query_stages else []
    return Meeting(
        record_stages=[stage_model(stage) for stage in record_stages],
        query_stages=[stage_model(stage) for stage in query_stages],
        record_problem=record_problem,
        query_problem=query_problem,
        moorings=[mooring_model(mooring) for mooring in met],
    )


def _traced(bench: Bench, collection: Collection, chain: str, text: str) -> tuple[list[StageTrace], Problem | None]:
    try:
        return bench.chain(collection, chain).trace(text), None
    except ChainError as error:
        return [], chain_problem(error)


@router.get("/collections/{collection}/chains")
def saved_chains(collection: str, bench: Bench) -> list[ChainModel]:
    """The newest version of each saved chain."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        chains = latest_chains(connection, kept.id)
    return [ChainModel(name=chain.name, version=chain.version, notation=chain.notation) for chain in chains]


@router.put("/collections/{collection}/chains/{name}")
def put_chain(collection: str, name: str, request: ChainRequest, bench: Bench) -> ChainModel:
    """Saves a chain as a new version of its name."""
    chain = bench.put_chain(collection, name, request.notation)
    return ChainModel(name=chain.name, version=chain.version, notation=chain.notation)
