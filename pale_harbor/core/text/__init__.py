"""Text: chain notation, the stages of a chain, and the tokens they make."""

from pale_harbor.core.text.chain import Chain, StageTrace, chain_of
from pale_harbor.core.text.chain_choice import (
    ChainChoice,
    ChainsByLanguage,
    forgetful,
    query_chain_of,
    query_chains_of,
    record_chain_of,
)
from pale_harbor.core.text.errors import ChainError, NotationError, UnknownStage, WrongArgument, WrongOrder
from pale_harbor.core.text.moorings import Mooring, moorings
from pale_harbor.core.text.place import Place
from pale_harbor.core.text.tokens import Token, TokenTable

__all__ = [
    "Chain",
    "ChainChoice",
    "ChainError",
    "ChainsByLanguage",
    "Mooring",
    "NotationError",
    "Place",
    "StageTrace",
    "Token",
    "TokenTable",
    "UnknownStage",
    "WrongArgument",
    "WrongOrder",
    "chain_of",
    "forgetful",
    "moorings",
    "query_chain_of",
    "query_chains_of",
    "record_chain_of",
]
