"""A market whose stalls the world may search: with names for visitors, and notes that are for its staff alone."""

from pathlib import Path
from typing import Any

from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.visitor_terms import VisitorTerms, visitor_terms
from pale_harbor.work.delivery.keeping import make_visitor_key
from pale_harbor.work.delivery.publishing import publish
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

STALLS = [
    {"id": "s1", "name": "Smoked eel", "place": "Quay", "price": 12, "staff": "owes rent since Candlemas"},
    {"id": "s2", "name": "Eel traps", "place": "Yard", "price": 30, "staff": "reliable"},
    {"id": "s3", "name": "Rope and twine", "place": "Quay", "price": 5, "staff": "eel in the yard, complained"},
    {"id": "s4", "name": "Twine", "place": "Yard", "price": 2, "staff": "closed until Lammas", "hidden": True},
]
READINGS = [
    {"field": "name", "chain": "words > lower", "weight": 2},
    {"field": "staff", "chain": "words > lower"},
]
FOR_ALL: dict[str, Any] = {"shown": ["id", "name", "place", "price"]}


def open_market(bench: Workbench, folder: Path) -> Workbench:
    """The market with its ranker, live."""
    load_rows(bench.pool, folder, STALLS, "market")
    bench.put_ranker("market", "stalls", ranker_document({"readings": READINGS}))
    publish(bench, "market", "stalls", 1, "opening day")
    return bench


def key_for(bench: Workbench, terms: dict[str, Any] | VisitorTerms, days: float | None = None) -> str:
    """What whoever has these terms shows."""
    wanted = terms if isinstance(terms, VisitorTerms) else visitor_terms(terms)
    return make_visitor_key(bench, "market", "the market's page", wanted, days).shown
