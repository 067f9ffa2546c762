"""Chains over HTTP: the stages there are, two texts meeting, samples, consequences, saved chains."""

from typing import Annotated

import orjson
from fastapi import Query
from fastapi.responses import Response

from pale_harbor.api.chains.models import (
    CallModel,
    ChainModel,
    ChainRequest,
    ChainUseModel,
    ConsequencesAnswer,
    ConsequencesModel,
    ConsequencesRequest,
    Meeting,
    MeetRequest,
    ParameterInfo,
    ReckoningModel,
    SampleModel,
    StageInfo,
    consequences_model,
    mooring_model,
    stage_fields,
)
from pale_harbor.api.problems import Problem, chain_problem
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench, Reckoned
from pale_harbor.core.consequences import Consequences
from pale_harbor.core.text import Chain, ChainError, StageTrace, moorings
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import Pattern, Word, parse, printed
from pale_harbor.core.text.parameters import Parameter, parameters_of
from pale_harbor.core.text.stages import STAGES, kinds_named
from pale_harbor.formats.storable import well_formed
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.work.chains.consequences import Reckoning, findings
from pale_harbor.work.chains.uses import ChainUse, chains_in_use
from pale_harbor.work.records.samples import SampleBy, sample_values
from pale_harbor.work.workbench import Workbench

router = guarded_router()


@router.get("/stages")
def stages() -> list[StageInfo]:
    """Every stage a chain can be made of, in the order in which chains use them."""
    return [
        StageInfo(
            name=name,
            kind=kind,
            parameters=[_parameter_info(parameter) for parameter in parameters_of(stage).values()],
            summary=(stage.__doc__ or "").splitlines()[0],
            example=stage.example,
        )
        for kind, named in STAGES.items()
        for name, stage in named.items()
    ]


@router.post("/collections/{collection}/meet", response_model=Meeting)
def meet(collection: str, request: MeetRequest, bench: Bench) -> Response:
    """What each stage of both chains makes of the two texts, and which terms meet."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)

    def trace(chain: str, off: list[int], text: str) -> tuple[list[StageTrace], Problem | None]:
        return _traced(bench, kept, chain, frozenset(off), text)

    record_stages, record_problem = trace(request.record_chain, request.record_off, request.text)
    query_stages, query_problem = trace(request.query_chain, request.query_off, request.query)
    met = moorings(record_stages[-1].tokens, query_stages[-1].tokens) if record_stages and query_stages else []
    # A Meeting's fields, not a Meeting: checking thousands of tokens would double the time of a key press.
    fields = {
        "record_stages": [stage_fields(stage) for stage in record_stages],
        "query_stages": [stage_fields(stage) for stage in query_stages],
        "record_calls": [call.model_dump() for call in _calls(request.record_chain)],
        "query_calls": [call.model_dump() for call in _calls(request.query_chain)],
        "record_problem": record_problem and record_problem.model_dump(),
        "query_problem": query_problem and query_problem.model_dump(),
        "moorings": [mooring_model(mooring).model_dump() for mooring in met],
    }
    return Response(orjson.dumps(fields), media_type="application/json")


@router.get("/collections/{collection}/samples")
def samples(
    collection: str,
    bench: Bench,
    field: Annotated[str, Query(min_length=1, max_length=200)],
    by: SampleBy = SampleBy.CHANCE,
    word: Annotated[str, Query(max_length=200)] = "",
    seed: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
) -> list[SampleModel]:
    """Texts of a field to try a chain on."""
    found = sample_values(bench, collection, field, by, word, seed)
    return [SampleModel(key=key, text=well_formed(text)) for key, text in found]


@router.post("/collections/{collection}/consequences")
def consequences(collection: str, request: ConsequencesRequest, bench: Bench, figures: Reckoned) -> ConsequencesAnswer:
    """What a chain does to a field of the whole collection: from a sample, until it is all read."""
    kept, chains = _both_chains(bench, collection, request)
    reckoning = figures.begin(collection, request.field, chains[0])
    found = reckoning.result or figures.sample(collection, request.field, chains[0])
    return ConsequencesAnswer(
        figures=_with_findings(bench, kept, chains, request, found), reckoning=_reckoning_model(reckoning)
    )


@router.get("/reckonings/{reckoning_id}")
def reckoning(reckoning_id: str, figures: Reckoned) -> ReckoningModel:
    """How far the reading of a whole collection is."""
    return _reckoning_model(figures.find(reckoning_id))


@router.post("/reckonings/{reckoning_id}/cancel")
def cancel_reckoning(reckoning_id: str, figures: Reckoned) -> ReckoningModel:
    """Ends the reading of a whole collection; the sample's figures stay."""
    found = figures.find(reckoning_id)
    figures.cancel(found)
    return _reckoning_model(found)


@router.get("/collections/{collection}/chains")
def saved_chains(collection: str, bench: Bench) -> list[ChainModel]:
    """The newest version of each saved chain, and which rankers use the chain."""
    return [
        ChainModel(name=chain.name, version=chain.version, notation=chain.notation, used_by=_uses(uses))
        for chain, uses in chains_in_use(bench, collection)
    ]


@router.put("/collections/{collection}/chains/{name}")
def put_chain(collection: str, name: str, request: ChainRequest, bench: Bench) -> ChainModel:
    """Saves a chain as a new version of its name."""
    saved = bench.put_chain(collection, name, request.notation)
    uses = next((uses for chain, uses in chains_in_use(bench, collection) if chain.name == saved.name), [])
    return ChainModel(name=saved.name, version=saved.version, notation=saved.notation, used_by=_uses(uses))


def _traced(
    bench: Workbench, collection: Collection, chain: str, off: frozenset[int], text: str
) -> tuple[list[StageTrace], Problem | None]:
    try:
        return bench.chain(collection, chain, off).trace(text), None
    except ChainError as error:
        return [], chain_problem(error)


def _calls(notation: str) -> list[CallModel]:
    if notation.strip().startswith("@"):
        return []
    try:
        calls = parse(notation)
    except ChainError:
        return []
    cut = False
    found: list[CallModel] = []
    for call in calls:
        kinds = kinds_named(call.name)
        kind = StageKind.TOKEN if cut and StageKind.TOKEN in kinds else next(iter(kinds), None)
        cut = cut or kind is StageKind.TOKENIZER
        start, end = call.stretch
        found.append(CallModel(name=call.name, text=notation[start:end], start=start, end=end, kind=kind))
    return found


def _both_chains(
    bench: Workbench, collection: str, request: ConsequencesRequest
) -> tuple[Collection, tuple[Chain, Chain]]:
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
    return kept, (bench.chain(kept, request.record_chain), bench.chain(kept, request.query_chain))


def _with_findings(
    bench: Workbench,
    collection: Collection,
    chains: tuple[Chain, Chain],
    request: ConsequencesRequest,
    found: Consequences,
) -> ConsequencesModel:
    return consequences_model(found, findings(bench, collection, chains, request.query, request.judged_set, found))


def _reckoning_model(reckoning: Reckoning) -> ReckoningModel:
    return ReckoningModel(
        id=reckoning.id,
        state=reckoning.state,
        records_read=reckoning.records_read,
        records_in_all=reckoning.records_in_all,
        problem=reckoning.problem,
    )


def _uses(uses: list[ChainUse]) -> list[ChainUseModel]:
    return [
        ChainUseModel(
            ranker=use.ranker, ranker_version=use.ranker_version, chain_version=use.chain_version, fields=use.fields
        )
        for use in uses
    ]


def _parameter_info(parameter: Parameter) -> ParameterInfo:
    return ParameterInfo(
        name=parameter.name,
        wanted=parameter.wanted,
        choices=parameter.choices,
        list_kind=parameter.list_kind,
        least=parameter.bounds and parameter.bounds.least,
        most=parameter.bounds and parameter.bounds.most,
        default=None if parameter.required else _written(parameter.default),
    )


def _written(value: object) -> str:
    """A default as it would stand in notation."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case int():
            return printed(value)
        case Pattern():
            return printed(value)
        case str() if type(value) is str:
            return printed(value)
        case _:
            return printed(Word(str(value)))
