"""What a query means, as a text: its words without its signs, and without what it wants left out."""

from pale_harbor.core.query.nodes import Both, Either, Group, InField, Node, Not, QueryWord, Quoted, Range
from pale_harbor.core.query.parser import ParsedQuery


def meant_text(query: ParsedQuery) -> str:
    """The words that vectors are made of; the query as it was typed, where it holds no sign.

    >>> from pale_harbor.core.query.parser import parse_query
    >>> meant_text(parse_query('"fog bell" -brass harbor'))
    'fog bell harbor'
    """
    if all(isinstance(node, QueryWord) and not (node.begins or node.ends) for node in query.root.nodes):
        return query.text.strip()
    return " ".join(text for text in _texts(query.root) if text)


def holds_quotes(query: ParsedQuery) -> bool:
    """Whether something stands in quotes anywhere."""
    return _holds_quotes(query.root)


def _holds_quotes(node: Node) -> bool:
    match node:
        case Quoted():
            return True
        case InField(node=inner) | Not(node=inner):
            return _holds_quotes(inner)
        case Both(nodes) | Either(nodes) | Group(nodes):
            return any(map(_holds_quotes, nodes))
        case _:
            return False


def _texts(node: Node) -> list[str]:
    match node:
        case QueryWord(text=text) | Quoted(text):
            return [text.strip()]
        case InField(node=inner):
            return _texts(inner)
        case Not() | Range():
            return []
        case Both(nodes) | Either(nodes) | Group(nodes):
            return [text for one in nodes for text in _texts(one)]
