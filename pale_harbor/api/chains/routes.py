"""Chains over HTTP: the stages there are, two texts meeting, samples, consequences, saved chains."""

from collections.abc import Callable
from typing import Annotated, Final

import orjson
from fastapi import Query
from fastapi.responses import Response

from pale_harbor.api.chains.models import (
    CallModel,
    ChainRequest,
    ConsequencesRequest,
    Meeting,
    MeetRequest,
    ParameterInfo,
    StageInfo,
    stage_fields,
)
from pale_harbor.api.problems import Problem, chain_problem
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench, Reckoned
from pale_harbor.core.text import Chain, ChainError, StageTrace, moorings
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import Pattern, Word, as_notation, parse
from pale_harbor.core.text.parameters import Parameter, parameters_of
from pale_harbor.core.text.stages import STAGES, kinds_named
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.work.chains.consequences import ConsequencesTold, ReckoningTold, findings
from pale_harbor.work.chains.saved_parts import NamedChain, named_chain
from pale_harbor.work.chains.uses import ChainInUse, chains_in_use
from pale_harbor.work.records.samples import Sample, SampleBy, sample_values
from pale_harbor.work.workbench import RankerChoice, Workbench

router = guarded_router()

# Of an answer of some tens of millions of bytes.
MOST_LETTERS_SHOWN: Final = 2_000_000


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
    read_by = None if request.read_by is None else choice_of(request.read_by)

    def trace(chain: str, off: list[int], text: str) -> tuple[list[StageTrace], Problem | None]:
        return _trace_of(bench, kept, chain, frozenset(off), text, read_by)

    def calls(notation: str) -> list[dict[str, object]]:
        found = _calls(notation, lambda named: bench.saved_notation(kept, named, read_by))
        return [call.model_dump() for call in found]

    record_calls, query_calls = calls(request.record_chain), calls(request.query_chain)
    _refuse_too_much(len(request.text) * len(record_calls) + len(request.query) * len(query_calls))
    record_stages, record_problem = trace(request.record_chain, request.record_off, request.text)
    query_stages, query_problem = trace(request.query_chain, request.query_off, request.query)
    met = moorings(record_stages[-1].tokens, query_stages[-1].tokens) if record_stages and query_stages else []
    # A Meeting's fields, not a Meeting: checking thousands of tokens would double the time of a key press.
    fields = {
        "record_stages": [stage_fields(stage) for stage in record_stages],
        "query_stages": [stage_fields(stage) for stage in query_stages],
        "record_calls": record_calls,
        "query_calls": query_calls,
        "record_problem": record_problem and record_problem.model_dump(),
        "query_problem": query_problem and query_problem.model_dump(),
        "moorings": met,
    }
    return Response(orjson.dumps(fields), media_type="application/json")


def _refuse_too_much(letters: int) -> None:
    """letters: of the texts, once for each stage that is shown."""
    if letters > MOST_LETTERS_SHOWN:
        raise BadInput(
            f"This is too much to show at once: the letters of both texts times the stages of their chains are "
            f"{letters:,}; {MOST_LETTERS_SHOWN:,} are shown at most. Take a shorter piece of the text."
        )


@router.get("/collections/{collection}/samples")
def samples(
    collection: str,
    bench: Bench,
    field: Annotated[str, Query(min_length=1, max_length=200)],
    by: SampleBy = SampleBy.CHANCE,
    word: Annotated[str, Query(max_length=200)] = "",
    seed: Annotated[int, Query(ge=0, le=2**31 - 1)] = 0,
) -> list[Sample]:
    """Texts of a field to try a chain on."""
    return sample_values(bench, collection, field, by, word, seed)


@router.post("/collections/{collection}/consequences")
def consequences(collection: str, request: ConsequencesRequest, bench: Bench, figures: Reckoned) -> ConsequencesTold:
    """What a chain does to a field of the whole collection: from a sample, until it is all read."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
    read_by = None if request.read_by is None else choice_of(request.read_by)

    def chain_from(notation: str) -> Chain:
        return bench.chain(kept, notation, read_by=read_by)

    chains = chain_from(request.record_chain), chain_from(request.query_chain)
    reckoning = figures.begin(collection, request.field, chains[0])
    gathered = reckoning.result or figures.sample(collection, request.field, chains[0])
    found = findings(
        bench,
        kept,
        request.field,
        chains,
        gathered,
        chain_from=chain_from,
        query=request.query,
        judged_set=request.judged_set,
    )
    return ConsequencesTold(gathered.consequences, found, reckoning.told)


@router.get("/reckonings/{reckoning_id}")
def consequences_progress(reckoning_id: str, figures: Reckoned) -> ReckoningTold:
    """How far the reading of a whole collection is."""
    return figures.find(reckoning_id).told


@router.post("/reckonings/{reckoning_id}/cancel")
def cancel_reckoning(reckoning_id: str, figures: Reckoned) -> ReckoningTold:
    """Ends the reading of a whole collection; the sample's figures stay."""
    found = figures.find(reckoning_id)
    figures.cancel(found)
    return found.told


@router.get("/collections/{collection}/chains")
def saved_chains(collection: str, bench: Bench) -> list[ChainInUse]:
    """The newest version of each saved chain, and which rankers use the chain."""
    return chains_in_use(bench, collection)


@router.put("/collections/{collection}/chains/{name}")
def put_chain(collection: str, name: str, request: ChainRequest, bench: Bench) -> ChainInUse:
    """Saves a chain as a new version of its name."""
    saved = bench.put_chain(collection, name, request.notation)
    return next(chain for chain in chains_in_use(bench, collection) if chain.name == saved.name)


def _trace_of(
    bench: Workbench, collection: Collection, chain: str, off: frozenset[int], text: str, read_by: RankerChoice | None
) -> tuple[list[StageTrace], Problem | None]:
    try:
        return bench.chain(collection, chain, off, read_by).trace(text), None
    except ChainError as error:
        return [], chain_problem(error)


_TOKENIZER: Final = "words"


def _calls(notation: str, saved: Callable[[NamedChain], str]) -> list[CallModel]:
    """The stages as written, a saved chain as one; saved: what it says."""
    cut, moved = False, 0
    found: list[CallModel] = []
    try:
        named = named_chain(notation)
        if named is None:
            calls = parse(notation)
        else:
            start = notation.index("@")
            end = start + named.length
            name = notation[start:end]
            found = [CallModel(name=name, text=name, start=start, end=end, kind=None, saved=saved(named))]
            # What comes after it is read behind a tokenizer, since it has one.
            cut, moved = True, end - len(_TOKENIZER)
            calls = parse(_TOKENIZER + notation[end:])[1:]
    except (ChainError, NotFound):
        return found
    for call in calls:
        kinds = kinds_named(call.name)
        kind = StageKind.TOKEN if cut and StageKind.TOKEN in kinds else next(iter(kinds), None)
        cut = cut or kind is StageKind.TOKENIZER
        start, end = (place + moved for place in call.stretch)
        found.append(CallModel(name=call.name, text=notation[start:end], start=start, end=end, kind=kind))
    return found


def _parameter_info(parameter: Parameter) -> ParameterInfo:
    return ParameterInfo(
        name=parameter.name,
        wanted=parameter.wanted,
        choices=parameter.choices,
        list_kind=parameter.list_kind,
        least=parameter.bounds and parameter.bounds.least,
        most=parameter.bounds and parameter.bounds.most,
        default=None if parameter.required else _as_notation(parameter.default),
    )


def _as_notation(value: object) -> str:
    """A default as it would stand in notation."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case int():
            return as_notation(value)
        case Pattern():
            return as_notation(value)
        case str() if type(value) is str:
            return as_notation(value)
        case _:
            return as_notation(Word(str(value)))
