"""Query: the visitor's query language, and how a query was read."""

from pale_harbor.core.query.meant import holds_quotes, meant_text
from pale_harbor.core.query.nodes import Both, Either, Group, InField, Node, Not, QueryWord, Quoted, Range
from pale_harbor.core.query.parser import ParsedQuery, parse_query, runs_of_words
from pale_harbor.core.query.said import how_it_was_read

__all__ = [
    "Both",
    "Either",
    "Group",
    "InField",
    "Node",
    "Not",
    "ParsedQuery",
    "QueryWord",
    "Quoted",
    "Range",
    "holds_quotes",
    "how_it_was_read",
    "meant_text",
    "parse_query",
    "runs_of_words",
]
